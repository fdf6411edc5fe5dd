import { create } from 'zustand';
import { toast } from 'sonner';
import type { EngineEvent } from '#core/engine/index.ts';
import { sortEvents } from '#core/engine/index.ts';
import type { HallMix, TrackMix } from '#core/mixing/index.ts';
import { audibleTracks, PLAIN_POSITION } from '#core/mixing/index.ts';
import { MetreMap, TempoMap, type MetreChange, type Part, type TempoChange } from '#core/music/index.ts';
import { LivePlayer, planEndSeconds, planPart, toEvents, type Plan } from '#core/performance/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import { listOf, useDocuments, type Item } from '../state/documents.ts';
import type { Records } from '../state/diff.ts';
import { soundHost } from './host.ts';
import { useInstruments, wantArticulation, wantInstrument } from './instruments.ts';
import type { EngineTrackSetup, TrackMeter } from './messages.ts';
import { receiveMidi, type MidiBytes } from './midi.ts';

/** A sound outside any track: it plays on an engine track of its own behind those of the template. */
export interface TakenSound {
  instrumentId: string;
  name: string;
  mix: TrackMix;
}

/** A sound that takes a track's place in the open cue for as long as it is tried; nothing of the template changes. */
export interface Trial {
  trackId: string;
  instrumentId: string;
  /** Articulation of notes without a mark. */
  articulation: string;
  /** What is added to the track's level, so that it is as loud as what it replaces. */
  trimDb: number;
}

interface PerformanceState {
  playing: boolean;
  looping: boolean;
  /** Where playing starts and the playhead rests while stopped, in ticks. */
  restTick: number;
  /** Track that keys and controllers play. */
  trackId: string | undefined;
  /** Articulation the hand plays now. */
  articulation: string;
  /** Keys that sound from a hand. */
  held: readonly number[];
  /** Controllers as they were last ridden, by number. */
  ridden: Readonly<Record<number, number>>;
  /** A sound that hands play in place of the track's, for example one looked at on the shelf. */
  taken: TakenSound | undefined;
  /** A sound tried in the cue. */
  trial: Trial | undefined;
  /** Planned parts by track id. */
  plans: Readonly<Record<string, Plan>>;
}

/** Transport, the current track and what is planned. The playhead itself is read from `playheadTick`. */
export const usePerformance = create<PerformanceState>(() => ({
  playing: false,
  looping: false,
  restTick: 0,
  trackId: undefined,
  articulation: 'long',
  held: [],
  ridden: {},
  taken: undefined,
  trial: undefined,
  plans: {},
}));

/** Levels for display; read in animation frames, never through React state. */
export const meters: {
  tracks: Record<string, TrackMeter>;
  momentary: number;
  voices: number;
  stolen: number;
} = { tracks: {}, momentary: -Infinity, voices: 0, stolen: 0 };

let startSeconds = 0;
let reported = { frame: 0, at: 0 };
let loopFrames: number | null = null;
let live: { key: string; player: LivePlayer; mix?: TrackMix } | undefined;

const tempoMaps = new WeakMap<object, TempoMap>();
const metreMaps = new WeakMap<object, MetreMap>();

/** The open cue's tempo map; the same object as long as no tempo changes. */
export function tempoOf(records: Records): TempoMap {
  return cached(tempoMaps, listOf(records, 'tempo'), (list) => new TempoMap(list as readonly TempoChange[]));
}

/** The open cue's metres. */
export function metreOf(records: Records): MetreMap {
  return cached(metreMaps, listOf(records, 'metre'), (list) => new MetreMap(list as readonly MetreChange[]));
}

function cached<V>(
  cache: WeakMap<object, V>,
  key: readonly object[],
  make: (list: readonly object[]) => V,
): V {
  let value = cache.get(key);
  if (value === undefined) cache.set(key, (value = make(key)));
  return value;
}

/** Tracks in the template's order: their index is the engine's. */
export function orderedTracks(records: Records): Item<'track'>[] {
  return [...listOf(records, 'track')].sort((a, b) => a.place - b.place || (a.id < b.id ? -1 : 1));
}

const mixCache = new Map<string, { parts: readonly unknown[]; mix: TrackMix }>();

