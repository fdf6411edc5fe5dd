import { describe, expect, it } from 'vitest';
import { nesting } from './json-body.ts';

const depth = (text: string) => nesting(new TextEncoder().encode(text));

describe('nesting', () => {
  it.each([
    ['1', 0],
    ['{}', 1],
    ['[]', 1],
    ['[[],[[]]]', 3],
    ['{"a":[{"b":[1]}]}', 4],
    ['"[[[["', 0],
    ['["]]", "[["]', 1],
    ['{"a\\"[[[": 1}', 1],
    ['"\\\\"', 0],
    ['["\\\\", [1]]', 2],
    ['[1][1][1]', 1],
  ])('of %s is %i', (text, wanted) => {
    expect(depth(text)).toBe(wanted);
  });
  it('is counted also for a million brackets', () => {
    expect(depth('['.repeat(1_000_000))).toBe(1_000_000);
  });
});
