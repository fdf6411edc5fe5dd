import { CORE_VOCABULARY, type Vocabulary } from '../catalogue/index.ts';
import { pitchName, type ArticulationId, type MiddleC } from '../music/index.ts';
import { freeKey, keysPlayed, type KeyRange } from './keys.ts';
import { sourcesOf, type Entry, type Keymap, type Trigger } from './keymap.ts';
import { areEqualRivals, compileKeymap, type Way } from './resolve.ts';
import { spread } from './spread.ts';
import type { Repertoire } from './voicing.ts';

/** A change that would do away with a clash. */
export interface Repair {
  /** What it does, as an order: “Move it to F0”. */
  text: string;
  changes: readonly RepairChange[];
}

export type RepairChange =
  | { what: 'trigger'; id: string; fields: Partial<Omit<Trigger, 'id'>> }
  | { what: 'new trigger'; entryId: string; fields: Omit<Trigger, 'id'> }
  | { what: 'source'; id: string; fields: { velocityLow: number; velocityHigh: number } }
  | { what: 'initial'; articulation: ArticulationId };

export type ClashKind =
  | 'outside'
  | 'twice'
  | 'overlap'
  | 'silent velocities'
  | 'inside range'
  | 'unreachable'
  | 'no default'
  | 'differs'
  | 'stands in';

/** Something about a keymap that does not go together, in a sentence, with where it is and what would mend it. */
export interface Clash {
  kind: ClashKind;
  /** True when the keymap must not be saved so: for some note it would not say which one thing sounds. */
  refused: boolean;
  entryId: string;
  triggerId?: string;
  sentence: string;
  repair?: Repair;
}

/** What a keymap is looked at with. */
export interface ClashContext {
  /** What the instruments that use it play. */
  ranges: readonly KeyRange[];
  /** Keys on which other keymaps of the house have each articulation, with the name of one of them. */
  elsewhere?: ReadonlyMap<ArticulationId, { key: number; where: string }>;
  vocabulary?: Vocabulary;
  middleC?: MiddleC;
  /** What the instrument it is seen over plays, and its name: what only stands in is then told. */
  played?: { name: string; repertoire: Repertoire };
}

/** Everything that does not go together in a keymap, what must not be saved first. */
export function findClashes(keymap: Keymap, context: ClashContext): Clash[] {
  const look = new Looking(keymap, context);
  return [
    ...look.outside(),
    ...look.rivals(),
    ...look.silent(),
    ...look.insideRange(),
    ...look.unreachable(),
    ...look.noDefault(),
    ...look.standingIn(),
    ...look.differing(),
  ];
}

/** Only what must not be saved: it depends on nothing but the keymap itself. */
export function findAmbiguities(keymap: Keymap): Clash[] {
  const look = new Looking(keymap, { ranges: [] });
  return [...look.outside(), ...look.rivals(), ...look.silent()];
}

class Looking {
  private readonly vocabulary: Vocabulary;
  private readonly ranges: readonly KeyRange[];

  constructor(
    private readonly keymap: Keymap,
    private readonly context: ClashContext,
  ) {
    this.vocabulary = context.vocabulary ?? CORE_VOCABULARY;
    this.ranges = context.ranges;
  }

  private name(entry: Entry): string {
    return this.vocabulary.term(entry.articulation).name;
  }

  private key(key: number): string {
    return pitchName(key, this.context.middleC);
  }

  private free(near: number): number | undefined {
    return freeKey(near, keysPlayed(this.ranges), usedKeys(this.keymap));
  }

  private moveKey(trigger: Trigger): Repair | undefined {
    const key = this.free(trigger.number);
    if (key === undefined) return undefined;
    return {
      text: `Move it to ${this.key(key)}`,
      changes: [{ what: 'trigger', id: trigger.id, fields: { number: key } }],
    };
  }

  *outside(): Generator<Clash> {
    for (const entry of this.keymap.entries)
      for (const trigger of entry.triggers) {
        const [low, high] = numbersOf(trigger);
        const wrongNumber = !(trigger.number >= low && trigger.number <= high);
        const wrongRange =
          (trigger.kind === 'velocity' || trigger.kind === 'controller') &&
          !(trigger.low >= 0 && trigger.low <= trigger.high && trigger.high <= 127);
        if (wrongNumber || wrongRange)
          yield {
            kind: 'outside',
            refused: true,
            entryId: entry.id,
            triggerId: trigger.id,
            sentence: wrongNumber
              ? `The ${trigger.kind} of ${this.name(entry)} is none that MIDI knows (${low} to ${high}).`
              : `The range of ${this.name(entry)} runs from ${trigger.low} to ${trigger.high}; it needs a lowest and a highest value within 0 and 127.`,
            ...optional(wrongNumber && trigger.kind === 'key' ? this.moveKey(trigger) : undefined),
          };
      }
  }

