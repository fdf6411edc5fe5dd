/** Which of two pitches sounds, told by their own partials. Written apart from what it judges; see `k-level.ts`. */

const RATE = 48_000;
const MOST_PARTIALS = 12;
/** How much of its greater amplitude a partial must change by to tell which tone sounds. */
const LEAST_DIFFERENCE = 0.3;
/** More than this of its settled amplitude is a beat between players. */
const MOST_AMPLITUDE = 1.3;
const STEP = 0.002;
/** Steps on either side of a crossing by which it is judged: 40 ms. */
const AROUND = 20;
const HIGHEST_HZ = 8000;
/** Partials nearer to one of the other pitch's than this tell nothing. */
const APART_HZ = 45;

const windows = new Map<number, Float64Array>();
/** Hann window of twice `half` frames. */
function window(half: number): Float64Array {
  let known = windows.get(half);
  if (!known) {
    known = Float64Array.from(
      { length: 2 * half },
      (_, i) => 0.5 + 0.5 * Math.cos((Math.PI * (i - half)) / half),
    );
    windows.set(half, known);
  }
  return known;
}

/** Power of a frequency around a moment under a Hann window. */
function powerAt(signal: Float32Array, hertz: number, centre: number, width: number): number {
  const half = Math.round((width * RATE) / 2);
  const middle = Math.round(centre * RATE);
  const hann = window(half);
  const w = (2 * Math.PI * hertz) / RATE;
  const [turnCos, turnSin] = [Math.cos(w), Math.sin(w)];
  let cos = Math.cos(-w * half);
  let sin = Math.sin(-w * half);
  let re = 0;
  let im = 0;
  for (let i = -half; i < half; i++) {
    const weighted = (signal[middle + i] ?? 0) * hann[i + half];
    re += weighted * cos;
    im -= weighted * sin;
    [cos, sin] = [cos * turnCos - sin * turnSin, sin * turnCos + cos * turnSin];
  }
  return re * re + im * im;
}

/** Lowest partials of a pitch. */
function partialsOf(hertz: number): number[] {
  return Array.from({ length: MOST_PARTIALS }, (_, i) => (i + 1) * hertz).filter((one) => one < HIGHEST_HZ);
}

/** Partials of a pitch that lie apart from all of another's; with an octave above, those of odd number alone. */
function ownPartials(hertz: number, other: number): number[] {
  return partialsOf(hertz).filter((partial) => {
    const order = Math.max(1, Math.round(partial / other));
    return Math.abs(partial - order * other) >= APART_HZ;
  });
}

/** How a new pitch took over from an old one. */
export interface Takeover {
  /** When the new pitch began to outweigh the old, in seconds; undefined when it never did. */
  at: number | undefined;
  /** How far below its settled power the new pitch was at the asked moment, dB; undefined when all its partials are shared. */
  behindDb: number | undefined;
}

/**
 * Follows both pitches around a beat. At every moment the amplitudes of all partials of both are held against those of the
 * old tone and of the new tone when each is settled: the tone they resemble more (by the cosine of the angle between them)
 * outweighs. Every partial counts against its own greater settled amplitude, so that neither the louder pitch nor the
 * louder partial decides; a dip of the level changes no angle.
 * @param beat where the new pitch is wanted, seconds; @param room seconds that old and new are each settled before and after
 */
export function takeover(
  signal: Float32Array,
  fromHertz: number,
  toHertz: number,
  beat: number,
  room: { before: number; after: number },
  lookAt = 0.045,
): Takeover {
  const width = Math.min(0.08, Math.max(0.03, 5 / Math.min(fromHertz, toHertz)));
  const all = [...partialsOf(fromHertz), ...partialsOf(toHertz)];
  const settled = (hertz: number, times: readonly number[]) =>
    Math.sqrt(times.reduce((sum, time) => sum + powerAt(signal, hertz, time, width) / times.length, 1e-30));
  const shares = [0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9];
  const known = all.map((hertz) => {
    const o = settled(
      hertz,
      shares.map((share) => beat - room.before * share),
    );
    const n = settled(
      hertz,
      shares.map((share) => beat + room.after * share),
    );
    return { hertz, most: Math.max(o, n), old: o / Math.max(o, n), fresh: n / Math.max(o, n) };
  });
  // Partials that hardly sound would be told by what leaks from others; those that both tones have alike tell nothing.
  const least = Math.max(...known.map(({ most }) => most)) * 0.01;
  const told = known.filter((one) => one.most > least && Math.abs(one.old - one.fresh) > LEAST_DIFFERENCE);
  const length = (pick: (one: (typeof told)[number]) => number) =>
    Math.sqrt(told.reduce((sum, one) => sum + pick(one) ** 2, 1e-30));
  const [oldLength, freshLength] = [length((one) => one.old), length((one) => one.fresh)];
  const lead = (time: number) => {
    let [o, n, x] = [0, 0, 1e-30];
    for (const one of told) {
      // Many players beat: a partial that happens to be strong says no more than that it is there.
      const amplitude = Math.min(
        MOST_AMPLITUDE,
        Math.sqrt(powerAt(signal, one.hertz, time, width)) / one.most,
      );
      o += amplitude * one.old;
      n += amplitude * one.fresh;
      x += amplitude ** 2;
    }
    return (n / freshLength - o / oldLength) / Math.sqrt(x);
  };
  const search = Math.min(0.12, room.before * 0.9, room.after * 0.9);
  const curve: number[] = [];
  for (let t = beat - search; t <= beat + search; t += STEP) curve.push(lead(t));
  // Players beat against each other, so that a curve may touch 0 elsewhere too: the crossing across which it changes most.
  const around = (from: number, to: number) => {
    const part = curve.slice(Math.max(0, from), Math.max(0, to));
    return part.reduce((sum, value) => sum + value / part.length, 0);
  };
  let at: number | undefined;
  let most = 0;
  curve.forEach((now, i) => {
    const before = curve[i - 1];
    if (i === 0 || before >= 0 || now < 0) return;
    const change = around(i, i + AROUND) - around(i - AROUND, i);
    if (change <= most) return;
    most = change;
    at = beat - search + (i - 1 + before / (before - now)) * STEP;
  });
  return { at, behindDb: behindAt(signal, ownPartials(toHertz, fromHertz), beat, room.after, width, lookAt) };
}

/** How far below their settled powers a new pitch's own partials are at a moment after the beat, dB. */
function behindAt(
  signal: Float32Array,
  partials: readonly number[],
  beat: number,
  room: number,
  width: number,
  lookAt: number,
): number | undefined {
  const times = [0.5, 0.7, 0.9].map((share) => beat + room * share);
  const settled = partials.map((hertz) =>
    times.reduce((sum, time) => sum + powerAt(signal, hertz, time, width) / times.length, 1e-30),
  );
  const least = Math.max(...settled) * 1e-4;
  const strong = partials.flatMap((hertz, i) => (settled[i] > least ? [{ hertz, power: settled[i] }] : []));
  if (strong.length === 0) return undefined;
  const risen = strong.reduce(
    (sum, { hertz, power }) =>
      sum + Math.min(1, powerAt(signal, hertz, beat + lookAt, width) / power) / strong.length,
    0,
  );
  return -10 * Math.log10(risen + 1e-20);
}
