import {
  CORE_VOCABULARY,
  type ArticulationGroup,
  type Fade,
  type Instrument,
  type Vocabulary,
} from '../catalogue/index.ts';
import type { ArticulationId } from '../music/index.ts';
import { sourcesOf, type Keymap, type Source } from './keymap.ts';

/** What an instrument's own articulation is in the house vocabulary, where that is not its own id. */
export interface Translation {
  readonly articulation: ArticulationId;
  readonly term: ArticulationId;
  /** Level when several articulations are one term, and the velocities each answers to. */
  readonly levelDb: number;
  readonly velocityLow: number;
  readonly velocityHigh: number;
}

/** How far a stand-in is from what was asked for. */
export type Distance = 'own' | 'near' | 'far' | 'other';

/** One recording set of an instrument that sounds for a term. */
export interface Voiced {
  /** Index in the instrument's articulations. */
  index: number;
  levelDb: number;
  velocityLow: number;
  velocityHigh: number;
}

/** What an instrument has for a term. `term` is what it is of the vocabulary: another one when it stands in. */
export interface Found {
  term: ArticulationId;
  distance: Distance;
  voiced: readonly Voiced[];
}

/** Stand-ins that are named this early in a term's list are near. */
const NEAR = 2;

/** Finds, for each term of the house vocabulary, what an instrument plays for it. Everything is remembered. */
export class Repertoire {
  private readonly byTerm = new Map<ArticulationId, Voiced[]>();
  private readonly known = new Map<ArticulationId, Found | undefined>();
  private readonly termByIndex: ArticulationId[] = [];

  constructor(
    articulations: readonly { readonly id: ArticulationId }[],
    translations: readonly Translation[] = [],
    readonly vocabulary: Vocabulary = CORE_VOCABULARY,
  ) {
    const own = new Map<ArticulationId, Translation[]>();
    for (const one of translations) own.set(one.articulation, [...(own.get(one.articulation) ?? []), one]);
    articulations.forEach(({ id }, index) => {
      this.termByIndex.push(own.get(id)?.[0].term ?? id);
      for (const one of own.get(id) ?? [{ term: id, levelDb: 0, velocityLow: 1, velocityHigh: 127 }]) {
        const { term, levelDb, velocityLow, velocityHigh } = one;
        const voiced = this.byTerm.get(term) ?? [];
        voiced.push({ index, levelDb, velocityLow, velocityHigh });
        this.byTerm.set(term, voiced);
      }
    });
  }

  /** How an articulation of the instrument behaves in time, by what it is in the vocabulary. */
  groupOf(index: number): ArticulationGroup {
    return this.vocabulary.term(this.termByIndex[index] ?? '').group;
  }

  /** Index of the instrument's own articulation for a term, −1 when it has none. */
  ownIndex(term: ArticulationId): number {
    return this.byTerm.get(term)?.[0].index ?? -1;
  }

  /** Terms the instrument has of its own, in the order of its articulations. */
  get terms(): ArticulationId[] {
    return [...this.byTerm.keys()];
  }

  /** What sounds for a term: its own recordings, else those of the nearest stand-in; undefined when there is nothing at all. */
  find(term: ArticulationId): Found | undefined {
    if (!this.known.has(term)) this.known.set(term, this.search(term));
    return this.known.get(term);
  }

  private search(term: ArticulationId): Found | undefined {
    const own = this.byTerm.get(term);
    if (own) return { term, distance: 'own', voiced: own };
    const { standIns, group } = this.vocabulary.term(term);
    for (const [i, other] of standIns.entries()) {
      const voiced = this.byTerm.get(other);
      if (voiced) return { term: other, distance: i < NEAR ? 'near' : 'far', voiced };
    }
    const alike = this.terms.find((other) => this.vocabulary.term(other).group === group);
    const last = alike ?? this.terms[0];
    const voiced = last === undefined ? undefined : this.byTerm.get(last);
    return voiced && { term: last, distance: alike === undefined ? 'other' : 'far', voiced };
  }
}

/** One articulation that sounds for a note. */
export interface Sounding {
  /** Index in the instrument's articulations. */
  index: number;
  levelDb: number;
  part: Source['part'];
  /** Where a morph's controller lets it be heard. */
  morph: Fade | undefined;
  /** What was asked for and what plays it, when that is another. */
  wanted: ArticulationId;
  term: ArticulationId;
  distance: Distance;
}

/** What sounds for the notes of an articulation. The first one leads: by it notes are connected. */
export type Answer = readonly Sounding[];

const NOTHING: Answer = [];
/** Techniques that lend their attack to long notes struck hard, the fittest first. */
const HARD_ATTACKS: readonly ArticulationId[] = ['accented', 'staccato', 'off the string', 'hit'];

/** A keymap over an instrument: which recordings sound for an articulation and a velocity. Everything is remembered. */
export class Voicing {
  private readonly entries: ReadonlyMap<ArticulationId, Keymap['entries'][number]>;
  private readonly hardAttackFrom: number;
  private readonly known = new Map<string, Answer>();

