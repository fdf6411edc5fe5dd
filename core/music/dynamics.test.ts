import { describe, expect, it } from 'vitest';
import { dynamicsName, writtenDynamics } from './index.ts';

const written = (points: readonly (readonly [tick: number, value: number])[], starts: readonly number[]) => {
  const { marks, hairpins } = writtenDynamics(
    points.map(([tick, value]) => ({ id: String(tick), controller: 1, tick, value })),
    starts,
  );
  return [
    marks.map(({ tick, name }) => `${name} ${tick}`).join(' '),
    hairpins.map(({ startTick, endTick, opens }) => `${opens ? '<' : '>'} ${startTick}-${endTick}`).join(' '),
  ];
};

describe('dynamics', () => {
  it('are sixths of the controller', () => {
    expect([0, 21, 22, 63, 64, 106, 107, 127].map(dynamicsName)).toEqual([
      'pp',
      'pp',
      'p',
      'mp',
      'mf',
      'f',
      'ff',
      'ff',
    ]);
  });
  it('are named where notes begin, and again where they have changed', () => {
    expect(
      written(
        [
          [0, 30],
          [1900, 30],
          [1920, 90],
        ],
        [0, 960, 1920, 2880],
      ),
    ).toEqual(['p 0 f 1920', '']);
  });
  it('that rise or fall are hairpins, with a name at their end', () => {
    expect(
      written(
        [
          [0, 30],
          [1920, 100],
          [3840, 40],
        ],
        [0, 960, 1920, 2880, 3840],
      ),
    ).toEqual(['p 0 f 1920 p 3840', '< 0-1920 > 1920-3840']);
  });
  it('that rise over several points are one hairpin', () => {
    expect(
      written(
        [
          [0, 30],
          [500, 50],
          [1000, 60],
          [1920, 110],
        ],
        [0, 1920],
      )[1],
    ).toBe('< 0-1920');
  });
  it('that hardly change, or at once, are none', () => {
    expect(
      written(
        [
          [0, 64],
          [1920, 72],
        ],
        [0, 1920],
      ),
    ).toEqual(['mf 0', '']);
    expect(
      written(
        [
          [0, 30],
          [400, 110],
        ],
        [0, 960],
      ),
    ).toEqual(['p 0 ff 960', '']);
  });
  it('without a curve, or without notes, are not written', () => {
    expect(written([], [0])).toEqual(['', '']);
    expect(written([[0, 30]], [])).toEqual(['', '']);
  });
});