/** Mix of a track, without regard to what is tried in its place; the same object as long as nothing of it changes. */
export function mixOf(records: Records, track: Item<'track'>): TrackMix {
  const muted = !audibleTracks(listOf(records, 'track')).has(track.id);
  const positions = listOf(records, 'positionMix').filter((one) => one.trackId === track.id);
  const bands = bandsOf(records, track.id);
  const parts = [track, muted, ...positions, ...bands];
  return keptMix(track.id, parts, () => ({
    gainDb: track.gainDb,
    pan: track.pan,
    muted,
    hallSendDb: track.hallSendDb,
    positions: Object.fromEntries(positions.map((one) => [one.positionId, one])),
    eq: bands.filter((band) => band.active),
  }));
}

/** Bands of a track's tone, low to high. */
export function bandsOf(records: Records, trackId: string): Item<'eqBand'>[] {
  return listOf(records, 'eqBand')
    .filter((band) => band.trackId === trackId)
    .sort((a, b) => a.hertz - b.hertz || (a.id < b.id ? -1 : 1));
}

function keptMix(name: string, parts: readonly unknown[], make: () => TrackMix): TrackMix {
  const known = mixCache.get(name);
  if (known?.parts.length === parts.length && known.parts.every((part, i) => part === parts[i]))
    return known.mix;
  const mix = make();
  mixCache.set(name, { parts, mix });
  return mix;
}

/** What sounds on a track: its own instrument and mix, or those that are tried in its place. */
export function soundOf(
  records: Records,
  track: Item<'track'>,
): { instrumentId: string | null; articulation: string; mix: TrackMix; tried: boolean } {
  const own = mixOf(records, track);
  const { trial } = usePerformance.getState();
  if (trial?.trackId !== track.id)
    return { instrumentId: track.instrumentId, articulation: track.articulation, mix: own, tried: false };
  const positions = useInstruments.getState().loads[trial.instrumentId]?.instrument.positions;
  const mix = keptMix(`trial ${track.id}`, [own, trial, positions], () => trialMix(own, trial, positions));
  return { instrumentId: trial.instrumentId, articulation: trial.articulation, mix, tried: true };
}

/** The track's mix for a sound that may have other positions: those both have keep their setting, else all are heard. */
export function trialMix(
  own: TrackMix,
  { trimDb }: Pick<Trial, 'trimDb'>,
  positions: readonly { id: string }[] = [],
): TrackMix {
  const shared = positions.filter(({ id }) => (own.positions[id]?.levelDb ?? -60) > -60);
  const mixes = Object.fromEntries(
    positions.map(({ id }) => [id, shared.length > 0 ? own.positions[id] : PLAIN_POSITION]),
  );
  return {
    ...own,
    gainDb: own.gainDb + trimDb,
    positions: Object.fromEntries(Object.entries(mixes).filter(([, one]) => one !== undefined)),
  };
}

let partCache = new Map<string, { notes: object; marks: object; points: object; part: Part }>();

/** What is written for a track in the open cue; parts keep their identity while they do not change. */
export function partOf(records: Records, trackId: string): { id: string | undefined; part: Part } {
  const holder = listOf(records, 'part').find((part) => part.trackId === trackId);
  if (!holder) return { id: undefined, part: EMPTY_PART };
  const tables = {
    notes: listOf(records, 'note'),
    marks: listOf(records, 'mark'),
    points: listOf(records, 'point'),
  };
  const known = partCache.get(holder.id);
  if (known && known.notes === tables.notes && known.marks === tables.marks && known.points === tables.points)
    return { id: holder.id, part: known.part };
  const pick = <T extends { partId: string }>(
    list: readonly T[],
    before: readonly T[] | undefined,
  ): readonly T[] => {
    const own = list.filter((item) => item.partId === holder.id);
    return before && own.length === before.length && own.every((item, i) => item === before[i])
      ? before
      : own;
  };
  const part: Part = {
    notes:
      known && known.notes === tables.notes ? known.part.notes : sortNotes(pick(tables.notes, undefined)),
    marks: pick(tables.marks, known?.part.marks as readonly Item<'mark'>[] | undefined),
    points: pick(tables.points, known?.part.points as readonly Item<'point'>[] | undefined),
  };
  partCache = new Map(partCache).set(holder.id, { ...tables, part });
  return { id: holder.id, part };
}

