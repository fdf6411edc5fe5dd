import { articulationTerm, playableRange } from '#core/catalogue/index.ts';
import { PLAIN_POSITION, type TrackMix } from '#core/mixing/index.ts';
import { CONTROLLER, TempoMap, type Part } from '#core/music/index.ts';
import { planEndSeconds, planPart, toEvents } from '#core/performance/index.ts';
import { ENGINE_RATE, TICKS_PER_QUARTER } from '#core/units/index.ts';
import { useDocuments } from '../state/documents.ts';
import { soundHost } from './host.ts';
import { useInstruments, wantInstrument } from './instruments.ts';
import { mixOf, orderedTracks, stop, usePerformance } from './performance.ts';

const PRE_ROLL_SECONDS = 0.5;
const TAIL_SECONDS = 0.6;
const GAP_SECONDS = 0.12;
const WAIT_MS = 20_000;

/** One quarter lasts a second here. */
const TEMPO = new TempoMap([{ tick: 0, bpm: 60 }]);
const STEPS = [0, 2, 4, 7];

let soundingTrack: number | undefined;

/** Lengths of the notes of a phrase that suits a technique, in seconds. */
const PHRASES = {
  long: [1.4, 1.4, 1.8],
  short: [0.35, 0.35, 0.35, 0.7],
  connected: [0.8, 0.8, 0.8, 1.4],
  dynamic: [2.5],
  pattern: [2],
};

/** Ends what an audition left sounding. */
export function stopAudition(): void {
  if (soundingTrack !== undefined) soundHost.hush(soundingTrack);
  soundingTrack = undefined;
}

/**
 * Plays a short phrase in the middle of an articulation's range, on a track of its own in the engine.
 * @returns its length in seconds
 * @throws Error with a sentence when the instrument cannot be loaded
 */
export async function audition(instrumentId: string, articulationId: string): Promise<number> {
  void wantInstrument(instrumentId, new Set([articulationId]));
  const { instrument } = await loadedHead(instrumentId, articulationId);
  if (usePerformance.getState().playing) stop();
  stopAudition();
  const articulation = instrument.articulations.find((a) => a.id === articulationId);
  const range = articulation && playableRange(articulation);
  if (!range) throw new Error('This technique has no recording that starts a note.');
  const positions = Object.fromEntries(
    instrument.positions.map((p) => [p.id, { ...PLAIN_POSITION, levelDb: -4 }]),
  );
  const mix: TrackMix = { gainDb: 0, pan: 0, muted: false, hallSendDb: -60, positions };
  const part = phrase(articulationId, Math.round((range.low + range.high) / 2), range.high);
  const plan = planPart(part, {
    tempo: TEMPO,
    instrument,
    mix,
    mode: 'planned',
    articulation: articulationId,
  });
  const track = auditionTrack(instrumentId, mix);
  soundingTrack = track;
  await soundHost.live(
    toEvents(plan, track, -PRE_ROLL_SECONDS).map((event) => ({
      afterSeconds: event.frame / ENGINE_RATE,
      event,
    })),
  );
  return PRE_ROLL_SECONDS + planEndSeconds(plan) + TAIL_SECONDS;
}

/** A few notes upwards that suit the technique's group. */
function phrase(articulationId: string, from: number, highest: number): Part {
  const { group } = articulationTerm(articulationId);
  const gap = group === 'connected' ? 0 : GAP_SECONDS;
  let at = 0;
  const notes = PHRASES[group].map((seconds, i) => {
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
  return { notes, marks: [], points: [point(CONTROLLER.dynamics, 84), point(CONTROLLER.vibrato, 70)] };
}

/** Index of the engine's track behind those of the template, set up for the instrument. */
function auditionTrack(instrumentId: string, mix: TrackMix): number {
  const { records } = useDocuments.getState();
  const own = orderedTracks(records).map((track) => ({
    instrumentId: track.instrumentId,
    mix: mixOf(records, track),
  }));
  soundHost.setTracks([...own, { instrumentId, mix }]);
  return own.length;
}

/** Waits until the beginning of a technique's recordings is here. */
function loadedHead(instrumentId: string, articulationId: string) {
  const ready = () => {
    const { loads, errors } = useInstruments.getState();
    if (errors[instrumentId]) throw new Error(errors[instrumentId]);
    const load = loads[instrumentId];
    const articulation = load?.instrument.articulations.find((a) => a.id === articulationId);
    if (!load || !articulation) return undefined;
    const zone = articulation.zones.find((candidate) => candidate.role === 'attack');
    return zone && Object.values(zone.samples).every(({ sample }) => load.audio.has(sample))
      ? load
      : undefined;
  };
  return new Promise<NonNullable<ReturnType<typeof ready>>>((resolve, reject) => {
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
