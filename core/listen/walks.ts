import {
  articulationTerm,
  byNearness,
  markedSeconds,
  playableRange,
  positionName,
  type Instrument,
} from '../catalogue/index.ts';
import { PLAIN_POSITION, type HallMix, type TrackMix } from '../mixing/index.ts';
import { CONTROLLER } from '../music/index.ts';
import { TICKS_PER_QUARTER } from '../units/index.ts';
import { writePhrase, type WrittenPhrase } from './phrases.ts';

/** One stop of a walk: what is played and how. */
export interface WalkStep {
  /** Named large while it sounds. */
  name: string;
  /** What it is about, in a few words. */
  about: string;
  articulation: string;
  phrase: WrittenPhrase;
  /** Level of each position in dB; others are silent. */
  levels: Readonly<Record<string, number>>;
  /** Send into the artificial hall, and its parts; none unless given. */
  hall?: { sendDb: number; mix: HallMix };
}

const WALK_BPM = 100;
const LEVEL_DB = -4;
const SILENT_DB = -60;
const HALL_SEND_DB = -6;

/** A mix of some positions at given levels, with or without the artificial hall. */
export function mixOfLevels(levels: Readonly<Record<string, number>>, hallSendDb = SILENT_DB): TrackMix {
  const positions = Object.fromEntries(
    Object.entries(levels).map(([id, levelDb]) => [id, { ...PLAIN_POSITION, levelDb }]),
  );
  return { gainDb: 0, pan: 0, muted: false, hallSendDb, positions };
}

/** Every position at the level in which a sound is first heard. */
export function plainLevels(instrument: Pick<Instrument, 'positions'>): Record<string, number> {
  return Object.fromEntries(instrument.positions.map(({ id }) => [id, LEVEL_DB]));
}

/** All articulations one after the other, each with a phrase that suits it. */
export function articulationWalk(instrument: Instrument): WalkStep[] {
  return instrument.articulations.flatMap((articulation) => {
    const range = playableRange(articulation);
    if (!range) return [];
    const { group, name } = articulationTerm(articulation.id);
    const marked = markedSeconds(articulation);
    const phrase =
      group === 'dynamic' || group === 'pattern'
        ? heldNote(range, (marked ?? 2.5) + 0.4)
        : writePhrase(
            { long: 'single', short: 'arpeggio fast', connected: 'melody small' }[group],
            range,
            WALK_BPM,
          );
    return [
      {
        name: articulation.name || name,
        about: group,
        articulation: articulation.id,
        phrase,
        levels: plainLevels(instrument),
      },
    ];
  });
}

function heldNote(range: { low: number; high: number }, seconds: number): WrittenPhrase {
  const endTick = Math.round((seconds * WALK_BPM * TICKS_PER_QUARTER) / 60);
  return {
    part: {
      notes: [
        { id: 'held', startTick: 0, endTick, key: Math.round((range.low + range.high) / 2), velocity: 90 },
      ],
      marks: [],
      points: [{ id: 'held 1', controller: CONTROLLER.dynamics, tick: 0, value: 90 }],
    },
    endTick: endTick + TICKS_PER_QUARTER,
  };
}

/**
 * The positions of an instrument: each alone, then added one by one, then from near to far, then the nearest with an
 * artificial hall (its early part, its tail, both) against the recorded room.
 */
export function positionWalk(instrument: Instrument, articulation: string): WalkStep[] {
  const range = playableRange(
    instrument.articulations.find((one) => one.id === articulation) ?? { id: '', name: '', zones: [] },
  );
  if (!range) return [];
  const { group } = articulationTerm(articulation);
  const phrase = writePhrase(
    group === 'short' ? 'arpeggio fast' : group === 'connected' ? 'melody small' : 'single',
    range,
    WALK_BPM,
  );
  const ids = instrument.positions.map(({ id }) => id).sort(byNearness);
  const nameOf = (id: string) => instrument.positions.find((one) => one.id === id)?.name ?? positionName(id);
  const step = (
    name: string,
    about: string,
    levels: Record<string, number>,
    hall?: WalkStep['hall'],
  ): WalkStep => ({
    name,
    about,
    articulation,
    phrase,
    levels,
    ...(hall ? { hall } : {}),
  });
  const steps = ids.map((id) => step(nameOf(id), 'alone', { [id]: LEVEL_DB }));
  if (ids.length > 1) {
    for (let count = 2; count <= ids.length; count++)
      steps.push(
        step(
          `+ ${nameOf(ids[count - 1])}`,
          `added: ${count} positions`,
          Object.fromEntries(ids.slice(0, count).map((id) => [id, LEVEL_DB])),
        ),
      );
    for (const distance of [0, 0.25, 0.5, 0.75, 1])
      steps.push(step(distanceName(distance), 'near to far', distanceLevels(ids, distance)));
  }
  const near = { [ids[0]]: LEVEL_DB };
  const dry = nameOf(ids[0]);
  steps.push(
    step(`${dry} + early reflections`, 'artificial hall', near, {
      sendDb: HALL_SEND_DB,
      mix: { earlyDb: 0, tailDb: SILENT_DB },
    }),
    step(`${dry} + tail`, 'artificial hall', near, {
      sendDb: HALL_SEND_DB,
      mix: { earlyDb: SILENT_DB, tailDb: 0 },
    }),
    step(`${dry} + whole hall`, 'artificial hall', near, {
      sendDb: HALL_SEND_DB,
      mix: { earlyDb: 0, tailDb: 0 },
    }),
  );
  if (ids.length > 1)
    steps.push(
      step('The recorded room', 'against it', { [ids[0]]: LEVEL_DB, [ids[ids.length - 1]]: LEVEL_DB }),
    );
  return steps;
}

function distanceName(distance: number): string {
  return ['Nearest', 'Near', 'Half way', 'Far', 'Farthest'][Math.round(distance * 4)];
}

/**
 * Levels for a distance between the nearest position (0) and the farthest (1): equal-power crossfade over neighbours in the
 * order near to far.
 */
export function distanceLevels(ids: readonly string[], distance: number): Record<string, number> {
  const place = distance * (ids.length - 1);
  return Object.fromEntries(
    ids.flatMap((id, i) => {
      const apart = Math.abs(place - i);
      if (apart >= 1) return [];
      return [[id, LEVEL_DB + 20 * Math.log10(Math.cos((apart * Math.PI) / 2))] as const];
    }),
  );
}
