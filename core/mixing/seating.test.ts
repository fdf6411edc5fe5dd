import { describe, expect, it } from 'vitest';
import { HARBOUR_HALL } from '../rooms/index.ts';
import {
  azimuthOf,
  azimuthOfBalance,
  balanceOfAzimuth,
  conventionalSeat,
  depthAt,
  lateMs,
  metresAt,
  metresTo,
  onStage,
  readSeating,
  seatAt,
  SEATINGS,
  writeSeating,
  type Seating,
} from './index.ts';

const degrees = (radians: number) => (radians * 180) / Math.PI;

describe('a seat', () => {
  it('is so far from who listens, and in that direction', () => {
    // A triangle of 3, 4 and 5.
    expect(metresTo({ x: 3, y: 2 }, 2)).toBe(5);
    expect(degrees(azimuthOf({ x: 3, y: 1 }, 2))).toBeCloseTo(45, 9);
    expect(degrees(azimuthOf({ x: -4, y: 4 }, 0))).toBeCloseTo(-45, 9);
    const seat = seatAt(azimuthOf({ x: -3, y: 7 }, 4), metresTo({ x: -3, y: 7 }, 4), 4);
    expect(seat.x).toBeCloseTo(-3, 9);
    expect(seat.y).toBeCloseTo(7, 9);
  });

  it('is heard between loudspeakers by the tangent law', () => {
    expect(balanceOfAzimuth(0)).toBe(0);
    // 30° on the stage is 15° before loudspeakers at 30°: tan 15° / tan 30° = 0.4641, so 0.5359 against 1.4641.
    expect(balanceOfAzimuth(Math.PI / 6)).toBeCloseTo(20 * Math.log10(1.4641016 / 0.5358984), 5);
    expect(balanceOfAzimuth(-Math.PI / 6)).toBeCloseTo(-balanceOfAzimuth(Math.PI / 6), 9);
    for (const angle of [-50, -20, 0, 5, 33, 58])
      expect(degrees(azimuthOfBalance(balanceOfAzimuth((angle / 180) * Math.PI)))).toBeCloseTo(angle, 6);
    // What is further out than the loudspeakers' share sounds from one of them, and never from nowhere.
    expect(balanceOfAzimuth(Math.PI / 2)).toBe(balanceOfAzimuth(Math.PI / 3));
    expect(balanceOfAzimuth(Math.PI / 2)).toBeCloseTo(20 * Math.log10(1.98 / 0.02), 6);
    expect(degrees(azimuthOfBalance(Infinity))).toBeCloseTo(60, 6);
  });

  it('is as deep as the hall makes it: 6 dB with every doubling, 0 at the critical distance', () => {
    expect(depthAt(4, HARBOUR_HALL) - depthAt(8, HARBOUR_HALL)).toBeCloseTo(6.0206, 3);
    expect(depthAt(metresAt(0, HARBOUR_HALL), HARBOUR_HALL)).toBeCloseTo(0, 9);
    expect(metresAt(depthAt(7.3, HARBOUR_HALL), HARBOUR_HALL)).toBeCloseTo(7.3, 9);
    // 0.057 √(V / T) for a source to all sides (H. Kuttruff), times √6 for directed players and microphones.
    const volume = 22 * 28 * 11;
    expect(metresAt(0, HARBOUR_HALL)).toBeCloseTo(0.057 * Math.sqrt(volume / 1.7) * Math.sqrt(6), 0);
    // A hall that rings longer drowns what is as far away.
    expect(depthAt(6, { ...HARBOUR_HALL, decaySeconds: 3.4 })).toBeCloseTo(
      depthAt(6, HARBOUR_HALL) - 3.01,
      2,
    );
  });

  it('is late by the way sound takes, those in front not at all, none by more than 60 ms', () => {
    expect(lateMs({ x: 0, y: 2 }, 5)).toBe(0);
    expect(lateMs({ x: 0, y: 1 }, 5)).toBe(0);
    expect(lateMs({ x: 0, y: 12.29 }, 5)).toBe(30);
    expect(lateMs({ x: 0, y: 18 }, 20)).toBeCloseTo((16 / 343) * 1000, 0);
    expect(lateMs({ x: 4000, y: 18 }, 0)).toBe(60);
  });

  it('stays on the stage, to the centimetre', () => {
    expect(onStage({ x: -99, y: -3 })).toEqual({ x: -14, y: 0.5 });
    expect(onStage({ x: 1.2345, y: 99 })).toEqual({ x: 1.23, y: 18 });
  });
});

