import { describe, expect, it } from 'vitest';
import { dynamicsName } from '#core/music/index.ts';
import { readDynamics } from './dynamics-name.ts';

describe('a typed dynamic', () => {
  it.each(['pp', 'p', 'mp', 'mf', 'f', 'ff'])('as musicians write it is read as it is shown: %s', (name) => {
    for (const text of [name, name.toUpperCase(), ` ${name} `])
      expect(dynamicsName(readDynamics(text) as number)).toBe(name);
  });
  it('may be a controller’s value, or one of the ends', () => {
    expect(['0', '127', '64', 'ppp', 'fff'].map(readDynamics)).toEqual([0, 127, 64, 0, 127]);
  });
  it.each(['', 'loud', '128', '-1', 'sfz'])('that is none is refused with what is one: “%s”', (text) =>
    expect(readDynamics(text)).toBe('pp, p, mp, mf, f or ff, or a number from 0 to 127.'),
  );
});