const EMPTY_PART: Part = { notes: [], marks: [], points: [] };

function sortNotes(notes: readonly Item<'note'>[]): Item<'note'>[] {
  return [...notes].sort((a, b) => a.startTick - b.startTick || a.key - b.key || (a.id < b.id ? -1 : 1));
}

/** Where the playhead is now, in ticks. */
export function playheadTick(): number {
  const { playing, restTick } = usePerformance.getState();
  if (!playing) return restTick;
  const elapsed = reported.frame / ENGINE_RATE + (performance.now() - reported.at) / 1000;
  const inLoop = loopFrames ? elapsed % (loopFrames / ENGINE_RATE) : elapsed;
  return tempoOf(useDocuments.getState().records).toTicks(startSeconds + Math.max(0, inLoop));
}

/** Everything the engine plays from a place on, in order. */
function eventsFrom(seconds: number): EngineEvent[] {
  const { records } = useDocuments.getState();
  const { plans } = usePerformance.getState();
  const events: EngineEvent[] = [];
  orderedTracks(records).forEach((track, index) => {
    const plan = plans[track.id];
    if (plan) for (const event of toEvents(plan, index, seconds)) events.push(event);
  });
  return sortEvents(events);
}

/** Starts playing at the resting place, or at the loop's start when looping. */
export async function play(): Promise<void> {
  const { records, cueId } = useDocuments.getState();
  const { looping, restTick } = usePerformance.getState();
  const cue = cueId ? (records.cue?.[cueId] as unknown as Item<'cue'> | undefined) : undefined;
  const tempo = tempoOf(records);
  const loop = looping && cue && cue.loopEndTick > cue.loopStartTick ? cue : undefined;
  const from = loop ? loop.loopStartTick : restTick;
  startSeconds = tempo.toSeconds(from);
  loopFrames = loop ? Math.round((tempo.toSeconds(loop.loopEndTick) - startSeconds) * ENGINE_RATE) : null;
  try {
    await soundHost.play(eventsFrom(startSeconds), loopFrames);
  } catch {
    toast.error(soundHost.trouble ?? 'The browser gives no sound.');
    return;
  }
  reported = { frame: 0, at: performance.now() };
  usePerformance.setState({ playing: true });
}

/** Stops; the playhead stays where it started (`stay` false) or where it is. */
export function stop(stay = false): void {
  const tick = Math.round(playheadTick());
  soundHost.stop();
  usePerformance.setState((state) => ({ playing: false, restTick: stay ? tick : state.restTick }));
}

/** Moves the resting place; playing goes on from there. */
export function locate(tick: number): void {
  usePerformance.setState({ restTick: Math.max(0, Math.round(tick)) });
  if (usePerformance.getState().playing) void play();
}

export function toggleLoop(): void {
  usePerformance.setState(({ looping }) => ({ looping: !looping }));
  if (usePerformance.getState().playing) void play();
}

/** Chooses the track that hands play and views show. */
export function selectTrack(trackId: string): void {
  const track = listOf(useDocuments.getState().records, 'track').find(
    (candidate) => candidate.id === trackId,
  );
  usePerformance.setState({ trackId, held: [], ...(track ? { articulation: track.articulation } : {}) });
  releaseHands();
}

/** Lets go of all keys that a hand holds. */
export function releaseHands(): void {
  if (live) void soundHost.live(live.player.allOff());
  usePerformance.setState({ held: [] });
}

/** Chooses the articulation that hands play, as its trigger would. */
export function selectArticulation(articulation: string): void {
  usePerformance.setState({ articulation });
  live?.player.triggers.select(articulation);
}

/** Takes a sound up to be played by hands in place of the track's, or puts it down again. */
export function takeUp(taken: TakenSound | undefined, articulation?: string): void {
  releaseHands();
  const { trackId } = usePerformance.getState();
  const track = listOf(useDocuments.getState().records, 'track').find((one) => one.id === trackId);
  usePerformance.setState({
    taken,
    articulation: articulation ?? (taken ? 'long' : (track?.articulation ?? 'long')),
  });
  tellMix();
}

