import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { curveValue } from '../music/index.ts';
import wavefile from 'wavefile';
import { FarloError } from '../errors/index.ts';
import {
  partFromSong,
  readSfz,
  readSmf,
  readWav,
  writeSmf,
  writeWav,
  type SfzRegion,
  type Song,
  type WavFormat,
} from './index.ts';
import { keymapOf } from '../testing/keymaps.ts';

/** Runs a reader over damaged bytes: it may refuse with a place, but never fail in another way. */
function survives(read: (bytes: Uint8Array) => unknown, bytes: Uint8Array): void {
  try {
    read(bytes);
  } catch (error) {
    expect(error).toBeInstanceOf(FarloError);
    expect((error as FarloError).place.file).toBeDefined();
  }
}

describe('WAV', () => {
  const audio = (format: WavFormat, channels = 2) => ({
    format,
    rate: 44100,
    channels: Array.from({ length: channels }, (_, c) =>
      Float32Array.from({ length: 50 }, (_v, i) => Math.sin(i / 3 + c) * 0.9),
    ),
  });
  it('reads what it wrote, in every format', () => {
    for (const format of ['i16', 'i24', 'i32', 'f32'] as const) {
      const read = readWav(writeWav(audio(format)), 'a.wav');
      expect([read.format, read.rate, read.channels.length]).toEqual([format, 44100, 2]);
      const step = format === 'i16' ? 1 / 32768 : 1 / 4e6;
      read.channels[1].forEach((v, i) =>
        expect(Math.abs(v - audio(format).channels[1][i])).toBeLessThan(step),
      );
    }
  });
  it('rounds to 16 bits, holds what is too loud, and writes silence for what is no number', () => {
    const steps = [
      0, 0.4, 0.5, 0.6, -0.4, -0.6, 1.5, -1.6, 32766.4, 32766.6, 32768, 99_999, -32767.6, -32768.4, -99_999,
    ];
    const wanted = [0, 0, 1, 1, 0, -1, 2, -2, 32766, 32767, 32767, 32767, -32768, -32768, -32768];
    const channel = Float32Array.from([...steps.map((value) => value / 32768), NaN, Infinity, -Infinity]);
    const bytes = writeWav({ rate: 48_000, format: 'i16', channels: [channel] });
    expect([...new Int16Array(bytes.slice(-2 * channel.length).buffer)]).toEqual([
      ...wanted,
      0,
      32767,
      -32768,
    ]);
  });
  it('agrees with another library both ways', () => {
    const theirs = new wavefile.WaveFile();
    theirs.fromScratch(1, 48000, '16', [0, 1000, -32768, 32767]);
    expect([...readWav(theirs.toBuffer(), 'b.wav').channels[0]].map((v) => v * 32768)).toEqual([
      0, 1000, -32768, 32767,
    ]);
    const ours = new wavefile.WaveFile(writeWav(audio('i24', 1)));
    expect([
      (ours.fmt as { bitsPerSample: number }).bitsPerSample,
      (ours.fmt as { sampleRate: number }).sampleRate,
    ]).toEqual([24, 44100]);
  });
  it('refuses truncation at every byte with a place', () => {
    const whole = writeWav(audio('i16'));
    for (let cut = 0; cut < whole.length; cut++)
      expect(() => readWav(whole.subarray(0, cut), 'c.wav')).toThrow(FarloError);
  });
  it('survives damaged bytes', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(143), fc.nat(255)), { minLength: 1, maxLength: 6 }), (changes) => {
        const bytes = writeWav(audio('i16')).slice();
        for (const [at, value] of changes) bytes[at] = value;
        survives((b) => readWav(b, 'd.wav'), bytes);
      }),
      { numRuns: 2000 },
    );
  });
  it('says what is wrong with files of another kind', () => {
    expect(() => readWav(new TextEncoder().encode('fLaC and more bytes here'), 'e.wav')).toThrow(
      /begins with “fLaC”/,
    );
  });
});

