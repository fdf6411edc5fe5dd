import { describe, expect, it } from 'vitest';
import { type EngineEvent, type SampleAudio } from '../engine/index.ts';
import { PLAIN_POSITION, type TrackMix } from '../mixing/index.ts';
import { instrumentOf, mixOf, plainZone, startEvent } from '../testing/fixtures.ts';
import { bounce, divideByStem, type BounceOrder } from './index.ts';

/** Two seconds of a sine that begins somewhere in its period. */
function wave(level: number, phase: number): SampleAudio {
  const data = new Int16Array(2 * 96_000);
  for (let i = 0; i < 96_000; i++)
    data[2 * i] = data[2 * i + 1] = Math.round(
      32_767 * level * Math.sin((2 * Math.PI * 441.7 * i) / 48_000 + phase),
    );
  return { data, channels: 2, frames: 96_000, rate: 48_000 };
}

// What lies between the first recording and the second differs from position to position.
const audio = new Map([
  ['a close', wave(0.3, 0)],
  ['a far', wave(0.2, 1)],
  ['b close', wave(0.3, 2.4)],
  ['b far', wave(0.2, 5.2)],
]);
const zone = (sample: string) =>
  plainZone({ samples: { close: { sample: `${sample} close` }, far: { sample: `${sample} far` } } });
const instrument = {
  ...instrumentOf(
    [
      { id: 'long', name: 'long', zones: [zone('a')] },
      { id: 'muted', name: 'muted', zones: [zone('b')] },
    ],
    audio,
    ['close', 'far'],
  ),
  id: 'two',
};
const mix: TrackMix = {
  ...mixOf(['close', 'far']),
  pan: -0.3,
  eq: [{ shape: 'peak', hertz: 500, gainDb: 4, q: 1 }],
};
/** A note, and one that takes over from it where both waves agree. */
const connected = (track: number): EngineEvent[] => [
  startEvent({ track, sound: 1, frame: 0 }),
  { kind: 'stop', track, frame: 24_000, sound: 1, fadeSeconds: 0.08, release: false },
  startEvent({
    track,
    sound: 2,
    articulation: 1,
    frame: 24_000,
    offsetSeconds: 0.5,
    fadeInSeconds: 0.08,
    joins: 1,
    alignSeconds: 0.012,
  }),
];
const order: BounceOrder = {
  instruments: [{ instrument, audio }],
  tracks: [
    { instrumentId: 'two', mix },
    { instrumentId: null, mix: { ...mix, positions: {} } },
    { instrumentId: 'two', mix: { ...mix, gainDb: -3 } },
  ],
  hall: null,
  hallMix: { earlyDb: 0, tailDb: 0 },
  events: [...connected(0), ...connected(2)].sort((a, b) => a.frame - b.frame),
  endFrame: 48_000,
};
const only = (divided: BounceOrder, tracks: readonly number[]): BounceOrder => ({
  ...divided,
  events: divided.events.filter((event) => tracks.includes(event.track)),
});
function left(of: BounceOrder): Float32Array {
  const all: number[] = [];
  bounce(
    of,
    (block) => all.push(...block),
    () => undefined,
  );
  return Float32Array.from(all.slice(0, 60_000));
}
const apart = (a: Float32Array, b: (i: number) => number) =>
  a.reduce((most, value, i) => Math.max(most, Math.abs(value - b(i))), 0);

describe('stems that positions go to', () => {
  it('are parts of tracks that add up to the whole, joins of notes included', () => {
    const { order: divided, groups } = divideByStem(order, (track, id) =>
      track === 0 && id === 'close' ? 'Dry' : 'Strings',
    );
    expect(groups).toEqual([
      { name: 'Dry', tracks: [0] },
      { name: 'Strings', tracks: [1, 3] },
    ]);
    expect(divided.tracks.map(({ instrumentId }) => instrumentId)).toEqual(['two', 'two', null, 'two']);
    expect(divided.events.map(({ track, frame }) => `${track} at ${frame / 24_000}`)).toEqual([
      '0 at 0',
      '1 at 0',
      '3 at 0',
      '0 at 1',
      '1 at 1',
      '0 at 1',
      '1 at 1',
      '3 at 1',
      '3 at 1',
    ]);
    const whole = left(order);
    const [dry, strings] = groups.map(({ tracks }) => left(only(divided, tracks)));
    expect(apart(whole, (i) => dry[i] + strings[i])).toBeLessThan(1e-6);
    expect(apart(dry, () => 0)).toBeGreaterThan(0.1);
    expect(apart(strings, () => 0)).toBeGreaterThan(0.1);
    // Were the other position only off, the waves would be brought together elsewhere.
    const muted: BounceOrder = {
      ...order,
      tracks: order.tracks.map((track, t) =>
        t === 0
          ? {
              ...track,
              mix: { ...mix, positions: { close: { ...PLAIN_POSITION, muted: true }, far: PLAIN_POSITION } },
            }
          : track,
      ),
    };
    const far = left(only(muted, [0]));
    const farPart = left(only(divided, [1]));
    expect(apart(far.subarray(0, 20_000), (i) => farPart[i])).toBeLessThan(1e-6);
    expect(apart(far.subarray(30_000), (i) => farPart[30_000 + i])).toBeGreaterThan(0.01);
  });
  it('leave a track whole whose positions go to one, and one without positions where it is', () => {
    const { order: divided, groups } = divideByStem(order, () => 'All');
    expect(divided.tracks).toEqual(order.tracks);
    expect(divided.events).toEqual(order.events);
    expect(groups).toEqual([{ name: 'All', tracks: [0, 2] }]);
  });
});
