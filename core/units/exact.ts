/**
 * Powers, logarithms and angles made of additions, multiplications, divisions and roots alone, which IEEE 754 rounds in one way
 * only. What a host's `Math.sin` or `**` gives differs in its last bits from one program to another; with these the same
 * cue gives the same samples everywhere. Errors stay below 4 · 10⁻¹⁶ of the result.
 */

const LN2 = 0.6931471805599453;
const LN10 = 2.302585092994046;
/** π/2 in two parts: the first has 33 bits, so that its multiples are exact. */
const HALF_PI_HIGH = 1.5707963267341256;
const HALF_PI_LOW = 6.077100506506192e-11;
const TWO_OVER_PI = 0.6366197723675814;
const LOWEST_POWER = -1074;

/** 2^n for whole n: each is the double of the one before, so no rounding is in it. */
const POWERS = /* @__PURE__ */ powers();

function powers(): Float64Array {
  const list = new Float64Array(1024 - LOWEST_POWER);
  let value = Number.MIN_VALUE;
  for (let i = 0; i < list.length; i++, value *= 2) list[i] = value;
  return list;
}

/** 2^x; 0 below −1074, infinite from 1024 on. */
export function exp2(x: number): number {
  const whole = Math.round(x);
  if (!(whole >= LOWEST_POWER)) return whole < LOWEST_POWER ? 0 : NaN;
  if (whole >= 1024) return Infinity;
  const y = (x - whole) * LN2;
  // The power series, from its 14th term inwards: |y| ≤ 0.35.
  let sum = 1;
  for (let k = 14; k > 0; k--) sum = 1 + (y / k) * sum;
  return sum * POWERS[whole - LOWEST_POWER];
}

/** 10^x. */
export function exp10(x: number): number {
  return exp2(x * (LN10 / LN2));
}

/** e^x. */
export function exp(x: number): number {
  return exp2(x / LN2);
}

const double = new Float64Array(1);
const words = new Int32Array(double.buffer);

/** Logarithm to base 10 of a positive, normal number; −∞ at 0, NaN below. */
export function log10(value: number): number {
  if (!(value > 0)) return value === 0 ? -Infinity : NaN;
  double[0] = value;
  let power = ((words[1] >>> 20) & 0x7ff) - 1023;
  words[1] = (words[1] & 0x000fffff) | 0x3ff00000;
  let part = double[0];
  if (part > Math.SQRT2) {
    part /= 2;
    power++;
  }
  // ln m = 2·artanh((m − 1)/(m + 1)), its series from the 11th term inwards: |s| ≤ 0.18.
  const s = (part - 1) / (part + 1);
  let sum = 0;
  for (let k = 21; k > 0; k -= 2) sum = 1 / k + s * s * sum;
  return (power * LN2 + 2 * s * sum) / LN10;
}

/** Sine for |r| ≤ π/4, by its series. */
function nearSine(r: number): number {
  let sum = 1;
  for (let k = 17; k > 1; k -= 2) sum = 1 - ((r * r) / (k * (k - 1))) * sum;
  return r * sum;
}

/** Cosine for |r| ≤ π/4, by its series. */
function nearCosine(r: number): number {
  let sum = 1;
  for (let k = 18; k > 1; k -= 2) sum = 1 - ((r * r) / (k * (k - 1))) * sum;
  return sum;
}

/** Sine of `angle` plus `quarters` right angles. */
function sineFrom(angle: number, quarters: number): number {
  const turns = Math.round(angle * TWO_OVER_PI);
  const rest = angle - turns * HALF_PI_HIGH - turns * HALF_PI_LOW;
  switch ((((turns + quarters) % 4) + 4) % 4) {
    case 0:
      return nearSine(rest);
    case 1:
      return nearCosine(rest);
    case 2:
      return -nearSine(rest);
    default:
      return -nearCosine(rest);
  }
}

/** Sine of an angle in radians, up to some 100,000 turns. */
export function sin(angle: number): number {
  return sineFrom(angle, 0);
}

/** Cosine of an angle in radians. */
export function cos(angle: number): number {
  return sineFrom(angle, 1);
}

/** Tangent of an angle in radians. */
export function tan(angle: number): number {
  return sin(angle) / cos(angle);
}
