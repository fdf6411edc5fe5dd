import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readMix, writeMix, type KeptMix } from './index.ts';

const position = fc.record({
  levelDb: fc.integer({ min: -60, max: 12 }),
  pan: fc.constantFrom(-1, 0, 0.5),
  width: fc.constantFrom(0, 1, 2),
  delayMs: fc.integer({ min: 0, max: 100 }),
  sendDb: fc.integer({ min: -60, max: 12 }),
  muted: fc.boolean(),
  inverted: fc.boolean(),
});
const mixes: fc.Arbitrary<KeptMix> = fc.record({
  tracks: fc.array(
    fc.record({
      id: fc.uuid(),
      name: fc.string(),
      gainDb: fc.integer({ min: -60, max: 12 }),
      pan: fc.constantFrom(-1, 0, 1),
      hallSendDb: fc.integer({ min: -60, max: 12 }),
      positions: fc.dictionary(fc.constantFrom('close', 'tree', 'far'), position, { noNullPrototype: true }),
      bands: fc.array(
        fc.record({
          positionId: fc.constantFrom('', 'close'),
          shape: fc.constantFrom('peak' as const, 'low shelf' as const, 'high shelf' as const),
          hertz: fc.integer({ min: 20, max: 20_000 }),
          gainDb: fc.integer({ min: -18, max: 18 }),
          q: fc.constantFrom(0.2, 1, 8),
          active: fc.boolean(),
        }),
      ),
    }),
  ),
});

describe('a kept mix', () => {
  it('is read as it was written', () => {
    fc.assert(
      fc.property(mixes, (mix) => {
        expect(readMix(writeMix(mix))).toEqual(mix);
      }),
    );
  });
  it('is not read from what is none', () => {
    for (const text of [
      '',
      'nonsense',
      'null',
      '[]',
      '{}',
      '{"tracks":5}',
      '{"tracks":[null]}',
      '{"tracks":[{"id":1,"name":"a"}]}',
    ])
      expect(readMix(text)).toBeUndefined();
    const many = (length: number) =>
      JSON.stringify({ tracks: Array.from({ length }, () => ({ id: 'a', name: 'Horns' })) });
    expect(readMix(many(2000))?.tracks).toHaveLength(2000);
    expect(readMix(many(2001))).toBeUndefined();
  });
  it('has its numbers in range and its bands whole, whatever was written there', () => {
    const wild = {
      tracks: [
        {
          id: 'a',
          name: 'Horns',
          gainDb: 1e9,
          pan: 'left',
          hallSendDb: null,
          positions: { close: { levelDb: -999, width: 17, delayMs: -4, muted: 'yes' }, far: null },
          bands: [{ shape: 'notch', hertz: 5 }, { shape: 'peak', hertz: 1e7, gainDb: 99 }, null],
        },
      ],
    };
    // A number beyond all numbers is none.
    const endless = JSON.stringify(wild).replace('"left"', '1e999');
    expect(readMix(endless)?.tracks[0].pan).toBe(0);
    expect(readMix(JSON.stringify(wild))?.tracks[0]).toEqual({
      id: 'a',
      name: 'Horns',
      gainDb: 12,
      pan: 0,
      hallSendDb: -60,
      positions: {
        close: { levelDb: -60, pan: 0, width: 2, delayMs: 0, sendDb: 0, muted: false, inverted: false },
        far: { levelDb: -60, pan: 0, width: 1, delayMs: 0, sendDb: 0, muted: false, inverted: false },
      },
      bands: [{ positionId: '', shape: 'peak', hertz: 20_000, gainDb: 18, q: 0.8, active: true }],
    });
  });
});
