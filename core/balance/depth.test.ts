import { describe, expect, it } from 'vitest';
import { directToRoom } from './depth.ts';

/** Powers of positions in a statistical room: direct sound by the square of the distance, the room alike everywhere, then a gain. */
const positions = (list: readonly { metres: number; gain: number }[], nearestRatio: number) => {
  const nearest = Math.min(...list.map(({ metres }) => metres));
  return list.map(({ metres, gain }) => {
    const ratio = nearestRatio * (nearest / metres) ** 2;
    return {
      ratio,
      power: gain * (ratio + 1),
      tail: 0.02 * gain,
      lateSeconds: (metres - nearest) / 343,
    };
  });
};
const db = (ratio: number) => 10 * Math.log10(ratio);

describe('direct sound against the room', () => {
  it('follows from tails and arrivals, whatever the gains', () => {
    const all = positions(
      [
        { metres: 2, gain: 1 },
        { metres: 6, gain: 0.1 },
        { metres: 14, gain: 3 },
      ],
      8,
    );
    directToRoom(all)?.forEach((ratio, i) => expect(Math.abs(db(ratio) - db(all[i].ratio))).toBeLessThan(1));
  });

  it('is not known of one position, or of a silent one', () => {
    const [near, far] = positions(
      [
        { metres: 2, gain: 1 },
        { metres: 9, gain: 0.4 },
      ],
      7,
    );
    expect(directToRoom([near])).toBeUndefined();
    expect(directToRoom([near, far, { ...far, tail: 0 }])).toBeUndefined();
    expect(directToRoom([near, far, { ...far, power: 0 }])).toBeUndefined();
  });
});
