import { articulationTerm, type Zone } from '../catalogue/index.ts';
import {
  decayOfPower,
  endingOf,
  heardOf,
  isLostInHiss,
  powerEvery5ms,
  STEP_SECONDS,
  tailSeconds,
  type Decay,
  type Ending,
  type Heard,
  withoutNoise,
} from '../measure/index.ts';
import { zoneGain } from '../performance/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import type { HeardApart } from './apart.ts';
import type { UnmeasuredFigure } from './figures.ts';
import { medianOf } from './readings.ts';
import { frameOf, lookedSpan, rounded, type Measuring } from './measuring.ts';
import { foremost, MIDDLE_TOUCH, rootsOf, type HeardSample } from './zones.ts';

/** How notes end at one position, and why what is null could not be measured. */
export interface Ends {
  decay: Decay | null;
  directToRoomDb: number | null;
  tailSeconds: number | null;
  why: Partial<Record<UnmeasuredFigure, string>>;
}

/** A note at a position, from where it is looked at to where it is let go, as much later as it comes there. */
interface Ended {
  channels: readonly Float32Array[];
  rate: number;
  start: number;
  letGo: number;
  /** Greatest power at the nearest position: notes count alike, and what a position hears of each stays. */
  level: number;
}

/** Held before its end: what is joined of a tone. */
const HELD_SECONDS = 0.8;
/** More roots tell hardly more. */
const MOST_ROOTS = 16;
/** Share of the usual length that a tail must have. */
const LONG_ENOUGH = 0.7;
/** Direct sound further below the room than this is lost in what notes differ by, dB. */
const LEAST_DIRECT_DB = -10;

/**
 * Of each position, in their order. From recorded releases where there are any, otherwise from short notes that ring out by themselves;
 * each root by the recording that is heard most at a middling touch, so that layers which are silent there do not count.
 * @param positions near to far
 */
export function endsOf(
  context: Measuring,
  positions: readonly string[],
  apart: ReadonlyMap<string, HeardApart>,
): Ends[] {
  const releases = context.articulation.zones.filter((zone) => zone.role === 'release');
  const isShort = articulationTerm(context.articulation.id).group === 'short';
  if (!isShort && releases.length === 0) return positions.map(() => nothing('no end of a note was recorded'));
  const summed = positions.map((id) => {
    const notes = endedNotes(context, id, apart.get(id)?.arrivalSeconds, isShort ? [] : releases);
    return { notes, ...addedUp(notes) };
  });
  const known = summed.filter(({ notes }) => notes.length > 0);
  // Laid so that all are let go at the same step.
  const over = Math.min(...known.map(({ before }) => before));
  const powers = known.map(({ power, before }) => power.subarray(before - over));
  const ending = powers.length > 0 ? endingOf(powers, over) : undefined;
  const heard = ending?.standsOut
    ? heardOf(
        powers.map((power) => withoutNoise(power, ending)),
        over,
        ending,
        !isShort,
      )
    : [];
  return summed.map((one) => {
    const i = known.indexOf(one);
    return i < 0
      ? nothing('its recordings are missing or silent')
      : told(one.notes, powers[i], ending, heard[i] as Heard | undefined);
  });
}

/** What is told of one position. @param heard none where no direct sound stands out */
function told(
  notes: readonly Ended[],
  power: Float64Array,
  ending: Ending | undefined,
  heard: Heard | undefined,
): Ends {
  const decay = ending && decayOfPower(power.subarray(ending.ended, ending.until), ending.isFaded);
  const isLost = ending !== undefined && isLostInHiss(power, ending);
  const ratio = heard && !isLost ? decibels(heard) : undefined;
  const tails = notes.map(({ channels, rate, letGo }) => tailSeconds(channels, rate, letGo));
  const why: Ends['why'] = {};
  if (!decay)
    why.decay = ending?.isFaded
      ? 'its recordings were faded out before they had died away by 15 dB'
      : 'less than 15 dB of how its notes die away stand out of what else is there';
  if (ratio === undefined)
    why.directToRoomDb = isLost
      ? 'its room is lost in hiss'
      : ending
        ? 'no direct sound stands out of the room when notes end'
        : 'no decay is heard';
  return {
    decay: decay ? { seconds: rounded(decay.seconds), rangeDb: decay.rangeDb } : null,
    directToRoomDb: ratio === undefined ? null : rounded(ratio),
    tailSeconds: rounded(medianOf(tails)),
    why,
  };
}

/** Every root's notes with their ends, as loud as they are played. @param releases none for short notes, which ring out by themselves */
function endedNotes(
  context: Measuring,
  id: string,
  delay: number | undefined,
  releases: readonly Zone[],
): Ended[] {
  const attacks = context.layers.flatMap(({ zones }) => zones);
  const roots = rootsOf(attacks);
  const step = Math.max(1, roots.length / MOST_ROOTS);
  const notes: Ended[] = [];
  for (let r = 0; r < roots.length; r += step) {
    const root = roots[Math.floor(r)];
    const own = attacks.filter(({ rootKey }) => rootKey === root);
    const end = foremost(releasesFor(root, releases), MIDDLE_TOUCH);
    for (const take of new Set(own.map((zone) => zone.take))) {
      const zone = foremost(
        own.filter((one) => one.take === take),
        MIDDLE_TOUCH,
      );
      const note = zone && endedNote(context, zone, end, id, delay);
      if (note) notes.push(note);
    }
  }
  return notes;
}