/** Mixes the taken sound anew; what sounds of it changes at once, without starting again. */
export function mixTaken(mix: TrackMix): void {
  usePerformance.setState(({ taken }) => ({ taken: taken && { ...taken, mix } }));
  tellMix();
}

/** Moves a controller of the taken sound, as a hand on a fader would. */
export function rideTaken(controller: number, value: number): void {
  void soundHost.live([
    { afterSeconds: 0, event: { kind: 'control', frame: 0, track: takenTrack(), controller, value } },
  ]);
}

/** The engine's track on which a taken sound plays. */
export function takenTrack(): number {
  return orderedTracks(useDocuments.getState().records).length;
}

function playerForTaken(taken: TakenSound): LivePlayer | undefined {
  const load = useInstruments.getState().loads[taken.instrumentId];
  if (!load) return undefined;
  const { articulation } = usePerformance.getState();
  const index = takenTrack();
  const key = `taken ${index} ${taken.instrumentId} ${articulation} ${load.wanted.size} ${load.complete}`;
  if (live?.key !== key || live.mix !== taken.mix)
    live = {
      key,
      mix: taken.mix,
      player: new LivePlayer(load.instrument, index, [], articulation, taken.mix),
    };
  return live.player;
}

function playerFor(trackId: string): LivePlayer | undefined {
  const { records } = useDocuments.getState();
  const tracks = orderedTracks(records);
  const index = tracks.findIndex((track) => track.id === trackId);
  const track = tracks[index];
  const sound = track && soundOf(records, track);
  const load = sound?.instrumentId ? useInstruments.getState().loads[sound.instrumentId] : undefined;
  if (!load) return undefined;
  const triggers = listOf(records, 'trigger').filter((trigger) => trigger.trackId === trackId);
  const key = `${trackId} ${index} ${load.instrument.id} ${Object.keys(load.audio).length} ${triggers.map((t) => `${t.id}${t.key}${t.hold}`).join()}`;
  if (live?.key !== key)
    live = {
      key,
      player: new LivePlayer(
        load.instrument,
        index,
        triggers,
        usePerformance.getState().articulation,
        sound.mix,
      ),
    };
  return live.player;
}

/** Loads the articulation that hands are about to play, where it was not loaded or was let go. */
function loadPlayed(): void {
  const { trackId, taken, articulation } = usePerformance.getState();
  const { records } = useDocuments.getState();
  const track = listOf(records, 'track').find((one) => one.id === trackId);
  const id = taken ? taken.instrumentId : track && soundOf(records, track).instrumentId;
  if (id) needArticulation(id, articulation);
}

/** Sees to it that an articulation which is about to be heard is loaded. */
function needArticulation(instrumentId: string, articulation: string): void {
  const load = useInstruments.getState().loads[instrumentId];
  if (!load?.wanted.has(articulation))
    void wantArticulation(instrumentId, articulation).catch(() => undefined);
}

/** A message from a keyboard, the screen or the computer's keys, played on the current track. */
function takeMidi([status, data1, data2]: MidiBytes): void {
  const { trackId, taken } = usePerformance.getState();
  const player = taken ? playerForTaken(taken) : trackId === undefined ? undefined : playerFor(trackId);
  if ((status & 0xf0) === 0x90) loadPlayed();
  if (!player) return;
  soundHost
    .live(player.message(status, data1, data2))
    .catch(() => toast.error(soundHost.trouble ?? 'The browser gives no sound.'));
  if ((status & 0xf0) === 0xb0)
    usePerformance.setState(({ ridden }) => ({ ridden: { ...ridden, [data1]: data2 } }));
  else usePerformance.setState({ held: player.soundingKeys, articulation: player.triggers.current });
}