  /** Ways to select two different entries that one and the same note could mean. */
  *rivals(): Generator<Clash> {
    const { ways } = compileKeymap(this.keymap);
    const groups = new Map<string, Way[]>();
    for (const way of ways) {
      const sign = `${[...way.moved].sort((x, y) => x - y).join()} ${way.filters.length}`;
      const group = groups.get(sign) ?? [];
      for (const before of group)
        if (before.entry !== way.entry && areEqualRivals(before, way)) {
          yield this.rivalry(before, way);
          break;
        }
      group.push(way);
      groups.set(sign, group);
    }
  }

  private rivalry(before: Way, way: Way): Clash {
    const ranged = [...way.selectors, ...way.filters].find(
      ({ kind }) => kind === 'velocity' || kind === 'controller',
    );
    const other =
      ranged &&
      [...before.selectors, ...before.filters].find(
        ({ kind, number }) => kind === ranged.kind && (kind === 'velocity' || number === ranged.number),
      );
    const same = !ranged || !other || (ranged.low === other.low && ranged.high === other.high);
    const trigger = ranged ?? way.selectors[0] ?? way.filters[0];
    const [mine, theirs] = [this.name(way.entry), this.name(before.entry)];
    const base = { refused: true, entryId: way.entry.id, triggerId: trigger.id };
    if (same)
      return {
        ...base,
        kind: 'twice',
        sentence: `${this.described(trigger)} already selects ${theirs}; it cannot select ${mine} as well.`,
        ...optional(this.elsewhereOf(trigger)),
      };
    return {
      ...base,
      kind: 'overlap',
      sentence: `${this.described(trigger)} selects ${mine}, and ${other.low} to ${other.high} selects ${theirs}: between ${Math.max(trigger.low, other.low)} and ${Math.min(trigger.high, other.high)} it would be both.`,
      ...optional(apart(trigger, other)),
    };
  }

  /** A place for a trigger that is taken where it stands. */
  private elsewhereOf(trigger: Trigger): Repair | undefined {
    if (trigger.kind === 'key') return this.moveKey(trigger);
    const all = this.keymap.entries
      .flatMap((entry) => entry.triggers)
      .filter(({ kind }) => kind === trigger.kind);
    if (trigger.kind === 'controller' || trigger.kind === 'velocity') {
      const peers = all.filter(({ number }) => trigger.kind === 'velocity' || number === trigger.number);
      const parts = spread(peers.length, trigger.kind === 'velocity' ? 1 : 0);
      return {
        text: `Share the values among ${peers.length} articulations`,
        changes: peers.map(({ id }, i) => ({ what: 'trigger', id, fields: parts[i] })),
      };
    }
    const used = new Set(all.map(({ number }) => number));
    const [low, high] = numbersOf(trigger);
    for (let number = low; number <= high; number++)
      if (!used.has(number))
        return {
          text: `Use ${trigger.kind} ${number + 1}`,
          changes: [{ what: 'trigger', id: trigger.id, fields: { number } }],
        };
    return undefined;
  }

  private described(trigger: Trigger): string {
    return describeTrigger(trigger, this.context.middleC);
  }

  /** Velocities at which an entry would sound nothing. */
  *silent(): Generator<Clash> {
    for (const entry of this.keymap.entries) {
      if (entry.sources.length === 0) continue;
      const sorted = [...entry.sources].sort((a, b) => a.velocityLow - b.velocityLow);
      let next = 1;
      let gap: { low: number; high: number } | undefined;
      for (const source of [...sorted, { velocityLow: 128, velocityHigh: 128 }]) {
        if (source.velocityLow > next) gap ??= { low: next, high: source.velocityLow - 1 };
        next = Math.max(next, source.velocityHigh + 1);
      }
      if (!gap) continue;
      const { low, high } = gap;
      const nearest = sorted.find((source) => source.velocityHigh === low - 1) ?? sorted[0];
      yield {
        kind: 'silent velocities',
        refused: true,
        entryId: entry.id,
        sentence: `${this.name(entry)} would be silent at velocities ${low} to ${high}: no articulation answers to them.`,
        repair: {
          text: `Let ${this.vocabulary.term(nearest.articulation).name} answer to them`,
          changes: [
            {
              what: 'source',
              id: nearest.id,
              fields: {
                velocityLow: Math.min(nearest.velocityLow, low),
                velocityHigh: Math.max(nearest.velocityHigh, high),
              },
            },
          ],
        },
      };
    }
  }

  *insideRange(): Generator<Clash> {
    for (const entry of this.keymap.entries)
      for (const trigger of entry.triggers) {
        if (trigger.kind !== 'key') continue;
        const range = this.ranges.find(({ low, high }) => trigger.number >= low && trigger.number <= high);
        if (!range) continue;
        yield {
          kind: 'inside range',
          refused: false,
          entryId: entry.id,
          triggerId: trigger.id,
          sentence: `${this.key(trigger.number)} is a note of ${range.name} (${this.key(range.low)} to ${this.key(range.high)}); as the trigger of ${this.name(entry)} it can no longer sound.`,
          ...optional(this.moveKey(trigger)),
        };
      }
  }

