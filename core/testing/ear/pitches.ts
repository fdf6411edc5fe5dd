/** Which of two pitches sounds, told by their own partials. Written apart from what it judges; see `k-level.ts`. */

const RATE = 48_000;
const MOST_PARTIALS = 8;
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

/** Partials of a pitch that lie apart from all of another's; with an octave above, those of odd number alone. */
function ownPartials(hertz: number, other: number): number[] {
  const out: number[] = [];
  for (let n = 1; n * hertz < HIGHEST_HZ && out.length < MOST_PARTIALS; n++) {
    const order = Math.max(1, Math.round((n * hertz) / other));
    if (Math.abs(n * hertz - order * other) >= APART_HZ) out.push(n * hertz);
  }
  return out;
}

/** How a new pitch took over from an old one. */
export interface Takeover {
  /** When the new pitch began to outweigh the old, in seconds; undefined when it cannot be told or never did. */
  at: number | undefined;
  /** How far below its settled power the new pitch was at the asked moment, dB; undefined when all its partials are shared. */
  behindDb: number | undefined;
}

/**
 * Follows both pitches around a beat. Every partial counts against its own power when its pitch alone is settled, so that
 * neither the louder pitch nor the louder partial decides. Where one pitch has no partial of its own (octaves), the other's
 * half power decides.
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
  const width = Math.min(0.05, Math.max(0.03, 2.5 / Math.min(fromHertz, toHertz)));
  const mean = (partials: readonly number[], times: readonly number[]) =>
    partials.map((hertz) =>
      times.reduce((sum, time) => sum + powerAt(signal, hertz, time, width) / times.length, 1e-30),
    );
  // Partials that hardly sound would be told by what leaks from others.
  const strong = (partials: readonly number[], times: readonly number[]) => {
    const settled = mean(partials, times);
    const least = Math.max(...settled) * 1e-4;
    return partials.flatMap((hertz, i) => (settled[i] > least ? [{ hertz, settled: settled[i] }] : []));
  };
  const old = strong(
    ownPartials(fromHertz, toHertz),
    [0.5, 0.7, 0.9].map((share) => beat - room.before * share),
  );
  const fresh = strong(
    ownPartials(toHertz, fromHertz),
    [0.5, 0.7, 0.9].map((share) => beat + room.after * share),
  );
  const share = (partials: typeof old, time: number) =>
    partials.length === 0
      ? undefined
      : partials.reduce(
          // Many players beat: a partial that happens to be strong says no more than that it is there.
          (sum, { hertz, settled }) =>
            sum + Math.min(1, powerAt(signal, hertz, time, width) / settled) / partials.length,
          0,
        );
  const lead = (time: number) => {
    const o = share(old, time);
    const f = share(fresh, time);
    if (o !== undefined && f !== undefined) return f - o;
    return f === undefined ? 0.5 - (o ?? 0.5) : f - 0.5;
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
  const risen = share(fresh, beat + lookAt);
  return { at, behindDb: risen === undefined ? undefined : -10 * Math.log10(risen + 1e-20) };
}