describe('conventional seatings', () => {
  const seat = (seating: Seating, name: string, family: 'strings' | 'winds' | 'other' = 'strings') =>
    conventionalSeat(seating, { name, family });
  const angle = (place: { x: number; y: number }) => degrees(Math.atan2(place.x, place.y));

  it('know sections by their names, whole words only', () => {
    expect(seat('usual', 'Violins II, short')).toEqual(seat('usual', 'Violins II'));
    expect(seat('usual', 'Violins II')).not.toEqual(seat('usual', 'Violins I'));
    expect(seat('usual', 'Women')).not.toEqual(seat('usual', 'Men'));
    expect(seat('usual', 'Bass clarinet', 'winds')).not.toEqual(seat('usual', 'Basses'));
    expect(seat('usual', 'Solo violin').y).toBeLessThan(seat('usual', 'Violins I').y + 1);
    // A name nobody knows sits where its family does.
    expect(seat('usual', 'Tide pipes', 'winds')).toEqual(seat('usual', 'Something', 'winds'));
    expect(seat('usual', 'Menagerie', 'other')).not.toEqual(seat('usual', 'Men'));
  });

  it('have strings from high to low, or both violins against each other', () => {
    const row = ['Violins I', 'Violins II', 'Violas', 'Cellos'];
    const usual = row.map((name) => angle(seat('usual', name)));
    expect(usual).toEqual([...usual].sort((a, b) => a - b));
    expect(angle(seat('facing', 'Violins I'))).toBeCloseTo(-angle(seat('facing', 'Violins II')), 0);
    expect(angle(seat('facing', 'Cellos'))).toBeLessThan(0);
    expect(Math.abs(angle(seat('wide', 'Violins I')))).toBeGreaterThan(
      Math.abs(angle(seat('usual', 'Violins I'))),
    );
  });

  it('have nobody in the lap of another, and woodwinds before brass', () => {
    const names = [
      'Violins I',
      'Violins II',
      'Violas',
      'Cellos',
      'Basses',
      'Flute 1',
      'Flute 2',
      'Oboe',
      'Clarinet',
    ];
    names.push(
      'Bassoon',
      'Horns A',
      'Horns B',
      'Trumpets',
      'Trombones',
      'Tuba',
      'Timpani',
      'Harp',
      'Women',
      'Men',
    );
    for (const seating of Object.keys(SEATINGS) as Seating[]) {
      const seats = names.map((name) => seat(seating, name));
      seats.forEach((a, i) =>
        seats.forEach((b, k) => {
          if (i < k) expect(Math.hypot(a.x - b.x, a.y - b.y), `${names[i]} ${names[k]}`).toBeGreaterThan(0.7);
        }),
      );
      expect(seat(seating, 'Oboe').y).toBeLessThan(seat(seating, 'Trumpets').y);
    }
  });

  it('are written and read again; what is no seat is passed over', () => {
    const seats = [
      { name: 'Violins I', x: -2.5, y: 3 },
      { name: 'A\tname\nof two', x: 0, y: 4 },
    ];
    expect(readSeating(writeSeating(seats))).toEqual([seats[0], { name: 'A name of two', x: 0, y: 4 }]);
    expect(readSeating('Horns\tnear\tthere\nTuba\t1\n\t2\t3\nHarp\t-99\t4')).toEqual([
      { name: 'Harp', x: -14, y: 4 },
    ]);
  });
});
