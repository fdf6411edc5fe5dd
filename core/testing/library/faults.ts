import type { Random } from '../../dsp/index.ts';
import type { Place } from './stage.ts';

interface Spot {
  articulation: string;
  key: number;
  /** Every layer and take unless named. */
  layer?: number;
  take?: number;
}

/** One thing that is wrong with a library, and where. */
export type Fault =
  | ({ kind: 'layer-level'; db: number } & Spot)
  | ({ kind: 'layer-bright' } & Spot)
  | { kind: 'loud'; articulation: string; db: number }
  | { kind: 'hiss'; place: Place['id']; dbfs: number }
  | { kind: 'mono'; place: Place['id']; keys: number[] }
  | { kind: 'ring'; hertz: number }
  | { kind: 'polarity'; place: Place['id'] }
  | ({ kind: 'mistuned'; cents: number } & Spot)
  | ({ kind: 'borrowed'; from: number } & Spot)
  | ({ kind: 'repeated'; same: number } & Spot)
  | ({ kind: 'late'; seconds: number } & Spot)
  | ({ kind: 'loop-bump' } & Spot);

export const FAULT_KINDS = [
  'layer-level',
  'layer-bright',
  'loud',
  'hiss',
  'mono',
  'ring',
  'polarity',
  'mistuned',
  'borrowed',
  'repeated',
  'late',
  'loop-bump',
] as const;

/** What a library is like in which faults are planted. */
export interface Ground {
  random: Random;
  roots: readonly number[];
  layers: number;
  looped: boolean;
  players: number;
}

/** Faults of different kinds at places by chance. */
export function plant(count: number, ground: Ground): Fault[] {
  const { random, looped } = ground;
  const kinds = FAULT_KINDS.filter((kind) => looped || kind !== 'loop-bump');
  const faults: Fault[] = [];
  while (faults.length < Math.min(count, kinds.length)) {
    const kind = kinds[Math.floor(random.next() * kinds.length)];
    if (faults.some((one) => one.kind === kind)) continue;
    const fault = faultOf(kind, ground);
    // On one key faults would undo or hide each other.
    if (!faults.some((one) => keysOf(one).some((key) => keysOf(fault).includes(key)))) faults.push(fault);
  }
  return faults;
}

/** Where a fault lies, and what it needs to be heard by. */
const keysOf = (fault: Fault): string[] =>
  fault.kind === 'borrowed'
    ? [fault.key, fault.from].map((key) => `${fault.articulation} ${key}`)
    : 'key' in fault
      ? [`${fault.articulation} ${fault.key}`]
      : [];

function faultOf(kind: Fault['kind'], { random, roots, layers }: Ground): Fault {
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random.next() * list.length)];
  const sign = () => (random.next() < 0.5 ? -1 : 1);
  const key = pick(roots);
  const take = Math.floor(random.next() * 3);
  const place = pick(['close', 'tree', 'far'] as const);
  switch (kind) {
    case 'layer-level':
      return {
        kind,
        articulation: 'long',
        key,
        layer: Math.floor(random.next() * layers),
        db: sign() * random.between(3.5, 6),
      };
    case 'layer-bright':
      return { kind, articulation: 'long', key, layer: layers - 1 };
    case 'loud':
      return {
        kind,
        articulation: pick(['staccato', 'staccatissimo', 'spiccato', 'portato']),
        db: random.between(5, 8),
      };
    case 'hiss':
      return { kind, place, dbfs: random.between(-58, -48) };
    case 'mono': {
      const first = Math.floor(random.next() * (roots.length - 2));
      return { kind, place, keys: roots.slice(first, first + 2 + Math.floor(random.next() * 2)) };
    }
    case 'ring':
      // Between two keys: on one it would be a fault of that key as well.
      return { kind, hertz: 440 * 2 ** ((Math.round(random.between(-18, 17)) + 0.5) / 12) };
    case 'polarity':
      return { kind, place: pick(['tree', 'far'] as const) };
    case 'mistuned':
      return { kind, articulation: 'long', key, cents: sign() * random.between(10, 25) };
    case 'borrowed': {
      const i = Math.floor(random.next() * (roots.length - 1));
      const [a, b] = sign() > 0 ? [roots[i], roots[i + 1]] : [roots[i + 1], roots[i]];
      return { kind, articulation: 'staccato', key: a, from: b, take };
    }
    case 'repeated':
      return { kind, articulation: 'staccato', key, take: 1 + Math.floor(random.next() * 2), same: 0 };
    case 'late':
      return { kind, articulation: 'staccato', key, take, seconds: random.between(0.035, 0.07) };
    case 'loop-bump':
      return { kind, articulation: 'long', key };
  }
}

/** Whether a fault lies at a take of a note. */
export function isAt(
  fault: Fault,
  { articulation, key, layer, take }: { articulation: string; key: number; layer: number; take: number },
): boolean {
  if (fault.kind === 'loud') return fault.articulation === articulation;
  if (!('articulation' in fault) || fault.articulation !== articulation || fault.key !== key) return false;
  return (fault.layer ?? layer) === layer && (fault.take ?? take) === take;
}
