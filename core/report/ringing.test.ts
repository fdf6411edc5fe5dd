import { describe, expect, it } from 'vitest';
import type { Zone } from '../catalogue/index.ts';
import { plainZone, whiteNoise } from '../testing/fixtures.ts';
import { measuringOf } from '../testing/measuring.ts';
import { ringingAt } from './ringing.ts';
import type { HeardSample } from './zones.ts';

/** What rings on after notes whose room, and what rings in it, are known. */

const RATE = 48_000;
const DECAY = 1;
const KEYS = [50, 53, 56, 59, 62];
const fall = (seconds: number, t60: number) => 10 ** ((-3 * Math.max(0, seconds)) / t60);

/** Noise that is held for a while and dies away within a second, and a sine that is held with it and outlives it. */
function sound(key: number, held: number, ring: number): HeardSample {
  const channels = [0, 1].map((side) =>
    whiteNoise(1.6 * RATE, key * 7 + side).map((value, i) => {
      const t = i / RATE - held;
      const sine = ring > 0 ? Math.sin(2 * Math.PI * ring * t + key) : 0;
      return 0.1 * value * fall(t, DECAY) + 0.006 * sine * fall(t, 3 * DECAY);
    }),
  );
  return { channels, rate: RATE };
}
const zone = (sample: string, key: number, more: Partial<Zone> = {}) =>
  plainZone({ samples: { near: { sample } }, rootKey: key, keyLow: key, keyHigh: key, ...more });
const ringing = (
  id: string,
  zones: readonly Zone[],
  audio: Record<string, HeardSample>,
  decay: number | undefined = DECAY,
) => ringingAt(measuringOf(id, zones, audio), 'near', decay).map(({ hertz }) => Math.round(hertz / 10) * 10);

const ringingNotes = Object.fromEntries(KEYS.map((key) => [`${key}`, sound(key, 0.2, 610)]));
const plainNotes = Object.fromEntries(KEYS.map((key) => [`plain ${key}`, sound(key, 0.2, 0)]));

describe('what rings on at a position', () => {
  const notes = KEYS.map((key) => zone(`${key}`, key));
  it('is heard after short notes', () => {
    expect(ringing('staccato', notes, ringingNotes)).toEqual([610]);
    expect(
      ringing(
        'staccato',
        KEYS.map((key) => zone(`plain ${key}`, key)),
        plainNotes,
      ),
    ).toEqual([]);
  });
  it('is heard after the recorded ends of held ones, not in what is held', () => {
    const ends = (prefix: string) => KEYS.map((key) => zone(`${prefix}${key}`, key, { role: 'release' }));
    const audio = { ...ringingNotes, ...plainNotes };
    expect(ringing('long', [...KEYS.map((key) => zone(`plain ${key}`, key)), ...ends('')], audio)).toEqual([
      610,
    ]);
    expect(ringing('long', [...notes, ...ends('plain ')], audio)).toEqual([]);
    expect(ringing('long', notes, audio)).toEqual([]);
  });
  it('is heard in first takes alone', () => {
    // Of four takes of one note nobody knows what the room does; four notes are needed.
    const takes = KEYS.flatMap((key, i) =>
      i < 2 ? [zone(`${key}`, key)] : [zone(`${key}`, key, { take: 1, takes: 2 })],
    );
    expect(ringing('staccato', takes, ringingNotes)).toEqual([]);
  });
  it('is nothing where no decay is known, or no recording is there', () => {
    expect(ringingAt(measuringOf('staccato', notes, ringingNotes), 'near', undefined)).toEqual([]);
    expect(ringing('staccato', notes, {})).toEqual([]);
    expect(ringingAt(measuringOf('staccato', notes, ringingNotes), 'far', DECAY)).toEqual([]);
  });
});
