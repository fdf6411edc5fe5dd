import { describe, expect, it } from 'vitest';
import { cos, exp, exp10, exp2, log10, sin, tan } from './index.ts';

/** Relative error against what the host gives, which is right to about a last bit. */
const off = (value: number, right: number) => Math.abs(value - right) / Math.max(1e-300, Math.abs(right));
const spread = (low: number, high: number, count = 2000) =>
  Array.from({ length: count }, (_, i) => low + ((high - low) * i) / (count - 1));

describe('powers', () => {
  it('are right to the last bits over the whole range', () => {
    for (const x of spread(-60, 60)) expect(off(exp2(x), 2 ** x)).toBeLessThan(1e-14);
    for (const x of spread(-12, 12)) expect(off(exp10(x), 10 ** x)).toBeLessThan(2e-14);
    for (const x of spread(-40, 5)) expect(off(exp(x), Math.exp(x))).toBeLessThan(2e-14);
  });
  it('of whole numbers are exact', () => {
    for (const n of [-1074, -1022, -3, 0, 1, 10, 1023]) expect(exp2(n)).toBe(2 ** n);
  });
  it('vanish, overflow and pass on what is no number', () => {
    expect([exp2(-2000), exp2(2000), exp2(-Infinity)]).toEqual([0, Infinity, 0]);
    expect(exp2(NaN)).toBeNaN();
  });
});

describe('logarithms', () => {
  it('are right to the last bits, also beside 1', () => {
    for (const x of [1e-300, 1e-9, 0.3, 0.999999, 1.000001, 1.4142135, 2, 1e10, 1.7e308])
      expect(Math.abs(log10(x) - Math.log10(x))).toBeLessThan(
        3e-15 * Math.max(1e-7, Math.abs(Math.log10(x))),
      );
  });
  it('undo powers', () => {
    for (const x of spread(-20, 20, 200)) expect(log10(exp10(x))).toBeCloseTo(x, 12);
  });
  it('of nothing and less are told apart', () => {
    expect(log10(0)).toBe(-Infinity);
    expect(log10(-1)).toBeNaN();
  });
});

describe('angles', () => {
  it('are right in every quarter', () => {
    for (const x of spread(-20, 20)) {
      expect(Math.abs(sin(x) - Math.sin(x))).toBeLessThan(4e-16);
      expect(Math.abs(cos(x) - Math.cos(x))).toBeLessThan(4e-16);
    }
    for (const x of spread(0.0001, 1.5)) expect(off(tan(x), Math.tan(x))).toBeLessThan(1e-14);
  });
  it('stay right after many turns', () => {
    for (const x of spread(100_000, 100_050, 500)) expect(Math.abs(sin(x) - Math.sin(x))).toBeLessThan(1e-13);
  });
  it('meet at known places', () => {
    expect(sin(0)).toBe(0);
    expect(cos(0)).toBe(1);
    expect(sin(Math.PI / 6)).toBeCloseTo(0.5, 15);
    expect(tan(Math.PI / 4)).toBeCloseTo(1, 15);
  });
});