  *unreachable(): Generator<Clash> {
    for (const entry of this.keymap.entries) {
      if (entry.triggers.length > 0 || entry.articulation === this.keymap.initial) continue;
      const key = this.free(this.context.elsewhere?.get(entry.articulation)?.key ?? 24);
      yield {
        kind: 'unreachable',
        refused: false,
        entryId: entry.id,
        sentence: `Nothing selects ${this.name(entry)} while playing; only marks reach it.`,
        ...optional(
          key === undefined
            ? undefined
            : {
                text: `Give it ${this.key(key)}`,
                changes: [{ what: 'new trigger', entryId: entry.id, fields: plainTrigger({ number: key }) }],
              },
        ),
      };
    }
  }

  /** Sources that another articulation stands in for, or that nothing plays. */
  *standingIn(): Generator<Clash> {
    const { played } = this.context;
    if (!played) return;
    for (const entry of this.keymap.entries)
      for (const source of sourcesOf(entry)) {
        const found = played.repertoire.find(source.articulation);
        if (found?.distance === 'own') continue;
        const wanted = this.vocabulary.term(source.articulation).name;
        yield {
          kind: 'stands in',
          refused: false,
          entryId: entry.id,
          sentence:
            !found || found.distance === 'other'
              ? `${played.name} have no ${wanted}, and nothing near it.`
              : `${played.name} have no ${wanted}; ${this.vocabulary.term(found.term).name} stands in.`,
        };
      }
  }

  *noDefault(): Generator<Clash> {
    const { entries, initial } = this.keymap;
    if (entries.length === 0 || entries.some((entry) => entry.articulation === initial)) return;
    const first = entries.find(({ articulation }) => articulation === 'long') ?? entries[0];
    yield {
      kind: 'no default',
      refused: false,
      entryId: first.id,
      sentence:
        'No articulation holds from the beginning: what sounds first would depend on what was played before.',
      repair: {
        text: `Begin with ${this.name(first)}`,
        changes: [{ what: 'initial', articulation: first.articulation }],
      },
    };
  }

  *differing(): Generator<Clash> {
    const used = usedKeys(this.keymap);
    const played = keysPlayed(this.ranges);
    for (const entry of this.keymap.entries) {
      const there = this.context.elsewhere?.get(entry.articulation);
      const keys = entry.triggers.filter(({ kind }) => kind === 'key');
      if (!there || keys.length === 0 || keys.some(({ number }) => number === there.key)) continue;
      const room = !used.has(there.key) && !played.has(there.key);
      yield {
        kind: 'differs',
        refused: false,
        entryId: entry.id,
        triggerId: keys[0].id,
        sentence: `${this.name(entry)} is on ${this.key(keys[0].number)} here and on ${this.key(there.key)} in ${there.where}.`,
        ...optional(
          room
            ? {
                text: `Use ${this.key(there.key)} here too`,
                changes: [{ what: 'trigger', id: keys[0].id, fields: { number: there.key } }],
              }
            : undefined,
        ),
      };
    }
  }
}

const optional = (repair: Repair | undefined) => (repair ? { repair } : {});

/** Lowest and highest number a trigger of a kind may have. */
function numbersOf({ kind }: Trigger): [number, number] {
  if (kind === 'bank') return [0, 16383];
  return [0, kind === 'channel' ? 15 : 127];
}

/** Cuts a range so that it ends where the other begins. */
function apart(trigger: Trigger, other: Trigger): Repair | undefined {
  const [low, high] =
    trigger.low >= other.low
      ? [other.high + 1, Math.max(trigger.high, other.high + 1)]
      : [trigger.low, other.low - 1];
  if (low > high || high > 127) return undefined;
  return {
    text: `Let it answer to ${low} to ${high}`,
    changes: [{ what: 'trigger', id: trigger.id, fields: { low, high } }],
  };
}

/** A latching keyswitch, or what is given of another trigger. */
export function plainTrigger(fields: Partial<Omit<Trigger, 'id'>> = {}): Omit<Trigger, 'id'> {
  return { kind: 'key', set: 0, number: 0, low: 0, high: 127, hold: 'latching', ...fields };
}

/** A trigger in words: “F1”, “Controller 32 from 0 to 31”. Channels and programs are told from 1, as devices show them. */
export function describeTrigger(trigger: Trigger, middleC?: MiddleC): string {
  const { kind, number, low, high, hold } = trigger;
  switch (kind) {
    case 'key':
      return `${pitchName(number, middleC)}${hold === 'held' ? ' held' : ''}`;
    case 'controller':
      return `Controller ${number} from ${low} to ${high}`;
    case 'velocity':
      return `Velocity from ${low} to ${high}`;
    case 'program':
      return `Program ${number + 1}`;
    case 'bank':
      return `Bank ${number}`;
    case 'channel':
      return `Channel ${number + 1}`;
    case 'track':
      return 'A track of its own';
  }
}

/** Keys that a keymap uses as switches. */
export function usedKeys(keymap: Keymap): Set<number> {
  const keys = new Set<number>();
  for (const entry of keymap.entries)
    for (const { kind, number } of entry.triggers) if (kind === 'key') keys.add(number);
  return keys;
}
