import { create } from 'zustand';
import type {
  Aims,
  Freedom,
  HallPower,
  KeptTrack,
  LightMix,
  Proposal,
  SeatAims,
  Seated,
} from '#core/balance/index.ts';
import { articulationTerm } from '#core/catalogue/index.ts';
import type { ApartOrder } from '#core/deliver/index.ts';
import type { HallResponse } from '#core/dsp/index.ts';
import type { EngineEvent } from '#core/engine/index.ts';
import { levelGain, type HallMix, type TrackMix } from '#core/mixing/index.ts';
import { CONTROLLER, TempoMap, type Part } from '#core/music/index.ts';
import { planPart, toEvents, type Plan } from '#core/performance/index.ts';
import { ENGINE_RATE, TICKS_PER_QUARTER } from '#core/units/index.ts';
import { orderedTracks } from '../state/cue.ts';
import { itemOf, useDocuments, type Item } from '../state/documents.ts';
import type {
  BalanceAnswer,
  BalanceAnswers,
  BalanceRequest,
  MeasureOrder,
  SectionFigures,
  SectionMeasured,
} from './balance.worker.ts';
import { coresWanted } from './cores.ts';
import { wantedHall } from './hall.ts';
import { holdRecordings, useInstruments, type LoadState } from './instruments.ts';
import { AS_WRITTEN, mixOf } from './mixes.ts';
import { LAST_STEPS_MS, shareRoom, takeRoomBack, type SharedRoom } from './page-memory.ts';
import { passageTicks, playedIn } from './passage.ts';
import { usePerformance } from './performance-state.ts';
import { missingOf } from './planned-sounds.ts';
import { measureWhole, wholeHasMoved } from './whole.ts';

/** A section's place in the balance. */
export interface Section extends SectionMeasured {
  /** Of the mix as it stands. */
  figures: SectionFigures | undefined;
}

interface BalanceState {
  /** Ticks of the passage that was measured last. */
  passage: readonly [number, number] | undefined;
  /** By track. */
  sections: Readonly<Record<string, Section>>;
  /** Why a section could not be measured, by track. */
  troubles: Readonly<Record<string, string>>;
  /** Sections done of all that are being measured; undefined when nothing is. */
  progress: { done: number; of: number } | undefined;
}

/** What is measured of the balance, from what the engine plays. */
export const useBalance = create<BalanceState>(() => ({
  passage: undefined,
  sections: {},
  troubles: {},
  progress: undefined,
}));

const NOTE_SECONDS = 1.5;
const NOTE_FRAMES = 3.5 * ENGINE_RATE;
const PRE_ROLL_SECONDS = 0.4;
const NOTE_DYNAMICS = 80;
/** After edits that have to be rendered anew. */
const AGAIN_MS = 350;

/** A worker that measures some sections, and keeps what it has measured of them. */
interface Lane {
  worker: Worker;
  shared: SharedRoom;
}

const lanes: (Lane | undefined)[] = [];
/** Which lane measured a track. */
const laneOf = new Map<string, number>();
let count = 0;
const waiting = new Map<
  number,
  { lane: number; done: (result: never) => void; failed: (error: Error) => void }
>();

function laneAt(at: number): Lane {
  const known = lanes[at];
  if (known) return known;
  const worker = new Worker(new URL('./balance.worker.ts', import.meta.url), { type: 'module' });
  const lane = { worker, shared: shareRoom() };
  lanes[at] = lane;
  worker.onmessage = ({ data }: MessageEvent<BalanceAnswer>) => {
    const one = waiting.get(data.id);
    waiting.delete(data.id);
    if ('failed' in data) one?.failed(new Error(data.failed));
    else one?.done(data.result as never);
  };
  worker.onerror = (event) => endLane(at, event.message);
  return lane;
}

function endLane(at: number, why: string): void {
  const lane = lanes[at];
  if (!lane) return;
  lanes[at] = undefined;
  lane.worker.terminate();
  // What it knew of its sections is gone with it.
  useBalance.setState(({ sections }) => ({
    sections: Object.fromEntries(Object.entries(sections).filter(([id]) => laneOf.get(id) !== at)),
  }));
  // Its last steps may still go on.
  setTimeout(() => takeRoomBack(lane.shared), LAST_STEPS_MS);
  for (const [id, one] of waiting)
    if (one.lane === at) {
      waiting.delete(id);
      one.failed(new Error(why));
    }
}

