import { describe, expect, it } from 'vitest';
import { stereoOf } from './index.ts';

const wave = (phase: number, level = 1) =>
  Float32Array.from({ length: 48_000 }, (_, i) => level * Math.sin((2 * Math.PI * 100 * i) / 48_000 + phase));

describe('how the sides stand to each other', () => {
  it.each([
    ['alike', wave(0), wave(0), 1, -90],
    ['opposed', wave(0), wave(Math.PI), -1, 90],
    ['a quarter turn apart', wave(0), wave(Math.PI / 2), 0, 0],
    ['a sixth of a turn apart', wave(0), wave(Math.PI / 3), 0.5, 10 * Math.log10(1 / 3)],
    // Side (1 − ½)² against middle (1 + ½)².
    ['alike, one softer', wave(0), wave(0, 0.5), 1, 20 * Math.log10(1 / 3)],
    ['one side alone', wave(0), new Float32Array(48_000), 0, 0],
  ])('%s', (_, left, right, correlation, sideDb) => {
    const found = stereoOf([left, right]);
    expect(found.correlation).toBeCloseTo(correlation, 4);
    if (sideDb > 80) expect(found.sideDb).toBeGreaterThan(80);
    else expect(found.sideDb).toBeCloseTo(sideDb, 3);
  });
  it('of silence are none', () => {
    const nothing = new Float32Array(10);
    expect(stereoOf([nothing, nothing])).toEqual({ correlation: 0, sideDb: 0 });
  });
});
