import { describe, expect, it } from 'vitest';
import { directToRoom } from './depth.ts';

/** Powers of positions in a statistical room: direct sound by the square of the distance, the room alike everywhere, then a gain. */
const positions = (
  list: readonly { metres: number; gain: number; late?: boolean }[],
  nearestRatio: number,
) => {
  const nearest = Math.min(...list.map(({ metres }) => metres));
  return list.map(({ metres, gain, late = true }) => {
    const ratio = nearestRatio * (nearest / metres) ** 2;
    return {
      ratio,
      power: gain * (ratio + 1),
      tail: 0.02 * gain,
      lateSeconds: late ? (metres - nearest) / 343 : undefined,
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

  it('follows from tails alone where an arrival is not known', () => {
    const all = positions(
      [
        { metres: 2, gain: 1 },
        { metres: 9, gain: 0.4 },
        { metres: 4.5, gain: 0.7, late: false },
      ],
      7,
    );
    const found = directToRoom(all) ?? [];
    expect(Math.abs(db(found[2]) - db(all[2].ratio))).toBeLessThan(1.2);
    // One that hears nothing but the room has next to no direct sound.
    const [near, far] = positions(
      [
        { metres: 2, gain: 1 },
        { metres: 9, gain: 0.4 },
      ],
      7,
    );
    const room = { power: 0.5 * 1.001, tail: 0.02 * 0.5, lateSeconds: undefined };
    expect(db((directToRoom([near, far, room]) ?? [])[2])).toBeLessThan(-4);
  });

  it('is not known of one position, of a silent one, or without any arrival', () => {
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
    expect(directToRoom([near, far].map((one) => ({ ...one, lateSeconds: undefined })))).toBeUndefined();
  });
});
