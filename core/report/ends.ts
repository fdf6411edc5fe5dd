import { articulationTerm, type Zone } from '../catalogue/index.ts';
import {
  decayOfPower,
  directToRoomDb,
  middleOfFall,
  powerEvery5ms,
  roomShareOf,
  SETTLE_SECONDS,
  tailSeconds,
  type Decay,
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

/** A note with the moment at which it was let go; what came before it was held from `onset` on. */
interface Ended {
  channels: readonly Float32Array[];
  rate: number;
  onset: number;
  letGo: number;
  /** The position by which its end is told, and what is later here: the nearest where that is known, otherwise its own. */
  told: { audio: HeardSample; onset: number; over: number; delay: number };
}

/** Held before its end: what is joined of a tone. */
const HELD_SECONDS = 0.25;
/** How long a held tone has filled the room before it is let go. */
const FILLED_SECONDS = 1.5;
/** More roots tell hardly more. */
const MOST_ROOTS = 16;
/** Share of the usual length that a tail must have. */
const LONG_ENOUGH = 0.7;

/**
 * From recorded releases where there are any, otherwise from short notes that ring out by themselves; each root by the recording that
 * is heard most at a middling touch, so that layers which are silent there do not count.
 */
export function endsOf(context: Measuring, id: string, apart: ReadonlyMap<string, HeardApart>): Ends {
  const releases = context.articulation.zones.filter((zone) => zone.role === 'release');
  const { group } = articulationTerm(context.articulation.id);
  if (group !== 'short' && releases.length === 0) {
    const why = 'no end of a note was recorded';
    return nothing({ decay: why, directToRoomDb: why, tailSeconds: why });
  }
  const notes = endedNotes(context, id, apart.get(id)?.arrivalSeconds, group === 'short' ? [] : releases);
  if (notes.length === 0) {
    const why = 'its recordings are missing or silent';
    return nothing({ decay: why, directToRoomDb: why, tailSeconds: why });
  }
  const decay = decayOfPower(addedUp(notes));
  const shares = notes.flatMap((note) => {
    const { channels, rate, level } = note;
    const place = decay && refined(note, decay.seconds);
    const own = place && roomShareOf(channels, rate, place.onset, place.letGo, decay.seconds);
    return own ? [{ whole: own.whole / level, room: own.room / level, full: own.full / level }] : [];
  });
  const ratio = directToRoomDb(shares);
  const tails = notes.map(({ channels, rate, letGo }) => tailSeconds(channels, rate, letGo));
  return {
    decay: decay ? { seconds: rounded(decay.seconds), rangeDb: decay.rangeDb } : null,
    directToRoomDb: ratio === undefined ? null : rounded(ratio),
    tailSeconds: rounded(medianOf(tails)),
    why: {
      ...(decay
        ? {}
        : { decay: 'less than 15 dB of how its notes die away stand out of what else is there' }),
      ...(ratio === undefined
        ? {
            directToRoomDb: decay
              ? 'no direct sound stands out of the room when notes end'
              : 'no decay is heard',
          }
        : {}),
    },
  };
}

/** Every root's notes with their ends, as loud as they are played. @param releases none for short notes, which ring out by themselves */
function endedNotes(
  context: Measuring,
  id: string,
  delay: number | undefined,
  releases: readonly Zone[],
): (Ended & { level: number })[] {
  const attacks = context.layers.flatMap(({ zones }) => zones);
  const roots = rootsOf(attacks);
  const step = Math.max(1, roots.length / MOST_ROOTS);
  const notes: (Ended & { level: number })[] = [];
  for (let r = 0; r < roots.length; r += step) {
    const root = roots[Math.floor(r)];
    const own = attacks.filter(({ rootKey }) => rootKey === root);
    const end = foremost(releasesFor(root, releases), MIDDLE_TOUCH);
    for (const take of new Set(own.map((zone) => zone.take))) {
      const zone = foremost(
        own.filter((one) => one.take === take),
        MIDDLE_TOUCH,
      );
      if (!zone) continue;
      const note = end ? heldNote(context, zone, end, id, delay) : shortNote(context, zone, id, delay);
      // By the nearest position, so that notes count alike and what a position hears of each stays.
      const near = end ? joinedEnd(context, zone, end, context.near) : context.sound(zone);
      const level = near ? heightOf(near.channels) : 0;
      if (note && level > 0) notes.push({ ...note, level });
    }
  }
  return notes;
}

function heightOf(channels: readonly Float32Array[]): number {
  return powerEvery5ms(channels, ENGINE_RATE, 0, channels[0].length).reduce(
    (most, one) => Math.max(most, one),
    0,
  );
}

/** Powers of all notes from their ends on, every 5 ms; those that are cut off much sooner than the others are left out. */
function addedUp(notes: readonly (Ended & { level: number })[]): Float64Array {
  const powers = notes.map(({ channels, rate, letGo, level }) =>
    powerEvery5ms(channels, rate, letGo + Math.round(SETTLE_SECONDS * rate), channels[0].length).map(
      (value) => value / level,
    ),
  );
  const least = LONG_ENOUGH * medianOf(powers.map(({ length }) => length));
  const long = powers.filter(({ length }) => length >= least);
  const sum = new Float64Array(Math.min(...long.map(({ length }) => length)));
  for (const power of long) for (let i = 0; i < sum.length; i++) sum[i] += power[i];
  return sum;
}

/** The same note, let go in the middle of how its direct sound ends. */
function refined(
  { rate, onset, letGo, told }: Ended,
  decaySeconds: number,
): { onset: number; letGo: number } {
  const { audio, over, delay } = told;
  const middle = middleOfFall(audio.channels, audio.rate, told.onset, over, decaySeconds);
  const moved = Math.round((middle / audio.rate + delay) * rate) - letGo;
  return { onset: onset + moved, letGo: letGo + moved };
}

const nothing = (why: Ends['why']): Ends => ({ decay: null, directToRoomDb: null, tailSeconds: null, why });

/** Ends recorded at a root; without any, those that serve its key; without any, all. */
function releasesFor(root: number, releases: readonly Zone[]): readonly Zone[] {
  const own = releases.filter((one) => one.rootKey === root);
  if (own.length > 0) return own;
  const serving = releases.filter((one) => one.keyLow <= root && one.keyHigh >= root);
  return serving.length > 0 ? serving : releases;
}

/** A short note: over where the nearest position says so, as much later as it is heard. */
function shortNote(context: Measuring, zone: Zone, id: string, delay: number | undefined): Ended | undefined {
  const audio = context.sound(zone, id);
  const near = context.sound(zone);
  if (!audio) return undefined;
  const { onset } = lookedSpan(zone, audio, context);
  if (near === undefined || delay === undefined) {
    const letGo = endOfNote(audio, onset);
    return letGo === undefined
      ? undefined
      : { ...audio, onset, letGo, told: { audio, onset, over: letGo, delay: 0 } };
  }
  const span = lookedSpan(zone, near, context);
  const over = endOfNote(near, span.onset);
  if (over === undefined) return undefined;
  const here = (frame: number) => Math.round((frame / near.rate + delay) * audio.rate);
  const told = { audio: near, onset: span.onset, over, delay };
  return { ...audio, onset: here(span.onset), letGo: here(over), told };
}

/** The held tone, then its recorded end, as loud as they are played. */
function heldNote(
  context: Measuring,
  zone: Zone,
  release: Zone,
  id: string,
  delay: number | undefined,
): Ended | undefined {
  const joined = joinedEnd(context, zone, release, id);
  if (!joined) return undefined;
  const { channels, rate } = joined;
  // The hand lets go at the beginning of the recorded end; bow or breath take a moment longer.
  const near = delay === undefined ? undefined : joinedEnd(context, zone, release, context.near);
  const audio = near ?? joined;
  const later = near === undefined ? 0 : (delay ?? 0);
  const over = endOfNote(audio, 0);
  if (over === undefined) return undefined;
  const letGo = Math.round((over / audio.rate + later) * rate);
  return {
    channels,
    rate,
    onset: letGo - Math.round(FILLED_SECONDS * rate),
    letGo,
    told: { audio, onset: 0, over, delay: later },
  };
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
  return onset + Math.round((last + 1) * 0.005 * rate);
}