/** Plans every part anew where something changed, and tells the engine. */
function follow(): void {
  const { records } = useDocuments.getState();
  const { loads } = useInstruments.getState();
  const tempo = tempoOf(records);
  const plans: Record<string, Plan> = {};
  const before = usePerformance.getState().plans;
  for (const track of orderedTracks(records)) {
    const sound = soundOf(records, track);
    const load = sound.instrumentId ? loads[sound.instrumentId] : undefined;
    if (!load) continue;
    const context = {
      tempo,
      instrument: load.instrument,
      mix: sound.mix,
      mode: track.mode,
      articulation: sound.articulation,
      audio: load.complete ? load.audio : undefined,
    };
    const { part } = partOf(records, track.id);
    for (const { articulation } of part.marks)
      if (load.complete && load.instrument.articulations.some((one) => one.id === articulation))
        needArticulation(load.instrument.id, articulation);
    const known = before[track.id];
    const same =
      known &&
      known.part === part &&
      (Object.keys(context) as (keyof typeof context)[]).every(
        (name) => known.context[name] === context[name],
      );
    plans[track.id] = same ? known : planPart(part, context, known);
  }
  const ids = Object.keys(plans);
  if (ids.length === Object.keys(before).length && ids.every((id) => plans[id] === before[id])) return;
  usePerformance.setState({ plans });
  if (usePerformance.getState().playing) soundHost.replaceEvents(eventsFrom(startSeconds));
}

/** Lets a sound take a track's place in the cue, also while it plays, or (undefined) puts the track's own back. */
export function tryInCue(trial: Trial | undefined): void {
  usePerformance.setState({ trial });
  tellMix();
  follow();
}

let followTimer: ReturnType<typeof setTimeout> | undefined;
let sentTracks = '';
let sentHall = '';

function tellMix(): void {
  const { records, templateId } = useDocuments.getState();
  const setups: EngineTrackSetup[] = orderedTracks(records).map((track) => {
    const { instrumentId, mix } = soundOf(records, track);
    return { instrumentId, mix };
  });
  const { taken } = usePerformance.getState();
  if (taken) setups.push({ instrumentId: taken.instrumentId, mix: taken.mix });
  const text = JSON.stringify(setups);
  if (text !== sentTracks) soundHost.setTracks(setups);
  sentTracks = text;
  const template = templateId
    ? (records.template?.[templateId] as unknown as Item<'template'> | undefined)
    : undefined;
  const hall: HallMix = { earlyDb: template?.hallEarlyDb ?? 0, tailDb: template?.hallTailDb ?? 0 };
  if (JSON.stringify(hall) !== sentHall) soundHost.setHallMix(hall);
  sentHall = JSON.stringify(hall);
}

/** Ties documents, instruments and engine together. Call once. */
export function startPerformance(): void {
  receiveMidi(takeMidi, () => {
    releaseHands();
    toast('The MIDI keyboard was unplugged; its notes were let go.');
  });
  const onChange = () => {
    tellMix();
    for (const track of listOf(useDocuments.getState().records, 'track'))
      if (track.instrumentId) void wantInstrument(track.instrumentId, new Set([track.articulation, 'long']));
    clearTimeout(followTimer);
    followTimer = setTimeout(follow, 40);
  };
  useDocuments.subscribe((state, before) => state.records !== before.records && onChange());
  useInstruments.subscribe((state, before) => state.loads !== before.loads && onChange());
  soundHost.listen((state) => {
    reported = { frame: state.frame, at: performance.now() };
    meters.momentary = state.momentary;
    meters.voices = state.voices;
    meters.stolen = state.stolen;
    orderedTracks(useDocuments.getState().records).forEach((track, i) => {
      if (state.tracks[i]) meters.tracks[track.id] = state.tracks[i];
    });
    const { playing, looping } = usePerformance.getState();
    if (playing && !looping && state.playing && state.voices === 0 && isPastEnd(state.frame)) stop();
  });
}

/** True once nothing more is to come: past the cue's end and past the last planned sound. */
function isPastEnd(frame: number): boolean {
  const { records, cueId } = useDocuments.getState();
  const now = startSeconds + frame / ENGINE_RATE;
  const cue = cueId ? (records.cue?.[cueId] as unknown as Item<'cue'> | undefined) : undefined;
  const ends = Object.values(usePerformance.getState().plans).map(planEndSeconds);
  return now > Math.max(cue ? tempoOf(records).toSeconds(cue.endTick) : 0, ...ends) + 0.5;
}