describe('SFZ', () => {
  const files = (list: Record<string, string>) => (path: string) => list[path];
  const regions = (text: string, more: Record<string, string> = {}) =>
    readSfz('a.sfz', files({ 'a.sfz': text, ...more })).regions;
  const value = (region: SfzRegion, name: string) => region.opcodes.get(name)?.value;

  it('inherits from global, master and group, and a new header clears those below', () => {
    const read = regions(
      '<global>volume=-3\n<master>pan=5\n<group>key=60 <region>sample=a.wav\n<region>sample=b.wav key=61\n<master>tune=2\n<region>sample=c.wav',
    );
    expect(read.map((r) => [value(r, 'volume'), value(r, 'pan'), value(r, 'key'), value(r, 'tune')])).toEqual(
      [
        ['-3', '5', '60', undefined],
        ['-3', '5', '61', undefined],
        ['-3', undefined, undefined, '2'],
      ],
    );
  });
  it('reads comments, defines, includes, default paths, and names with spaces and equals signs', () => {
    const read = regions(
      '#define $K 60 // middle\n#define $KK 72\n<control>default_path=my samples/ /* over\n lines */\n<region>key=$KK sample=a = b 1.wav lovel=3\n#include "more.inc"',
      { 'more.inc': '<region> key=$K sample=..\\other\\c.wav' },
    );
    expect(read.map((r) => [value(r, 'key'), value(r, 'sample'), value(r, 'lovel')])).toEqual([
      ['72', 'my samples/a = b 1.wav', '3'],
      ['60', 'other/c.wav', undefined],
    ]);
  });
  it('takes a key for lowest, highest and root at once: what stands further out is over', () => {
    const [first, second, third] = regions(
      '<group> lokey=10 hikey=20 pitch_keycenter=15\n<region> sample=a.wav key=40\n<region> sample=b.wav\n<group> key=50\n<region> sample=c.wav hikey=60',
    );
    const keys = (region: SfzRegion) =>
      ['key', 'lokey', 'hikey', 'pitch_keycenter'].map((name) => value(region, name));
    expect(keys(first)).toEqual(['40', undefined, undefined, undefined]);
    expect(keys(second)).toEqual([undefined, '10', '20', '15']);
    expect(keys(third)).toEqual(['50', undefined, '60', undefined]);
  });
  it('passes over headers it has no use for, and tells each once', () => {
    const { regions: read, passed } = readSfz(
      'a.sfz',
      files({
        'a.sfz':
          '<curve> curve_index=7 v000=0 v127=1\n<effect> bus=main type=reverb\n<midi>\nstrange=1\n<region> sample=a.wav\n<curve> curve_index=8\n<region> sample=b.wav',
      }),
    );
    expect(read.map((region) => value(region, 'sample'))).toEqual(['a.wav', 'b.wav']);
    expect(read.every((region) => !region.opcodes.has('curve_index'))).toBe(true);
    expect(passed.map(({ opcode, place: { line } }) => [opcode, line])).toEqual([
      ['<curve>', 1],
      ['<effect>', 2],
      ['<midi>', 3],
    ]);
  });
  it('tells names that stand for nothing, with their line', () => {
    const { passed } = readSfz(
      'a.sfz',
      files({ 'a.sfz': '#define $K 60\n<region> sample=$own.wav key=$K\n\nlovel=$SOFT\nhivel=$SOFT' }),
    );
    expect(passed.map(({ opcode, place: { line } }) => [opcode, line])).toEqual([['$SOFT', 4]]);
  });
  it('knows where controllers rest', () => {
    const { rests, passed } = readSfz(
      'a.sfz',
      files({
        'a.sfz':
          '<control> set_cc20=90 set_hdcc21=0.5 set_cc22=300 set_cc200=1 set_cc23=-4\n<region> sample=a.wav',
      }),
    );
    expect([...rests]).toEqual([
      [20, 90],
      [21, 63.5],
      [22, 127],
      [23, 0],
    ]);
    expect(passed.map(({ opcode }) => opcode)).toEqual(['set_cc200']);
    expect(() => regions('<control> set_cc20=loud')).toThrow('is no number');
  });
  it('names the line of what it cannot take', () => {
    const place = (text: string, more = {}) => {
      try {
        regions(text, more);
      } catch (error) {
        return { ...(error as FarloError).place, code: (error as FarloError).code };
      }
      return undefined;
    };
    expect(place('<region>\nsample=a.wav\nrubbish here')).toMatchObject({ line: 3, code: 'sfz.syntax' });
    expect(place('<region> sample=../../etc/x.wav')).toMatchObject({
      line: 1,
      code: 'sfz.path-leaves-folder',
    });
    expect(place('<region> sample=C:/x.wav')).toMatchObject({ code: 'sfz.path-leaves-folder' });
    expect(place('#include "b.inc"', { 'b.inc': '\n#include "b.inc"' })).toMatchObject({
      file: 'b.inc',
      line: 2,
      code: 'sfz.include-cycle',
    });
    expect(place('#include "gone.inc"')).toMatchObject({ line: 1, code: 'sfz.sample-missing' });
    expect(place('/* never closed')).toMatchObject({ line: 1, code: 'sfz.syntax' });
    expect(place('volume=3')).toMatchObject({ line: 1 });
  });
});