function ask<K extends keyof BalanceAnswers>(
  trackId: string,
  request: (lane: Lane) => Extract<BalanceRequest, { kind: K }>,
): Promise<BalanceAnswers[K]> {
  const id = count++;
  const at = laneOf.get(trackId) ?? 0;
  const lane = laneAt(at);
  return new Promise((done, failed) => {
    waiting.set(id, { lane: at, done, failed });
    lane.worker.postMessage({ id, request: request(lane) });
  });
}

let round = 0;
const CANCELLED = 'cancelled';

/** Measures all sections that play in the passage, one after the other; what is known of others is forgotten. */
export async function measureAll(): Promise<void> {
  const own = ++round;
  const passage = passageTicks();
  const { records } = useDocuments.getState();
  const tracks = orderedTracks(records).filter(({ id }) => usePerformance.getState().plans[id]);
  useBalance.setState({ passage, sections: {}, troubles: {}, progress: { done: 0, of: tracks.length } });
  const rest = [...tracks];
  const work = async (lane: number) => {
    for (let track = rest.shift(); track; track = rest.shift()) {
      laneOf.set(track.id, lane);
      await measureTrack(track.id);
      if (own !== round) return;
      const { progress } = useBalance.getState();
      useBalance.setState({ progress: { done: (progress?.done ?? 0) + 1, of: tracks.length } });
    }
  };
  await Promise.all(Array.from({ length: Math.min(coresWanted(), tracks.length) }, (_, lane) => work(lane)));
  if (own !== round) return;
  useBalance.setState({ progress: undefined });
  void measureWhole(passage);
}

/** Ends measuring. */
export function cancelMeasuring(): void {
  round++;
  for (let at = 0; at < lanes.length; at++) endLane(at, CANCELLED);
  useBalance.setState({ progress: undefined });
}

/** Measures one section in the passage. */
async function measureTrack(trackId: string): Promise<void> {
  try {
    const order = await orderOf(trackId);
    if (!order) return;
    const letGo = holdRecordings();
    try {
      const measured = await ask<'measure'>(trackId, ({ shared }) => ({
        kind: 'measure',
        order: { ...order, shared },
      }));
      const figures = measured.isSilent
        ? undefined
        : await figuresOf(trackId, presentMixOf(trackId) ?? order.mix);
      useBalance.setState(({ sections, troubles: { [trackId]: _over, ...troubles } }) => ({
        sections: { ...sections, [trackId]: { ...measured, figures } },
        troubles,
      }));
    } finally {
      letGo();
    }
  } catch (error) {
    const sentence = (error as Error).message;
    if (sentence === CANCELLED) return;
    useBalance.setState(({ troubles }) => ({ troubles: { ...troubles, [trackId]: sentence } }));
  }
}

/** The mix of a track as its template says. */
export function presentMixOf(trackId: string): TrackMix | undefined {
  const { records } = useDocuments.getState();
  const track = itemOf(records, 'track', trackId);
  return track && mixOf(records, track, AS_WRITTEN);
}

const figuresOf = (trackId: string, mix: TrackMix) =>
  ask<'figures'>(trackId, () => ({ kind: 'figures', trackId, mix }));

async function orderOf(trackId: string): Promise<Omit<MeasureOrder, 'shared'> | undefined> {
  const { records, templateId } = useDocuments.getState();
  const plan = await loadedPlan(trackId);
  const mix = presentMixOf(trackId);
  const load = plan && useInstruments.getState().loads[plan.context.instrument.id];
  if (!plan || !mix || !load) return undefined;
  const { events, frames } = playedIn(plan, 0, useBalance.getState().passage ?? passageTicks());
  const template = itemOf(records, 'template', templateId);
  const hallMix = { earlyDb: template?.hallEarlyDb ?? 0, tailDb: template?.hallTailDb ?? 0 };
  const positions = load.instrument.positions.map(({ id }) => id);
  const notes = heldNotes(plan);
  const small = onlyPlayed(load, [...events, ...notes.flatMap((note) => note.events)]);
  return {
    trackId,
    instrumentId: plan.context.instrument.id,
    passage: {
      ...small,
      events,
      frames,
      positions: positions.filter((id) => (mix.positions[id]?.levelDb ?? -60) > -60),
    },
    notes,
    mix,
    hall: powerOf(await wantedHall(), hallMix),
  };
}

/** How long recordings of a section may take to come before it is passed over. */
const LOAD_MS = 30_000;

