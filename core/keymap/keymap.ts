import type { ArticulationId } from '../music/index.ts';
import type { Ride, TouchRules } from './responses.ts';

/** What can select an articulation. */
export const TRIGGER_KINDS = [
  'key',
  'controller',
  'program',
  'bank',
  'velocity',
  'channel',
  'track',
] as const;
export type TriggerKind = (typeof TRIGGER_KINDS)[number];

/**
 * One condition under which an entry sounds. Those of an entry that carry the same `set` number must hold together; of
 * several sets any one will do.
 */
export interface Trigger {
  readonly id: string;
  readonly kind: TriggerKind;
  readonly set: number;
  /** Key, controller, program or channel, each from 0; bank of 14 bits. Nothing for velocity and track. */
  readonly number: number;
  /** Controller or velocity: lowest and highest value, both inclusive. */
  readonly low: number;
  readonly high: number;
  /** A key selects for good, or only while it is held. */
  readonly hold: 'latching' | 'held';
}

/** How much of an articulation a source sounds: all, its attack only, or what follows the attack of another. */
export const SOURCE_PARTS = ['whole', 'attack', 'body'] as const;
export type SourcePart = (typeof SOURCE_PARTS)[number];

/** One articulation that sounds for an entry. */
export interface Source {
  readonly id: string;
  readonly articulation: ArticulationId;
  readonly levelDb: number;
  /** Velocities it answers to, both inclusive. */
  readonly velocityLow: number;
  readonly velocityHigh: number;
  readonly part: SourcePart;
  /** Where along the morph's controller it is heard alone, 0…127; not used without a morph. */
  readonly morphAt: number;
}

/** One articulation of the house vocabulary in a keymap: what selects it, and what then sounds. */
export interface Entry {
  readonly id: string;
  readonly articulation: ArticulationId;
  readonly triggers: readonly Trigger[];
  /** What sounds; when empty, the articulation itself. Several with the same velocities sound together. */
  readonly sources: readonly Source[];
  /** Controller that goes from one source to the next; undefined when all sound at once. */
  readonly morph?: number;
}

/** How an instrument (or several of a kind) answers to what is played. */
export interface Keymap {
  readonly id: string;
  readonly name: string;
  /** Entry that holds until something selects another; empty is none. */
  readonly initial: ArticulationId;
  readonly entries: readonly Entry[];
  /** Parameters that are not ridden as usual. */
  readonly rides?: readonly Ride[];
  /** What velocity and dynamics do beyond the recordings; nothing unless given. */
  readonly touch?: TouchRules;
}

/** Triggers of an entry, those that must hold together side by side, by rising number. */
export function triggerSets(entry: Entry): (readonly Trigger[])[] {
  const sets = new Map<number, Trigger[]>();
  for (const trigger of entry.triggers) {
    const known = sets.get(trigger.set);
    if (known) known.push(trigger);
    else sets.set(trigger.set, [trigger]);
  }
  return [...sets.entries()].sort(([a], [b]) => a - b).map(([, triggers]) => triggers);
}

/** A source that is the articulation itself, in full, at its own level. */
export function plainSource(articulation: ArticulationId): Source {
  return {
    id: articulation,
    articulation,
    levelDb: 0,
    velocityLow: 1,
    velocityHigh: 127,
    part: 'whole',
    morphAt: 0,
  };
}

/** What an entry sounds, its own articulation when nothing is said. */
export function sourcesOf(entry: Pick<Entry, 'articulation' | 'sources'>): readonly Source[] {
  return entry.sources.length > 0 ? entry.sources : [plainSource(entry.articulation)];
}