describe('Standard MIDI File', () => {
  const song: Song = {
    tempos: [
      { tick: 0, bpm: 84 },
      { tick: 1920, bpm: 120 },
    ],
    metres: [
      { tick: 0, numerator: 3, denominator: 4 },
      { tick: 2880, numerator: 6, denominator: 8 },
    ],
    keys: [
      { tick: 0, fifths: -3 },
      { tick: 2880, fifths: 4 },
    ],
    texts: [{ tick: 0, text: 'Leuchtfeuer – 灯' }],
    tracks: [
      {
        name: 'Violins I',
        channel: 0,
        notes: [
          { startTick: 0, endTick: 960, key: 67, velocity: 80, syllable: 'lan-' },
          { startTick: 960, endTick: 961, key: 67, velocity: 1 },
        ],
        controls: [
          { tick: 10, controller: 1, value: 64 },
          { tick: 20, controller: 128, value: 80 },
        ],
        programs: [{ tick: 0, program: 40 }],
        texts: [],
      },
    ],
  };
  it('reads back what it wrote', () => {
    const read = readSmf(writeSmf(song), 'a.mid');
    expect(read.tempos.map((t) => [t.tick, Math.round(t.bpm * 100) / 100])).toEqual([
      [0, 84],
      [1920, 120],
    ]);
    expect({ ...read, tempos: song.tempos }).toEqual(song);
  });
  it('keeps random notes', () => {
    const notes = fc.uniqueArray(
      fc.record({
        startTick: fc.nat(50_000),
        length: fc.integer({ min: 1, max: 3 }),
        key: fc.nat(127),
        velocity: fc.integer({ min: 1, max: 127 }),
      }),
      { maxLength: 60, selector: (n) => `${n.key} ${n.startTick >> 2}` },
    );
    fc.assert(
      fc.property(notes, (list) => {
        const made = list
          .map(({ startTick, length, key, velocity }) => ({
            startTick: (startTick >> 2) << 2,
            endTick: ((startTick >> 2) << 2) + length,
            key,
            velocity,
          }))
          .sort((a, b) => a.startTick - b.startTick || a.key - b.key);
        const read = readSmf(writeSmf({ ...song, tracks: [{ ...song.tracks[0], notes: made }] }), 'b.mid');
        expect(read.tracks[0].notes).toEqual(made);
      }),
      { numRuns: 100 },
    );
  });
  it('reads type 0 with running status at another resolution, channel by channel', () => {
    const events = [0, 0x90, 60, 100, 48, 60, 0, 0, 0x91, 40, 90, 96, 40, 0, 0, 0xff, 0x2f, 0];
    const bytes = new Uint8Array(
      [...'MThd']
        .map((c) => c.charCodeAt(0))
        .concat(
          [0, 0, 0, 6, 0, 0, 0, 1, 0, 96],
          [...'MTrk'].map((c) => c.charCodeAt(0)),
          [0, 0, 0, events.length],
          events,
        ),
    );
    const read = readSmf(bytes, 'c.mid');
    expect(read.tracks.map((t) => t.notes)).toEqual([
      [{ startTick: 0, endTick: 480, key: 60, velocity: 100 }],
      [{ startTick: 480, endTick: 1440, key: 40, velocity: 90 }],
    ]);
  });
  it('refuses truncation at every byte', () => {
    const whole = writeSmf(song);
    for (let cut = 0; cut < whole.length; cut++)
      expect(() => readSmf(whole.subarray(0, cut), 'd.mid')).toThrow(FarloError);
  });
  it('survives damaged bytes', () => {
    const whole = writeSmf(song);
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { minLength: 1, maxLength: 5 }),
        (changes) => {
          const bytes = whole.slice();
          for (const [at, value] of changes) bytes[at] = value;
          survives((b) => readSmf(b, 'e.mid'), bytes);
        },
      ),
      { numRuns: 3000 },
    );
  });
});

describe('MIDI into a part', () => {
  it('tells dense controllers with few points, none of them half a step off', () => {
    // A swell as a fader sends it, in whole steps.
    const sent = Array.from({ length: 400 }, (_, i) => ({
      tick: 10 * i,
      controller: 11,
      value: Math.round(i < 200 ? (i * 127) / 200 : 127 - ((i - 200) * 60) / 200),
    }));
    const track = { name: '', channel: 0, notes: [], controls: sent, programs: [], texts: [] };
    const { points } = partFromSong([track], undefined, 'long', 4000);
    expect(points.length).toBeLessThan(70);
    const curve = points.map((point, i) => ({ ...point, id: String(i) }));
    for (const { tick, value } of sent)
      expect(Math.abs(curveValue(curve, tick, 0) - value)).toBeLessThan(0.5);
  });
  it('turns known keyswitches into marks that begin with their note', () => {
    const n = (startTick: number, key: number) => ({
      startTick,
      endTick: startTick + 400,
      key,
      velocity: 90,
    });
    const part = partFromSong(
      [
        {
          name: '',
          channel: 0,
          notes: [n(0, 24), n(40, 67), n(1900, 25), n(1920, 69), n(2880, 71)],
          controls: [
            { tick: 0, controller: 1, value: 10 },
            { tick: 960, controller: 1, value: 90 },
          ],
          programs: [],
          texts: [],
        },
      ],
      keymapOf({ long: 24, staccato: 25 }),
      'connected',
      3840,
    );
    expect(part.notes.map((note) => note.key)).toEqual([67, 69, 71]);
    expect(part.marks).toEqual([
      { startTick: 40, endTick: 1920, articulation: 'long' },
      { startTick: 1920, endTick: 3840, articulation: 'staccato' },
    ]);
    expect(part.switches).toBe(2);
    expect(part.points.map((p) => [p.tick, p.value])).toEqual([
      [0, 10],
      [959, 10],
      [960, 90],
    ]);
  });
});