/** The plan of a track, once what it plays is here. @throws Error when it does not come */
function loadedPlan(trackId: string): Promise<Plan | undefined> {
  return new Promise((resolve, reject) => {
    const look = () => {
      const plan = usePerformance.getState().plans[trackId];
      const load = plan && useInstruments.getState().loads[plan.context.instrument.id];
      if (plan && !(load?.complete && missingOf(plan).size === 0)) return false;
      end();
      resolve(plan);
      return true;
    };
    const timer = setTimeout(() => {
      end();
      reject(new Error('Its recordings did not come in time. Measure again.'));
    }, LOAD_MS);
    const ends = [useInstruments.subscribe(look), usePerformance.subscribe(look)];
    const end = () => {
      clearTimeout(timer);
      for (const one of ends) one();
    };
    look();
  });
}

/** What is played of an instrument, with its recordings: the rest need not be told to a worker. */
function onlyPlayed(
  { instrument, audio }: Pick<LoadState, 'instrument' | 'audio'>,
  events: readonly EngineEvent[],
): Pick<ApartOrder, 'instrument' | 'audio'> {
  const played = new Set(events.flatMap((event) => (event.kind === 'start' ? event.articulation : [])));
  const articulations = instrument.articulations.map((one, i) =>
    played.has(i) ? one : { ...one, zones: [] },
  );
  const ids = new Set(
    articulations.flatMap(({ zones }) =>
      zones.flatMap(({ samples }) => Object.values(samples).map(({ sample }) => sample)),
    ),
  );
  const kept = [...ids].filter((id) => id in instrument.samples);
  return {
    instrument: {
      ...instrument,
      articulations,
      samples: Object.fromEntries(kept.map((id) => [id, instrument.samples[id]])),
    },
    audio: new Map([...audio].filter(([id]) => ids.has(id))),
  };
}

/** Five notes from low to high of what is played, held and let go; none for what cannot be held. */
function heldNotes(plan: Plan): MeasureOrder['notes'] {
  const { context } = plan;
  const keys = [...new Set(plan.notes.map(({ key }) => key))].sort((a, b) => a - b);
  if (articulationTerm(context.articulation).group !== 'long' || keys.length === 0) return [];
  const chosen = new Set([0.1, 0.3, 0.5, 0.7, 0.9].map((share) => keys[Math.floor(share * keys.length)]));
  return [...chosen].flatMap((key) => heldNote(context, key) ?? []);
}

function heldNote(context: Plan['context'], key: number): MeasureOrder['notes'][number] | undefined {
  const endTick = NOTE_SECONDS * TICKS_PER_QUARTER;
  const part: Part = {
    notes: [{ id: `held ${key}`, startTick: 0, endTick, key, velocity: 90 }],
    marks: [],
    points: [{ id: 'level', controller: CONTROLLER.dynamics, tick: 0, value: NOTE_DYNAMICS }],
  };
  const planned = planPart(part, { ...context, tempo: new TempoMap([{ tick: 0, bpm: 60 }]) });
  const events = toEvents(planned, 0, -PRE_ROLL_SECONDS);
  const starts = events.flatMap((event) => (event.kind === 'start' ? event : []));
  const stops = events.flatMap((event) => (event.kind === 'stop' ? event.frame : []));
  // Without a recorded end a note is only faded out: nothing is heard of its room.
  const isRecorded = starts.some(({ articulation, key: played }) =>
    context.instrument.articulations[articulation].zones.some(
      (zone) => zone.role === 'release' && zone.keyLow <= played && zone.keyHigh >= played,
    ),
  );
  if (!isRecorded || stops.length === 0) return undefined;
  return {
    events,
    frames: NOTE_FRAMES,
    onset: Math.min(...starts.map(({ frame }) => frame)),
    stop: Math.max(...stops),
  };
}

/** What the hall gives back of what it is sent, power against power. */
function powerOf(response: HallResponse, { earlyDb, tailDb }: HallMix): HallPower {
  const [early, tail] = [levelGain(earlyDb) ** 2, levelGain(tailDb) ** 2];
  const power = (side: Float32Array | undefined) => {
    let sum = 0;
    side?.forEach((v, i) => (sum += v * v * (i < response.earlyFrames ? early : tail)));
    return sum;
  };
  const { left, right, cross } = response;
  return {
    fromLeft: power(left) + power(cross?.leftToRight),
    fromRight: power(right) + power(cross?.rightToLeft),
  };
}

/** Loudness of all measured sections together, LUFS: unlike sounds, whose powers add up. −Infinity when none is. */
export function wholeLoudness(sections: Readonly<Record<string, Section>>): number {
  let sum = 0;
  for (const { figures } of Object.values(sections)) if (figures) sum += 10 ** (figures.loudness / 10);
  return 10 * Math.log10(sum);
}

