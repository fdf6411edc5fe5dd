import { describe, expect, it } from 'vitest';
import { readWav, writeWav } from '#core/formats/index.ts';
import { buildFont } from '#core/testing/built-font.ts';
import { memorySource } from './file-source.ts';
import { hearSample } from './hear-sample.ts';
import { propose } from './propose.ts';

const RATE = 8000;
const recording = (seconds: number) =>
  writeWav({
    rate: RATE,
    format: 'i24',
    channels: [0.5, -0.25].map((value) => new Float32Array(seconds * RATE).fill(value)),
  });
const source = memorySource(
  new Map([
    ['Pipes/Low.wav', recording(6)],
    ['broken.wav', new TextEncoder().encode('no sound at all')],
  ]),
);

describe('what is heard before it is taken in', () => {
  it('is the beginning of the recording, faded at its end, as any browser plays it', async () => {
    const heard = readWav(await hearSample(source, 'pipes/low.WAV'), 'heard.wav');
    expect([heard.rate, heard.format, heard.channels[0].length]).toEqual([RATE, 'i16', 4 * RATE]);
    expect(heard.channels.map((channel) => channel[100])).toEqual([
      expect.closeTo(0.5, 3),
      expect.closeTo(-0.25, 3),
    ]);
    expect(Math.abs(heard.channels[0][4 * RATE - 1])).toBeLessThan(0.01);
  });
  it('is refused with a sentence where it is not there, or cannot be read', async () => {
    for (const sample of ['gone.wav', 'sample 3', '../../etc/passwd', ''])
      await expect(hearSample(source, sample)).rejects.toThrow(/not among the files/);
    await expect(hearSample(source, 'broken.wav')).rejects.toThrow(/WAV/);
  });
  it('is of the font it is asked of, among several, whatever they are called', async () => {
    const font = (name: string, rate: number) =>
      buildFont({
        presets: [{ name, zones: [{ generators: [[41, 0]] }] }],
        instruments: [{ name, zones: [{ generators: [[53, 0]] }] }],
        samples: [{ name, frames: 4000, rate }],
      });
    const fonts = memorySource(
      new Map([
        ['Fonts/low.sf2', font('Low organ', 8000)],
        ['Fonts/High.SF3', font('High organ', 16_000)],
      ]),
    );
    const { instruments, words } = await propose(
      fonts,
      { id: 'i', name: 'Both', remembered: {}, names: {} },
      () => undefined,
    );
    expect(instruments.map(({ name }) => name).sort()).toEqual(['High organ', 'Low organ']);
    for (const { name, example } of [...instruments, ...words.map((one) => ({ ...one, name: one.text }))]) {
      const { rate } = readWav(await hearSample(fonts, example ?? ''), 'heard.wav');
      expect([name, rate]).toEqual([name, name.startsWith('Low') ? 8000 : 16_000]);
    }
    await expect(hearSample(fonts, 'Fonts/low.sf2: sample 99')).rejects.toThrow(/not among the files/);
    await expect(hearSample(fonts, 'Fonts/none.sf2: sample 0')).rejects.toThrow(/not among the files/);
  });
  it('is not looked for in a font too large to be read for one note', async () => {
    let reads = 0;
    const large = {
      paths: ['Large.sf2'],
      size: () => 300e6,
      read: () => {
        reads++;
        return Promise.resolve(new Uint8Array(8));
      },
      close: () => Promise.resolve(),
    };
    await expect(hearSample(large, 'Large.sf2: sample 3')).rejects.toThrow(/too large to be heard/);
    expect(reads).toBe(0);
    await expect(hearSample({ ...large, size: () => 8 }, 'Large.sf2: sample 3')).rejects.toThrow(
      /no SoundFont/,
    );
  });
});