  constructor(
    keymap: Keymap | undefined,
    readonly repertoire: Repertoire,
  ) {
    this.entries = new Map((keymap?.entries ?? []).map((entry) => [entry.articulation, entry]));
    this.hardAttackFrom = keymap?.touch?.hardAttackFrom ?? 0;
  }

  /** An instrument as it is, without a keymap. */
  static plain(instrument: Pick<Instrument, 'articulations'>, vocabulary?: Vocabulary): Voicing {
    return new Voicing(undefined, new Repertoire(instrument.articulations, [], vocabulary));
  }

  /** The same object for the same question, as long as the voicing lives. */
  answer(articulation: ArticulationId, velocity: number): Answer {
    const name = `${velocity} ${articulation}`;
    let known = this.known.get(name);
    if (!known) this.known.set(name, (known = this.voiced(articulation, velocity)));
    return known;
  }

  /** Articulations of the instrument that sound for one, at whatever velocity. */
  indicesOf(articulation: ArticulationId): number[] {
    const sources = sourcesOf(this.entries.get(articulation) ?? { articulation, sources: [] });
    const found = sources.flatMap((source) => this.repertoire.find(source.articulation)?.voiced ?? []);
    const hard = this.answer(articulation, 127).filter(({ part }) => part === 'attack');
    return [...new Set([...found, ...hard].map(({ index }) => index))];
  }

  /**
   * What sounds in place of an articulation that the instrument does not have, as a term; null where nothing sounds, undefined where it has
   * the articulation of its own. @param velocity with which it is asked for
   */
  standInFor(articulation: ArticulationId, velocity: number): ArticulationId | null | undefined {
    const [first] = this.answer(articulation, velocity) as (Sounding | undefined)[];
    if (!first) return null;
    return first.distance === 'own' ? undefined : first.term;
  }

  private voiced(articulation: ArticulationId, velocity: number): Answer {
    const entry = this.entries.get(articulation);
    const sources = sourcesOf(entry ?? { articulation, sources: [] });
    const fitting = sources.filter(
      ({ velocityLow, velocityHigh }) => velocity >= velocityLow && velocity <= velocityHigh,
    );
    const windows = entry?.morph === undefined ? undefined : morphWindows(fitting, entry.morph);
    const sounding = fitting.flatMap((source) => this.soundingOf(source, velocity, windows?.get(source)));
    const hard = this.hardAttack(sounding, velocity);
    if (hard) sounding.push(hard);
    // What is played whole leads; attacks are laid on it.
    sounding.sort((a, b) => Number(a.part === 'attack') - Number(b.part === 'attack'));
    return sounding.length > 0 ? sounding : NOTHING;
  }

  /** The attack that is laid on a long note struck hard, where the keymap says so and the instrument has one. */
  private hardAttack(sounding: readonly Sounding[], velocity: number): Sounding | undefined {
    const { repertoire } = this;
    if (this.hardAttackFrom === 0 || velocity < this.hardAttackFrom || sounding.length === 0)
      return undefined;
    const group = repertoire.groupOf(sounding[0].index);
    if (group !== 'long' && group !== 'connected') return undefined;
    if (sounding.some(({ part }) => part === 'attack')) return undefined;
    const term = HARD_ATTACKS.find((one) => repertoire.ownIndex(one) >= 0);
    if (term === undefined) return undefined;
    const index = repertoire.ownIndex(term);
    return { index, levelDb: 0, part: 'attack', morph: undefined, wanted: term, term, distance: 'own' };
  }

  private soundingOf(source: Source, velocity: number, morph: Fade | undefined): Sounding[] {
    const found = this.repertoire.find(source.articulation);
    if (!found) return [];
    const { term, distance, voiced } = found;
    return voiced
      .filter(({ velocityLow, velocityHigh }) => velocity >= velocityLow && velocity <= velocityHigh)
      .map(({ index, levelDb }) => ({
        index,
        levelDb: source.levelDb + levelDb,
        part: source.part,
        morph,
        wanted: source.articulation,
        term,
        distance,
      }));
  }
}

/** Where along a controller each of some sources is heard: alone at its own place, blended with its neighbours between. */
export function morphWindows(sources: readonly Source[], controller: number): Map<Source, Fade> {
  const sorted = [...sources].sort((a, b) => a.morphAt - b.morphAt);
  return new Map(
    sorted.map((source, i) => {
      const before = sorted[i - 1]?.morphAt;
      const after = sorted[i + 1]?.morphAt;
      const inHigh = before === undefined ? 0 : source.morphAt;
      const outLow = after === undefined ? 127 : source.morphAt;
      return [source, { controller, inLow: before ?? 0, inHigh, outLow, outHigh: after ?? 127 }];
    }),
  );
}

/** Places for the sources of a morph, evenly along the controller in their order. */
export function spreadMorph(sources: readonly Source[]): { id: string; morphAt: number }[] {
  const last = Math.max(1, sources.length - 1);
  return sources.map(({ id }, i) => ({ id, morphAt: Math.round((i * 127) / last) }));
}
