import { describe, expect, it } from 'vitest';
import { mixDown } from '../balance/index.ts';
import { ownSoundMemory, type EngineEvent } from '../engine/index.ts';
import { PLAIN_POSITION, type TrackMix } from '../mixing/index.ts';
import { instrumentOf, mixOf, plainZone, sine, startEvent } from '../testing/fixtures.ts';
import { bounce, renderApart } from './index.ts';

const audio = new Map([
  ['near', sine(440, 1, 0.4)],
  ['far', sine(660, 1, 0.2)],
]);
const zone = plainZone({ samples: { close: { sample: 'near' }, far: { sample: 'far' } } });
const instrument = instrumentOf([{ id: 'long', name: 'long', zones: [zone] }], audio, ['close', 'far']);
const events: EngineEvent[] = [
  startEvent({ key: 69 }),
  startEvent({ key: 72, sound: 2, frame: 9000 }),
  { kind: 'stop', track: 0, frame: 20_000, sound: 1, fadeSeconds: -1, release: false },
];
const FRAMES = 30_000;

/** What the engine itself makes of a mix. */
function heard(mix: TrackMix): [Float32Array, Float32Array] {
  const out: [Float32Array, Float32Array] = [new Float32Array(FRAMES), new Float32Array(FRAMES)];
  let at = 0;
  bounce(
    {
      instruments: [{ instrument, audio }],
      tracks: [{ instrumentId: instrument.id, mix }],
      hall: null,
      hallMix: { earlyDb: 0, tailDb: 0 },
      events,
      endFrame: FRAMES,
    },
    (left, right) => {
      const count = Math.max(0, Math.min(left.length, FRAMES - at));
      out[0].set(left.subarray(0, count), Math.min(at, FRAMES));
      out[1].set(right.subarray(0, count), Math.min(at, FRAMES));
      at += left.length;
    },
    () => undefined,
  );
  return out;
}
const most = (a: Float32Array, b: Float32Array) =>
  a.reduce((all, v, i) => Math.max(all, Math.abs(v - b[i])), 0);

describe('positions rendered apart', () => {
  const apart = renderApart(
    { instrument, audio, events, frames: FRAMES, positions: ['close', 'far'] },
    ownSoundMemory(),
  );
  it('are the engine’s, each as if it were alone', () => {
    for (const { id, left, right } of apart) {
      const [ownLeft, ownRight] = heard(mixOf([id]));
      expect([most(left, ownLeft), most(right, ownRight)]).toEqual([0, 0]);
      expect(left.length).toBe(FRAMES);
    }
  });
  it('add up to what the engine plays with any mix, to below −100 dB', () => {
    const mix: TrackMix = {
      ...mixOf([]),
      positions: {
        close: { ...PLAIN_POSITION, levelDb: -5, pan: 0.3, width: 0.5, inverted: true, delayMs: 5 },
        far: { ...PLAIN_POSITION, levelDb: 2, eq: [{ shape: 'peak', hertz: 660, gainDb: -6, q: 1 }] },
      },
      eq: [{ shape: 'high shelf', hertz: 500, gainDb: 4, q: 0.7 }],
    };
    const [left, right] = mixDown(apart, mix);
    const [ownLeft, ownRight] = heard(mix);
    expect(Math.max(most(left, ownLeft), most(right, ownRight))).toBeLessThan(1e-5);
  });
  it('are only those that are wanted, and silent where nothing plays', () => {
    const [only] = renderApart(
      { instrument, audio, events: [], frames: 1000, positions: ['far'] },
      ownSoundMemory(),
    );
    expect(only.id).toBe('far');
    expect(only.left.every((v) => v === 0)).toBe(true);
  });
});
