import type { ArticulationId } from '../music/index.ts';
import type { Trigger } from './keymap.ts';
import { resolve, type CompiledKeymap, type KeymapEvent, type KeymapState, type Way } from './resolve.ts';

/** What must be sent so that a note gets an articulation. */
export interface Selecting {
  /** In order, ahead of the note; keys among them that select while held are to be let go after it. */
  before: readonly KeymapEvent[];
  heldKeys: readonly number[];
  channel: number;
  /** The note's own velocity, moved into the range that selects the articulation where there is one. */
  velocity: number;
  /** State once the keys are let go. */
  state: KeymapState;
}

/**
 * The shortest way to select an articulation for a note: nothing when it holds already, else the first of its sets of
 * triggers that leads there. The inverse of `resolve`: what it gives is checked by it.
 * @returns undefined when no trigger leads there: the note needs a track of its own
 */
export function selectingOf(
  compiled: CompiledKeymap,
  state: KeymapState,
  articulation: ArticulationId,
  note: { channel: number; velocity: number },
): Selecting | undefined {
  const leads = (candidate: Selecting) => {
    const { channel, velocity } = candidate;
    let now = state;
    for (const event of candidate.before) now = resolve(compiled, now, event).state;
    const got = resolve(compiled, now, { kind: 'press', channel, key: -1, velocity });
    for (const key of candidate.heldKeys) now = resolve(compiled, now, { kind: 'release', key }).state;
    return got.articulation === articulation ? { ...candidate, state: now } : undefined;
  };
  const plain = leads({ before: [], heldKeys: [], ...note, state });
  if (plain) return plain;
  for (const way of compiled.ways) {
    if (way.entry.articulation !== articulation) continue;
    const found = leads(selectingBy(way, note, state));
    if (found) return found;
  }
  return undefined;
}

function selectingBy(
  { selectors, filters }: Way,
  note: { channel: number; velocity: number },
  state: KeymapState,
): Selecting {
  const velocity = filters.find(({ kind }) => kind === 'velocity');
  return {
    before: [...selectors].sort((a, b) => ORDER[a.kind] - ORDER[b.kind]).map(eventOf),
    heldKeys: selectors.flatMap(({ kind, hold, number }) =>
      kind === 'key' && hold === 'held' ? [number] : [],
    ),
    channel: filters.find(({ kind }) => kind === 'channel')?.number ?? note.channel,
    velocity: velocity ? Math.min(velocity.high, Math.max(velocity.low, note.velocity)) : note.velocity,
    state,
  };
}

/** A bank goes before the program it belongs to, and keys that are held come last. */
const ORDER: Readonly<Record<Trigger['kind'], number>> = {
  bank: 0,
  program: 1,
  controller: 2,
  key: 3,
  velocity: 4,
  channel: 4,
  track: 4,
};

function eventOf({ kind, number, low, high }: Trigger): KeymapEvent {
  if (kind === 'bank') return { kind, bank: number };
  if (kind === 'program') return { kind, program: number };
  if (kind === 'controller')
    return { kind: 'control', controller: number, value: Math.round((low + high) / 2) };
  return { kind: 'press', channel: 0, key: number, velocity: 100 };
}

/** What a MIDI track that plays one articulation alone has at the end of its name. */
export const laneName = (articulation: ArticulationId) => ` · ${articulation}`;

/** Stands at the beginning of a MIDI file that was made to be performed. */
export const EMPTY_BAR = 'one empty bar, so that leads have room';
