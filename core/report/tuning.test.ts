import { describe, expect, it } from 'vitest';
import { driftOf } from './tuning.ts';

describe('the drift of a pitch', () => {
  it('is how far the middle of its second half lies above the middle of its first', () => {
    const risen = Float64Array.from({ length: 40 }, (_, i) => (i < 20 ? -3 : 4));
    expect(driftOf(risen)).toBe(7);
    expect(driftOf(Float64Array.from(risen).reverse())).toBe(-7);
    // A few frames that were heard wrong change nothing.
    expect(driftOf(risen.map((cents, i) => (i % 10 === 0 ? 600 : cents)))).toBe(7);
  });
  it('is none where there is too little of it', () => {
    expect(driftOf(Float64Array.from({ length: 19 }, (_, i) => i))).toBe(0);
    expect(driftOf(Float64Array.from({ length: 20 }, (_, i) => i))).toBe(10);
    expect(driftOf(new Float64Array(0))).toBe(0);
  });
});