/** A note that is over where the nearest position says so, as much later as it is heard here. @param end none where it rings out by itself */
function endedNote(
  context: Measuring,
  zone: Zone,
  end: Zone | undefined,
  id: string,
  delay: number | undefined,
): Ended | undefined {
  const soundAt = (position: string) =>
    end ? joinedEnd(context, zone, end, position) : context.sound(zone, position);
  const audio = soundAt(id);
  const first = soundAt(context.near);
  const level = first ? heightOf(first.channels) : 0;
  if (!audio || !first || level <= 0) return undefined;
  const near = delay === undefined ? audio : first;
  const start = end ? 0 : lookedSpan(zone, near, context).onset;
  const over = endOfNote(near, start);
  if (over === undefined) return undefined;
  const here = (frame: number) => Math.round((frame / near.rate + (delay ?? 0)) * audio.rate);
  return { ...audio, start: here(start), letGo: here(over), level };
}

function heightOf(channels: readonly Float32Array[]): number {
  return powerEvery5ms(channels, ENGINE_RATE, 0, channels[0].length).reduce(
    (most, one) => Math.max(most, one),
    0,
  );
}

/**
 * Powers of all notes every 5 ms, laid over each other where they are let go; those that are cut off much sooner than the others are left
 * out. @returns also the step at which they are let go
 */
function addedUp(notes: readonly Ended[]): { power: Float64Array; before: number } {
  if (notes.length === 0) return { power: new Float64Array(), before: 0 };
  const hop = ({ rate }: Ended) => STEP_SECONDS * rate;
  const stepsBefore = notes.map((note) => Math.max(1, Math.floor((note.letGo - note.start) / hop(note))));
  const powers = notes.map((note, n) => {
    const from = Math.max(0, Math.round(note.letGo - stepsBefore[n] * hop(note)));
    return powerEvery5ms(note.channels, note.rate, from, note.channels[0].length);
  });
  const after = powers.map(({ length }, n) => length - stepsBefore[n]);
  const least = LONG_ENOUGH * medianOf(after);
  const before = Math.max(...stepsBefore);
  const sum = new Float64Array(before + Math.max(0, Math.min(...after.filter((steps) => steps >= least))));
  powers.forEach((power, n) => {
    if (after[n] < least) return;
    const skipped = before - stepsBefore[n];
    for (let i = skipped; i < sum.length; i++) sum[i] += power[i - skipped] / notes[n].level;
  });
  return { power: sum, before };
}

function decibels({ direct, room }: Heard): number | undefined {
  const ratio = direct > 0 && room > 0 ? 10 * Math.log10(direct / room) : -Infinity;
  return ratio < LEAST_DIRECT_DB || ratio === Infinity ? undefined : ratio;
}

const nothing = (why: string): Ends => ({
  decay: null,
  directToRoomDb: null,
  tailSeconds: null,
  why: { decay: why, directToRoomDb: why, tailSeconds: why },
});

/** Ends recorded at a root; without any, those that serve its key; without any, all. */
function releasesFor(root: number, releases: readonly Zone[]): readonly Zone[] {
  const own = releases.filter((one) => one.rootKey === root);
  if (own.length > 0) return own;
  const serving = releases.filter((one) => one.keyLow <= root && one.keyHigh >= root);
  return serving.length > 0 ? serving : releases;
}

function joinedEnd(context: Measuring, zone: Zone, release: Zone, id: string): HeardSample | undefined {
  const [audio, end] = [context.sound(zone, id), context.sound(release, id)];
  if (!audio || !end) return undefined;
  const span = lookedSpan(zone, audio, context);
  const held = Math.min(Math.round(HELD_SECONDS * audio.rate), span.to - span.from);
  const start = frameOf(release, release.startFrame, end, context);
  const share = zoneGain(release, MIDDLE_TOUCH) / Math.max(1e-9, zoneGain(zone, MIDDLE_TOUCH));
  const channels = audio.channels.map((channel, c) => {
    const own = end.channels[Math.min(c, end.channels.length - 1)];
    const out = new Float32Array(held + own.length - start);
    out.set(channel.subarray(span.to - held, span.to));
    for (let i = start; i < own.length; i++) out[held + i - start] = own[i] * share;
    return out;
  });
  return { channels, rate: audio.rate };
}

/** Frame at which a note is over: the last time it stands within 4 dB of its height. */
function endOfNote({ channels, rate }: HeardSample, onset: number): number | undefined {
  const power = powerEvery5ms(channels, rate, onset, channels[0].length);
  const height = power.reduce((most, value) => Math.max(most, value), 0);
  if (!(height > 0)) return undefined;
  let last = power.length - 1;
  while (last > 0 && power[last] < height * 0.4) last--;
  return onset + Math.round((last + 1) * STEP_SECONDS * rate);
}
