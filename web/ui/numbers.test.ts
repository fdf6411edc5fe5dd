import { describe, expect, it } from 'vitest';
import { controllerPercent, numberWithin, toNumber, wholeWithin } from './numbers.ts';

describe('a typed number', () => {
  it.each([
    ['3', 3],
    [' 1,5 ', 1.5],
    ['−3 dB', -3],
    ['-.5', -0.5],
    ['+2 semitones', 2],
    ['40 %', 40],
    ['7.', 7],
  ])('is read with its unit, comma or long minus: %s', (text, value) => expect(toNumber(text)).toBe(value));
  it.each(['', ' ', 'abc', 'dB 3', '1-2', '3 4', '1.2.3', '--3', 'NaN', 'Infinity', '1e3'])(
    'is not guessed at: “%s”',
    (text) => expect(toNumber(text)).toBeUndefined(),
  );
  it('outside its bounds is refused with them', () => {
    const read = numberWithin(-60, 12, 'dB');
    expect([read('-60'), read('12 dB')]).toEqual([-60, 12]);
    for (const text of ['12.1', '-60.5', 'loud']) expect(read(text)).toBe('A number from −60 to 12 dB.');
    expect(numberWithin(0, 1)('2')).toBe('A number from 0 to 1.');
  });
  it('that must be whole is refused as it is shown', () => {
    const read = wholeWithin(0, 15, 1);
    expect([read('1'), read('16')]).toEqual([0, 15]);
    for (const text of ['0', '17', '2.5', '']) expect(read(text)).toBe('A whole number from 1 to 16.');
  });
  it('of per cent can be none', () => {
    expect([controllerPercent('0'), controllerPercent('50 %'), controllerPercent('100')]).toEqual([
      0, 63.5, 127,
    ]);
    expect(controllerPercent('101')).toContain('0 to 100 %');
  });
});
