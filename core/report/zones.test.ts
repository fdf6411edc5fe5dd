import { describe, expect, it } from 'vitest';
import { SOURCE, type Fade, type Zone } from '../catalogue/index.ts';
import { CONTROLLER } from '../music/index.ts';
import { plainZone as zoneWith } from '../testing/fixtures.ts';
import { foremost, isRidden, layersOf, lowMiddleHigh, MIDDLE_TOUCH, rootsOf, rulerOf } from './zones.ts';

const plainZone = (more: Partial<Zone> = {}) => zoneWith({ samples: {}, ...more });
const fade = (controller: number, inLow: number, inHigh: number, outLow: number, outHigh: number): Fade => ({
  controller,
  inLow,
  inHigh,
  outLow,
  outHigh,
});
const layers = (...zones: Zone[]) => layersOf({ id: 'long', name: 'long', zones });
const { dynamics, vibrato } = CONTROLLER;

describe('layers', () => {
  it('by the dynamics controller stand soft to loud, each with the middle of where it is whole', () => {
    const loud = plainZone({ fades: [fade(dynamics, 80, 100, 127, 127)] });
    const soft = plainZone({ fades: [fade(dynamics, 0, 0, 40, 60)] });
    const middle = plainZone({ fades: [fade(dynamics, 40, 60, 80, 100)] });
    const alike = plainZone({ rootKey: 72, fades: [fade(dynamics, 40, 60, 80, 100)] });
    const found = layers(loud, soft, middle, alike);
    expect(found.map(({ zones }) => zones)).toEqual([[soft], [middle, alike], [loud]]);
    expect(found.map(({ touch }) => touch)).toEqual(
      [20, 70, 114].map((value) => ({ ...MIDDLE_TOUCH, dynamics: value })),
    );
  });
  it('by velocity stand soft to loud, by their fades or by their bounds', () => {
    const bounds = layers(
      plainZone({ velocityLow: 65, velocityHigh: 127 }),
      plainZone({ velocityLow: 1, velocityHigh: 64 }),
    );
    expect(bounds.map(({ touch }) => [touch.velocity, touch.dynamics])).toEqual([
      [33, 80],
      [96, 80],
    ]);
    const faded = layers(
      plainZone({ fades: [fade(SOURCE.velocity, 60, 80, 127, 127)] }),
      plainZone({ fades: [fade(SOURCE.velocity, 0, 0, 60, 80)] }),
    );
    expect(faded.map(({ touch }) => touch.velocity)).toEqual([30, 104]);
    expect(layers(plainZone({ velocityLow: 0, velocityHigh: 0 }))[0].touch.velocity).toBe(1);
  });
  it('are made of attacks alone', () => {
    expect(layers(plainZone({ role: 'release' }), plainZone({ role: 'transition' }))).toEqual([]);
  });
});

describe('what rules layers', () => {
  const modulated = (controller: number) =>
    plainZone({ modulations: [{ target: 'gainDb', controller, depth: 6, curve: 'linear' }] } as never);
  it('is the dynamics where any zone fades or is moved by them, else velocity', () => {
    expect(rulerOf([plainZone(), plainZone({ fades: [fade(dynamics, 0, 0, 60, 70)] })])).toBe('dynamics');
    expect(rulerOf([modulated(dynamics)])).toBe('dynamics');
    expect(rulerOf([modulated(SOURCE.velocity), plainZone({ fades: [fade(vibrato, 0, 9, 99, 99)] })])).toBe(
      'velocity',
    );
  });
});

describe('zones', () => {
  it('are ridden where the vibrato controller brings them in', () => {
    expect(isRidden(plainZone({ fades: [fade(vibrato, 0, 127, 127, 127)] }))).toBe(true);
    expect(isRidden(plainZone({ fades: [fade(vibrato, 0, 0, 0, 127)] }))).toBe(false);
    expect(isRidden(plainZone({ fades: [fade(dynamics, 0, 127, 127, 127)] }))).toBe(false);
    expect(isRidden(plainZone())).toBe(false);
  });
  it('heard most at a touch are foremost; those its velocity does not reach are none', () => {
    const [low, high, louder] = [
      plainZone({ velocityLow: 1, velocityHigh: 90 }),
      plainZone({ velocityLow: 91, velocityHigh: 127 }),
      plainZone({ velocityLow: 91, velocityHigh: 127, gainDb: 3 }),
    ];
    const at = (velocity: number) => foremost([low, high, louder], { ...MIDDLE_TOUCH, velocity });
    expect(at(90)).toBe(low);
    expect(at(91)).toBe(louder);
    expect(foremost([high], { ...MIDDLE_TOUCH, velocity: 10 })).toBeUndefined();
    expect(foremost([], MIDDLE_TOUCH)).toBeUndefined();
  });
  it('have roots, each once, low to high', () => {
    expect(rootsOf([72, 48, 72, 60].map((rootKey) => plainZone({ rootKey })))).toEqual([48, 60, 72]);
  });
});

describe('first, middle and last', () => {
  it.each([
    [[], []],
    [[5], [5]],
    [
      [5, 6],
      [5, 6],
    ],
    [
      [1, 2, 3, 4, 5, 6],
      [1, 4, 6],
    ],
  ])('of %j are %j', (list, wanted) => {
    expect(lowMiddleHigh(list as number[])).toEqual(wanted);
  });
});
