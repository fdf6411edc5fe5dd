import { Random } from '../dsp/index.ts';
import { DEMO_LIBRARIES, type InstrumentPlan, type TakeOrder } from '../recording/index.ts';
import { bothWays, connected } from '../recording/libraries/common.ts';
import { recorded, type RecordedInstrument } from './recorded.ts';

/** An instrument of the demo by its name. */
export function demoInstrument(name: string): {
  plan: InstrumentPlan;
  library: (typeof DEMO_LIBRARIES)[number];
} {
  for (const library of DEMO_LIBRARIES) {
    const plan = library.instruments.find((one) => one.name === name);
    if (plan) return { plan, library };
  }
  throw new Error(`no ${name} in the demo`);
}

/** Its connected and held notes from the close position, with the quick moves where it has them. */
export function demoLine(name: string): RecordedInstrument {
  const { plan, library } = demoInstrument(name);
  return recorded(plan, library.hall, ({ technique }) => ['connected', 'long', 'runs'].includes(technique));
}

const HISS_DB = -55;

/**
 * A connected instrument that is not of the demo: made from a seed, with other lengths, levels, roots and landings, hiss at
 * −55 dBFS, and a position that is late by up to 30 ms.
 */
export function seededLine(name: string, seed: number): RecordedInstrument {
  const { plan, library } = demoInstrument(name);
  const random = new Random(`seeded ${seed}`);
  const long = plan.techniques.find(({ id }) => id === 'long');
  if (!long?.notes) throw new Error(`${name} has no long notes`);
  const middle = Math.round((plan.low + plan.high) / 2);
  const roots = [middle - 7, middle + 2].map((root) => root + Math.round(random.between(-2, 2)));
  const shape = {
    before: random.between(0.12, 0.28),
    after: random.between(0.35, 0.9),
    glide: [random.between(0.015, 0.05), 0.001] as const,
    dip: random.between(0, 0.08),
  };
  const speech = { attackSeconds: [0.12, 0.05] as const, noise: 0.03, chiff: 0.1, scoop: 5, vibrato: 0.06 };
  const moves = connected(roots, bothWays(1, 2, 3, 4, 5, 7), speech, shape);
  const other: InstrumentPlan = {
    ...plan,
    slug: `seeded-${seed}`,
    trimDb: plan.trimDb + random.between(-4, 4),
    techniques: [long, moves],
  };
  const lateFrames = Math.round(random.between(0, 0.03) * 48_000);
  const movesDb = random.between(-5, 5);
  const late = (sound: Float32Array, order: TakeOrder) => {
    const hiss = new Random(`hiss ${order.slot} ${order.root} ${order.layer} ${order.interval}`);
    const gain = order.slot === 'move' ? 10 ** (movesDb / 20) : 1;
    const out = new Float32Array(sound.length);
    for (let i = 0; i < out.length; i++) {
      const before = order.slot === 'note' ? i - lateFrames : i;
      out[i] = gain * (sound[before] ?? 0) + (hiss.next() * 2 - 1) * 10 ** (HISS_DB / 20);
    }
    // The loop of a held note lies where it lay: its place was chosen for the sound as it was.
    return order.slot === 'note' && lateFrames > 0 ? closeLoop(out, sound, lateFrames) : out;
  };
  return recorded(other, library.hall, () => true, ['close'], late);
}

/** Blends the end of a delayed loop into what comes before its beginning, so that it still closes. */
function closeLoop(out: Float32Array, sound: Float32Array, late: number): Float32Array {
  const blend = Math.min(2400, late * 4);
  const end = sound.length - 64;
  for (let i = 0; i < blend; i++) {
    const x = ((i + 1) / blend) * (Math.PI / 2);
    const at = end - blend + i;
    if (at >= 0) out[at] = Math.cos(x) * out[at] + Math.sin(x) * (sound[at] ?? 0);
  }
  for (let i = end; i < out.length; i++) out[i] = sound[i];
  return out;
}
