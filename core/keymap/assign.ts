import { CORE_VOCABULARY, type Vocabulary } from '../catalogue/index.ts';
import { pitchName, type ArticulationId, type MiddleC } from '../music/index.ts';
import { keysPlayed, type KeyRange } from './keys.ts';

/** By what keyswitches are given. */
export interface AssignRules {
  /** Where keys are looked for: below the playing range, above it, or on the side with more room. */
  side: 'below' | 'above' | 'wider';
  /** Keys left free between the range and the nearest switch. */
  guardKeys: number;
  /** One key for one technique in all sections, where a key is free in all of them. */
  sameKeys: boolean;
  /** What comes nearest to the range: what is used most, or what stands first in the vocabulary. */
  nearest: 'used' | 'first';
}

export const PLAIN_RULES: AssignRules = { side: 'below', guardKeys: 2, sameKeys: true, nearest: 'used' };

/** What is to get keys. */
export interface Assignable {
  keymapId: string;
  name: string;
  articulations: readonly ArticulationId[];
  /** Ranges of all instruments that play by it, and of those that follow it. */
  ranges: readonly KeyRange[];
}

/** A key for an articulation of a keymap, with the reason in a few words. */
export interface Assigned {
  keymapId: string;
  articulation: ArticulationId;
  /** Undefined when no key is left. */
  key: number | undefined;
  reason: string;
}

/**
 * Gives every articulation a key by rules. Techniques that more sections have, and that are used more, choose first.
 * @param uses how often each technique is used, for example by marks in cues; missing ones count 0
 */
export function assignKeys(
  keymaps: readonly Assignable[],
  rules: AssignRules,
  uses: ReadonlyMap<ArticulationId, number> = new Map(),
  vocabulary: Vocabulary = CORE_VOCABULARY,
  middleC?: MiddleC,
): Assigned[] {
  const order = new Map(vocabulary.terms.map(({ id }, i) => [id, i]));
  const place = (id: ArticulationId) => order.get(id) ?? order.size;
  const shared = new Map<ArticulationId, Assignable[]>();
  for (const keymap of keymaps)
    for (const id of keymap.articulations) shared.set(id, [...(shared.get(id) ?? []), keymap]);
  const ids = [...shared.keys()].sort(
    (a, b) =>
      (rules.nearest === 'used' ? (uses.get(b) ?? 0) - (uses.get(a) ?? 0) : 0) ||
      place(a) - place(b) ||
      (a < b ? -1 : 1),
  );
  const rooms = new Map(keymaps.map((keymap) => [keymap.keymapId, new Room(keymap, rules)]));
  const out: Assigned[] = [];
  for (const articulation of ids) {
    const owners = shared.get(articulation) ?? [];
    const common = rules.sameKeys ? commonKey(owners, rooms) : undefined;
    for (const { keymapId } of owners) {
      const room = rooms.get(keymapId);
      const key = common ?? room?.nearest();
      if (key !== undefined) room?.take(key);
      out.push({ keymapId, articulation, key, reason: reasonOf(key, common, owners, rules, middleC) });
    }
  }
  return out;
}

function reasonOf(
  key: number | undefined,
  common: number | undefined,
  owners: readonly Assignable[],
  rules: AssignRules,
  middleC: MiddleC | undefined,
): string {
  if (key === undefined) return 'no key is left outside the playing range';
  const where = pitchName(key, middleC);
  if (owners.length === 1) return `${where} is the nearest free key`;
  if (common !== undefined) return `${where} is free in all ${owners.length} sections that have it`;
  return rules.sameKeys
    ? `no key is free in all ${owners.length} sections; ${where} is the nearest here`
    : `${where} is the nearest free key here`;
}

/** The key that all owners can take and that lies nearest to the range of the first of them. */
function commonKey(owners: readonly Assignable[], rooms: ReadonlyMap<string, Room>): number | undefined {
  const own = owners.flatMap(({ keymapId }) => rooms.get(keymapId) ?? []);
  return own[0]?.keys.find((key) => own.every((room) => room.isFree(key)));
}

/** Where keys are given that need not keep clear of any range: C1. */
const FIRST_KEY = 24;

/** Keys a keymap may use, nearest to the range first. */
class Room {
  readonly keys: readonly number[];
  private readonly free: Set<number>;

  constructor({ ranges }: Assignable, { side, guardKeys }: AssignRules) {
    const played = keysPlayed(ranges, guardKeys);
    const low = Math.min(128, ...ranges.map((range) => range.low));
    const high = Math.max(-1, ...ranges.map((range) => range.high));
    const below = descending(low - 1).filter((key) => !played.has(key));
    const above = ascending(high + 1).filter((key) => !played.has(key));
    if (ranges.length === 0) {
      this.keys = [...ascending(FIRST_KEY), ...descending(FIRST_KEY - 1)];
      this.free = new Set(this.keys);
      return;
    }
    const first = side === 'below' || (side === 'wider' && below.length >= above.length);
    this.keys = first ? [...below, ...above] : [...above, ...below];
    this.free = new Set(this.keys);
  }

  isFree(key: number): boolean {
    return this.free.has(key);
  }

  nearest(): number | undefined {
    return this.keys.find((key) => this.free.has(key));
  }

  take(key: number): void {
    this.free.delete(key);
  }
}

const descending = (from: number) => Array.from({ length: Math.max(0, from + 1) }, (_, i) => from - i);
const ascending = (from: number) => Array.from({ length: Math.max(0, 128 - from) }, (_, i) => from + i);
