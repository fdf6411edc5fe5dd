import { describe, expect, it } from 'vitest';
import {
  MetreMap,
  readMoment,
  readPlace,
  readTime,
  TempoMap,
  writeFrames,
  writePlace,
  writeTime,
} from './index.ts';

// Two bars of 4/4, then 6/8 from bar 3 on: a beat there is an eighth.
const metre = new MetreMap([
  { tick: 0, numerator: 4, denominator: 4 },
  { tick: 7680, numerator: 6, denominator: 8 },
]);

describe('a place in a cue', () => {
  it.each([
    [0, '1.1'],
    [960, '1.2'],
    [3839, '1.4.959'],
    [3840, '2.1'],
    [7680, '3.1'],
    [7680 + 480, '3.2'],
    [7680 + 2880 + 490, '4.2.10'],
  ])('tick %s is written %s, and read back', (tick, text) => {
    expect(writePlace(metre, tick)).toBe(text);
    expect(readPlace(metre, text)).toBe(tick);
  });
  it('may be a bar alone, and be parted by other signs', () => {
    expect(readPlace(metre, '2')).toBe(3840);
    expect(readPlace(metre, ' 3 . 2 ')).toBe(8160);
    expect(readPlace(metre, '1 2 480')).toBe(1440);
  });
  it.each(['', 'x', '0', '0.1', '1.0', '1.5', '3.7', '1.1.960', '3.1.480', '-1', '1.1.1.1', '1,5'])(
    '“%s” is none',
    (text) => expect(readPlace(metre, text)).toBeUndefined(),
  );
});

describe('a moment', () => {
  // A quarter a second up to bar 2, then two.
  const tempo = new TempoMap([
    { tick: 0, bpm: 60 },
    { tick: 3840, bpm: 120 },
  ]);
  it.each([
    ['0:00', 0],
    ['0:02.5', 2400],
    ['0:05', 3840 + 1920],
    ['1:00', 3840 + 56 * 1920],
    ['0:02,5', 2400],
    ['2.1', 3840],
  ])('“%s” is tick %s', (text, tick) => expect(readMoment(metre, tempo, text)).toBe(tick));
  it.each(['0:60', '1:2:3', ':5', '5:', '0:1.', 'soon'])('“%s” is none', (text) =>
    expect(readMoment(metre, tempo, text)).toBeUndefined(),
  );
});

describe('a time', () => {
  it.each([
    [0, '0:00'],
    [41.3, '0:41.3'],
    [67.5, '1:07.5'],
    [59.9996, '1:00'],
    [600.25, '10:00.25'],
    [-2.04, '−0:02.04'],
  ])('of %d seconds is written %s', (seconds, text) => {
    expect(writeTime(seconds)).toBe(text);
  });
  it('is read as it is written', () => {
    expect(['0:41.3', ' 1:07,5 ', '12:00', '1:60', '41.3', 'x'].map(readTime)).toEqual([
      41.3,
      67.5,
      720,
      undefined,
      undefined,
      undefined,
    ]);
  });
});

describe('a time in frames', () => {
  it.each([
    [0, '24', '0:00:00:00'],
    [1, '24', '0:00:01:00'],
    [0.999, '25', '0:00:00:24'],
    [67.5, '24', '0:01:07:12'],
    [3600, '30', '1:00:00:00'],
    // 1,800 frames are 60.06 seconds of the clock.
    [60.06, '29.97', '0:01:00:00'],
    [60, '29.97', '0:00:59:28'],
    [1.001, '29.97', '0:00:01:00'],
    [-2, '25', '0:00:00:00'],
  ] as const)('of %d seconds at %s is %s', (seconds, rate, text) => {
    expect(writeFrames(seconds, rate)).toBe(text);
  });
});
