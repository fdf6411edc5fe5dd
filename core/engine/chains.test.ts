import { describe, expect, it } from 'vitest';
import type { Zone } from '../catalogue/index.ts';
import { instrumentOf, mixOf, plainZone, sine, startEvent } from '../testing/fixtures.ts';
import { Players, prepareInstrument } from './index.ts';

const audio = new Map([['a', sine(440, 1)]]);
/** Players with one track of two zones over the same keys. */
function players(second: Partial<Zone>): Players {
  const zone = (more: Partial<Zone>) => plainZone({ samples: { mix: { sample: 'a' } }, ...more });
  const instrument = instrumentOf([{ id: 'long', name: 'long', zones: [zone({}), zone(second)] }], audio);
  const made = new Players();
  made.ensureTracks(1);
  made.tracks[0].setInstrument(prepareInstrument(instrument, audio));
  made.tracks[0].setMix(mixOf(['mix']), 48_000);
  made.reset();
  return made;
}

describe('zones that sound together', () => {
  it('are one voice where they share envelope and filter, and one each where they do not', () => {
    const layers = players({ gainDb: -6 });
    layers.apply(startEvent());
    expect(layers.voiceCount).toBe(1);
    const apart = players({ cutoffHz: 500 });
    apart.apply(startEvent());
    expect(apart.voiceCount).toBe(2);
  });
});

describe('the power of a track', () => {
  it('is the mean of both sides, by level and balance', () => {
    const [track] = players({}).tracks;
    track.setMix({ ...mixOf(['mix']), gainDb: -20 }, 48_000);
    expect(track.power).toBeCloseTo(0.01, 6);
    // All to one side: √2 there, nothing on the other; the power stays.
    for (const pan of [-1, 1]) {
      track.setMix({ ...mixOf(['mix']), gainDb: 6.0206, pan }, 48_000);
      expect(track.power).toBeCloseTo(4, 3);
    }
    track.setMix({ ...mixOf(['mix']), muted: true }, 48_000);
    expect(track.power).toBe(0);
  });
});
