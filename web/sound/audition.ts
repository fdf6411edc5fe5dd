import {
  articulationTerm,
  markedSeconds,
  playableRange,
  type Articulation,
  type Instrument,
} from '#core/catalogue/index.ts';
import { PLAIN_POSITION, type TrackMix } from '#core/mixing/index.ts';
import { CONTROLLER, TempoMap, type Part } from '#core/music/index.ts';
import { planEndSeconds, planPart, toEvents } from '#core/performance/index.ts';
import { ENGINE_RATE, TICKS_PER_QUARTER } from '#core/units/index.ts';
import { soundHost } from './host.ts';
import { openInstrument, useInstruments, wantArticulation, type LoadState } from './instruments.ts';
import { takenTrack, takeUp } from './hands.ts';
import { usePerformance } from './performance-state.ts';
import { stop } from './transport.ts';

const PRE_ROLL_SECONDS = 0.25;
const TAIL_SECONDS = 0.6;
const GAP_SECONDS = 0.12;
const WAIT_MS = 20_000;
const PLAIN_LEVEL_DB = -4;

/** One quarter lasts a second here. */
const TEMPO = new TempoMap([{ tick: 0, bpm: 60 }]);
const STEPS = [0, 2, 4, 7];

/** Lengths of the notes of a phrase that suits a technique, in seconds. */
const PHRASES = {
  long: [1.4, 1.4, 1.8],
  short: [0.35, 0.35, 0.35, 0.7],
  connected: [0.8, 0.8, 0.8, 1.4],
  dynamic: [2.5],
  pattern: [2],
};

/** How a sound is set up to be heard. */
export interface SoundSettings {
  /** Controller values, 0…127. */
  dynamics: number;
  vibrato: number;
  /** Level of each position in dB; positions without one are silent. */
  levels: Readonly<Record<string, number>>;
}

/** Settings in which a sound is heard until something else is wished. */
export function plainSettings(positions: readonly { id: string }[]): SoundSettings {
  return {
    dynamics: 84,
    vibrato: 70,
    levels: Object.fromEntries(positions.map(({ id }) => [id, PLAIN_LEVEL_DB])),
  };
}

/** The mix of a sound outside any track. */
export function mixOfSettings(settings: SoundSettings): TrackMix {
  const positions = Object.fromEntries(
    Object.entries(settings.levels).map(([id, levelDb]) => [id, { ...PLAIN_POSITION, levelDb }]),
  );
  return { gainDb: 0, pan: 0, muted: false, hallSendDb: -60, positions };
}

/** Ends what an audition left sounding. */
export function stopAudition(): void {
  soundHost.hush(takenTrack());
}

/**
 * Plays a short phrase in the middle of an articulation's range, on a track of its own in the engine. Hands then play the
 * same sound.
 * @returns its length in seconds
 * @throws Error with a sentence when the instrument cannot be loaded
 */
export async function audition(
  instrumentId: string,
  articulationId: string,
  wished?: SoundSettings,
): Promise<number> {
  const instrument = await openInstrument(instrumentId);
  const articulation = instrument.articulations.find((a) => a.id === articulationId);
  const range = articulation && playableRange(articulation);
  if (!range) throw new Error('This technique has no recording that starts a note.');
  const settings = wished ?? plainSettings(instrument.positions);
  const middle = Math.round((range.low + range.high) / 2);
  const part = phrase(articulation, middle, range.high, settings);
  const loading = wantArticulation(instrumentId, articulationId, middle);
  loading.catch(() => undefined);
  const keys = part.notes.map((note) => note.key);
  await loadedHead(instrument, articulation, keys);
  if (usePerformance.getState().playing) stop();
  stopAudition();
  const mix = mixOfSettings(settings);
  const plan = planPart(part, {
    tempo: TEMPO,
    instrument,
    mix,
    mode: 'planned',
    articulation: articulationId,
  });
  takeUp({ instrumentId, name: instrument.name, mix }, articulationId);
  const first = plan.segments[0]?.sounds[0]?.startSeconds ?? 0;
  const preRoll = Math.min(PRE_ROLL_SECONDS, Math.max(0, -first) + 0.01);
  await soundHost.live(
    toEvents(plan, takenTrack(), -preRoll).map((event) => ({
      afterSeconds: event.frame / ENGINE_RATE,
      event,
    })),
  );
  return preRoll + planEndSeconds(plan) + TAIL_SECONDS;
}

/** A few notes upwards that suit the technique's group; recorded lengths are played out. */
function phrase(articulation: Articulation, from: number, highest: number, settings: SoundSettings): Part {
  const { group } = articulationTerm(articulation.id);
  const gap = group === 'connected' ? 0 : GAP_SECONDS;
  const marked = markedSeconds(articulation);
  let at = 0;
  const lengths = marked === undefined ? PHRASES[group] : [marked + 0.6];
  const notes = lengths.map((seconds, i) => {
    const startTick = Math.round(at * TICKS_PER_QUARTER);
    at += seconds + gap;
    return {
      id: `audition ${i}`,
      startTick,
      endTick: Math.round((at - gap) * TICKS_PER_QUARTER),
      key: Math.min(highest, from + STEPS[i % STEPS.length]),
      velocity: 90,
    };
  });
  const point = (controller: number, value: number) => ({
    id: `audition ${controller}`,
    controller,
    tick: 0,
    value,
  });
  return {
    notes,
    marks: [],
    points: [point(CONTROLLER.dynamics, settings.dynamics), point(CONTROLLER.vibrato, settings.vibrato)],
  };
}

/** Waits until the beginnings of the recordings that some keys play are here. */
function loadedHead(
  instrument: Instrument,
  articulation: Articulation,
  keys: readonly number[],
): Promise<LoadState> {
  const zones = articulation.zones.filter(
    (zone) => zone.role === 'attack' && keys.some((key) => key >= zone.keyLow && key <= zone.keyHigh),
  );
  const ready = () => {
    const { loads, errors } = useInstruments.getState();
    if (errors[instrument.id]) throw new Error(errors[instrument.id]);
    const load = loads[instrument.id];
    const here = zones.every((zone) =>
      Object.values(zone.samples).every(({ sample }) => load?.audio.has(sample)),
    );
    return load && here ? load : undefined;
  };
  return new Promise((resolve, reject) => {
    const timer = setTimeout(
      () => finish(() => reject(new Error('The recordings did not arrive in time. Press again.'))),
      WAIT_MS,
    );
    const look = () => {
      try {
        const load = ready();
        if (load) finish(() => resolve(load));
      } catch (error) {
        finish(() => reject(error as Error));
      }
    };
    const unsubscribe = useInstruments.subscribe(look);
    const finish = (act: () => void) => {
      clearTimeout(timer);
      unsubscribe();
      act();
    };
    look();
  });
}