/** Levels of a place between near and far, for a track as it is mixed. */
export function levelsAt(trackId: string, place: number): Promise<Record<string, number> | undefined> {
  const mix = presentMixOf(trackId);
  return mix
    ? ask<'place'>(trackId, () => ({ kind: 'place', trackId, mix, place }))
    : Promise.resolve(undefined);
}

/** A mix that brings a track to aims. */
export function solveFor(trackId: string, aims: Aims, freedom: Freedom): Promise<Proposal | undefined> {
  const mix = presentMixOf(trackId);
  return mix
    ? ask<'solve'>(trackId, () => ({ kind: 'solve', trackId, mix, aims, freedom }))
    : Promise.resolve(undefined);
}

/** A mix that brings a track to a seat; undefined while it is not measured. */
export function seatFor(trackId: string, aims: SeatAims, hall: boolean): Promise<Seated | undefined> {
  const mix = presentMixOf(trackId);
  return mix && useBalance.getState().sections[trackId]?.figures
    ? ask<'seat'>(trackId, () => ({ kind: 'seat', trackId, mix, aims, hall }))
    : Promise.resolve(undefined);
}

/** Few positions of a track that stand in for all that are heard. */
export function lightMixOf(trackId: string, most: 1 | 2): Promise<LightMix | undefined> {
  const mix = presentMixOf(trackId);
  return mix
    ? ask<'light'>(trackId, () => ({ kind: 'light', trackId, mix, most }))
    : Promise.resolve(undefined);
}

/** Figures of a measured track as another mix would have it; its delays and tone are those it was measured with. */
export function figuresAs(trackId: string, kept: KeptTrack): Promise<SectionFigures | undefined> {
  const { gainDb, pan, hallSendDb, positions } = kept;
  return figuresOf(trackId, { gainDb, pan, hallSendDb, muted: false, positions });
}

/** Figures of a track without one of its positions. */
export function figuresWithout(trackId: string, positionId: string): Promise<SectionFigures | undefined> {
  const mix = presentMixOf(trackId);
  const own = mix?.positions[positionId];
  if (!mix || !own) return Promise.resolve(undefined);
  const without = { ...mix, positions: { ...mix.positions, [positionId]: { ...own, muted: true } } };
  return figuresOf(trackId, without);
}

/** What has to be rendered anew when it changes: which positions there are, their delays and tones. */
function shapeOf({ positions }: TrackMix): string {
  // What all wait alike changes nothing between them.
  const first = Math.min(...Object.values(positions).map(({ delayMs }) => delayMs));
  return JSON.stringify(
    Object.entries(positions).map(([id, { levelDb, delayMs, eq }]) => [
      id,
      levelDb > -60,
      Math.round((delayMs - first) * 100),
      eq,
    ]),
  );
}

const seen = new Map<string, { mix: TrackMix; shape: string }>();
const stale = new Set<string>();
let againTimer: ReturnType<typeof setTimeout> | undefined;

/** Keeps figures true while the mix moves; call once. */
export function followBalance(): () => void {
  return useDocuments.subscribe(({ records }, before) => {
    if (records === before.records) return;
    wholeHasMoved();
    for (const track of orderedTracks(records)) followTrack(track);
  });
}

function followTrack(track: Item<'track'>): void {
  const { sections } = useBalance.getState();
  const mix = mixOf(useDocuments.getState().records, track, AS_WRITTEN);
  const last = seen.get(track.id);
  if (last?.mix === mix) return;
  const shape = shapeOf(mix);
  seen.set(track.id, { mix, shape });
  if (!sections[track.id] || sections[track.id].isSilent) return;
  if (last && last.shape !== shape) {
    stale.add(track.id);
    clearTimeout(againTimer);
    againTimer = setTimeout(() => void measureStale(), AGAIN_MS);
  } else void refresh(track.id, mix);
}

async function refresh(trackId: string, mix: TrackMix): Promise<void> {
  const figures = await figuresOf(trackId, mix).catch(() => undefined);
  // Another move has overtaken this one.
  if (!figures || seen.get(trackId)?.mix !== mix) return;
  useBalance.setState(({ sections }) =>
    sections[trackId] ? { sections: { ...sections, [trackId]: { ...sections[trackId], figures } } } : {},
  );
}

async function measureStale(): Promise<void> {
  for (const id of stale) {
    stale.delete(id);
    await measureTrack(id);
  }
}
