import { describe, expect, it } from 'vitest';
import { PowerTape } from '../testing/ear/k-level.ts';
import { instrumentOf, mixOf, plainZone, sine, startEvent, whiteNoise } from '../testing/fixtures.ts';
import { Engine, prepareInstrument, type SampleAudio } from './index.ts';

/** Recorded ends of notes: they follow the note that ends, whatever it was struck with. */

const RATE = 48_000;
const END = 1;

/** A wave of 441.7 Hz whose level is a function of time, begun at a share of its period. */
function wave(seconds: number, level: (t: number) => number, phase = 0): SampleAudio {
  const frames = Math.round(seconds * RATE);
  const data = new Float32Array(frames * 2);
  for (let i = 0; i < frames; i++)
    data[2 * i] = data[2 * i + 1] =
      0.3 * level(i / RATE) * Math.sin(2 * Math.PI * ((441.7 * i) / RATE + phase));
  return { data, channels: 2, frames, rate: RATE };
}

const falling = (level: number, phase = 0) => wave(0.8, (t) => level * Math.exp(-t / 0.15), phase);

function damper(): SampleAudio {
  const frames = 0.1 * RATE;
  const noise = whiteNoise(frames, 7);
  const data = Float32Array.from({ length: 2 * frames }, (_, i) => 0.03 * noise[i >> 1]);
  return { data, channels: 2, frames, rate: RATE };
}

/** Holds a note for a second and lets it go. @returns the K-weighted level over time */
function letGo(note: SampleAudio, release: SampleAudio, more: { releaseSeconds?: number } = {}) {
  const audio = new Map([
    ['note', note],
    ['release', release],
  ]);
  const envelope = { attackSeconds: 0, holdSeconds: 0, decaySeconds: 0, sustain: 1, releaseSeconds: 0.2 };
  Object.assign(envelope, more);
  const zones = [
    plainZone({ samples: { mix: { sample: 'note' } }, envelope }),
    plainZone({ samples: { mix: { sample: 'release' } }, role: 'release', oneShot: true }),
  ];
  const instrument = instrumentOf([{ id: 'long', name: 'long', zones }], audio);
  const engine = new Engine(8);
  engine.ensureTracks(1);
  engine.tracks[0].setInstrument(prepareInstrument(instrument, audio));
  engine.tracks[0].setMix(mixOf(['mix']), RATE);
  engine.reset();
  engine.setEvents([
    startEvent({ sound: 1, frame: 0 }),
    { kind: 'stop', track: 0, frame: END * RATE, sound: 1, fadeSeconds: -1, release: true },
  ]);
  const frames = 2 * RATE;
  const [left, right] = [new Float32Array(frames), new Float32Array(frames)];
  for (let at = 0; at + 128 <= frames; at += 128)
    engine.renderMix(left.subarray(at, at + 128), right.subarray(at, at + 128));
  return { tape: new PowerTape([left, right]), left };
}

const steady = () => wave(3, () => 1);
const at = (tape: PowerTape, seconds: number) => tape.db(END + seconds - 0.01, END + seconds + 0.01);

describe('the recorded end of a note', () => {
  it.each([0, 0.2, 0.5, 0.8])('takes the tone over in step, begun at %f of a period', (phase) => {
    const { tape } = letGo(steady(), falling(1, phase));
    const before = tape.db(0.5, 0.9);
    // From now on it falls by e in 150 ms: −0.58 dB every 10 ms.
    for (const t of [0, 0.02, 0.04, 0.1, 0.2]) {
      const fallen = (20 * t * Math.LOG10E) / 0.15;
      expect(Math.abs(at(tape, t) - before + fallen), `${t} s`).toBeLessThan(1.5);
    }
  });
  it('has the level that the note had: quiet ones end quietly', () => {
    for (const level of [1, 0.3, 0.05]) {
      const { tape } = letGo(
        wave(3, () => level),
        falling(1),
      );
      const fallen = (20 * 0.06 * Math.LOG10E) / 0.15;
      expect(Math.abs(at(tape, 0.06) - tape.db(0.5, 0.9) + fallen), `${level}`).toBeLessThan(1.5);
    }
  });
  it('follows a note that has died away by itself', () => {
    const { tape } = letGo(
      wave(3, (t) => Math.exp(-t / 0.2)),
      falling(1),
    );
    // After a second the note has fallen by 43 dB; its end goes on from there.
    expect(at(tape, 0.1)).toBeLessThan(at(tape, -0.05) + 1);
    expect(at(tape, 0.1)).toBeGreaterThan(at(tape, -0.05) - 12);
  });
  it('is not lifted without end out of a very quiet recording', () => {
    const { tape } = letGo(steady(), falling(0.01));
    // Recorded 40 dB below the note: raised by 6 dB at most.
    expect(at(tape, 0.1) - tape.db(0.5, 0.9)).toBeLessThan(-34 + 1);
  });
  it('only joins it when it is a noise: the note keeps its own fade', () => {
    const { tape } = letGo(steady(), damper());
    const { tape: bare } = letGo(
      steady(),
      wave(0.1, () => 0),
    );
    const [noisy, plain] = [at(tape, 0.08), at(bare, 0.08)];
    expect(plain - bare.db(0.5, 0.9)).toBeGreaterThan(-6);
    expect(Math.abs(noisy - plain)).toBeLessThan(0.5);
    // The noise itself is as loud as it was recorded: heard when the note has gone.
    const { tape: quick } = letGo(steady(), damper(), { releaseSeconds: 0.01 });
    expect(at(quick, 0.06) - at(letGo(steady(), sine(1, 0.1, 0)).tape, 0.5)).toBeGreaterThan(20);
  });
  it('begins without a jump', () => {
    const { left } = letGo(steady(), falling(1, 0.5));
    let jump = 0;
    for (let i = END * RATE - 500; i < END * RATE + 4000; i++)
      jump = Math.max(jump, Math.abs(left[i] - left[i - 1]));
    // A sine of 0.3 at 441.7 Hz goes by 0.0173 a frame at most; two of them cross here.
    expect(jump).toBeLessThan(0.03);
  });
});
