import { toast } from 'sonner';
import type { GivenUp } from '#core/engine/index.ts';
import { orderedTracks, partOf } from '../state/cue.ts';
import { itemOf, useDocuments, type Item } from '../state/documents.ts';
import { useOwnHearing } from '../state/own-hearing.ts';
import { tellLimit, tryMachine, useCapacity } from './capacity.ts';
import { followHandMoves, forgetHandMoves } from './hand-moves.ts';
import { releaseHands, takeMidi } from './hands.ts';
import { followHall } from './hall.ts';
import { followMixes } from './heard-positions.ts';
import { soundHost } from './host.ts';
import { isWanted, knowInstrument, useInstruments, wantOnce } from './instruments.ts';
import type { EngineTrackSetup } from './messages.ts';
import { receiveMidi } from './midi.ts';
import { soundOf } from './mixes.ts';
import { meters, usePerformance } from './performance-state.ts';
import { planAll } from './planning.ts';
import { setupOfTrack } from './playing-by.ts';
import { startRecorder } from './recorder.ts';
import { useRecordingSettings } from './recording-settings.ts';
import { hearWhere, playOn, tellClicksAnew } from './transport.ts';

/** Edits that come one after the other, as in a drag, are planned together. */
const PLAN_AFTER_MS = 40;

let planTimer: ReturnType<typeof setTimeout> | undefined;
let sentTracks: EngineTrackSetup[] = [];
/** Tracks that hands play or have played. */
const byHand = new Set<string>();
let sentHall = '';

/** Tells the engine the mix, when it is another than before. */
function tellMix(): void {
  const { records, templateId } = useDocuments.getState();
  const { taken, trackId } = usePerformance.getState();
  const setups = orderedTracks(records).map((track): EngineTrackSetup => {
    const { instrumentId, mix } = soundOf(records, track);
    // Whatever hands have once played may sound of them for a while.
    if (track.id === trackId) byHand.add(track.id);
    return { instrumentId, mix, byHand: byHand.has(track.id) };
  });
  if (taken) setups.push({ instrumentId: taken.instrumentId, mix: taken.mix, byHand: true, handsOnly: true });
  const same =
    setups.length === sentTracks.length &&
    setups.every(({ instrumentId, mix, byHand }, i) => {
      const sent = sentTracks[i];
      return sent.instrumentId === instrumentId && sent.mix === mix && sent.byHand === byHand;
    });
  if (!same) soundHost.setTracks(setups);
  sentTracks = setups;
  const template = itemOf(records, 'template', templateId);
  followHall(template);
  const hall = { earlyDb: template?.hallEarlyDb ?? 0, tailDb: template?.hallTailDb ?? 0 };
  if (JSON.stringify(hall) !== sentHall) soundHost.setHallMix(hall);
  sentHall = JSON.stringify(hall);
}

/** What was asked for, by track: its instrument and the articulation of unmarked notes. */
const asked = new Map<string, string>();

/** Asks for what tracks play when nothing is marked; plans ask for the rest they play, hands for what they choose. */
function wantTracks(): void {
  const { records } = useDocuments.getState();
  const { trackId } = usePerformance.getState();
  for (const track of orderedTracks(records)) {
    const { instrumentId, articulation } = track;
    // Who neither has anything to play nor is played by hand takes no memory.
    if (!instrumentId || (track.id !== trackId && partOf(records, track.id).part.notes.length === 0))
      continue;
    const key = `${instrumentId} ${articulation}`;
    if (asked.get(track.id) === key && isWanted(instrumentId)) continue;
    asked.set(track.id, key);
    void wantUnmarked(track, instrumentId);
  }
}

async function wantUnmarked(track: Item<'track'>, instrumentId: string): Promise<void> {
  const instrument = await knowInstrument(instrumentId);
  if (!instrument) return;
  const { articulations } = instrument;
  const { voicing } = setupOfTrack(useDocuments.getState().records, track, instrument, false);
  const indices = voicing.indicesOf(track.articulation);
  // Something of it is here in any case, so that it can be planned and played.
  await wantOnce(
    instrument,
    (indices.length > 0 ? indices : [0]).map((index) => articulations[index].id),
  );
}

function follow(): void {
  tellMix();
  followMixes();
  wantTracks();
  clearTimeout(planTimer);
  planTimer = setTimeout(planAll, PLAN_AFTER_MS);
}

function noteGivenUp({ track, key, why }: GivenUp): void {
  const own = orderedTracks(useDocuments.getState().records)[track];
  const whose = own?.name ?? usePerformance.getState().taken?.name ?? '';
  meters.givenUp = { whose, key, why, at: Date.now() };
}

function noteLate(blocks: number): void {
  meters.lateBlocks += blocks;
  meters.lateAt = Date.now();
}

/** Idle for so long after the page was opened, the machine is tried once. */
const TRY_AFTER_MS = 20_000;

/** Tries what this machine manages, once in a browser, when nothing plays or loads. */
function tryOnce(): void {
  if (useCapacity.getState().managed !== undefined) return;
  const busy =
    usePerformance.getState().playing ||
    meters.voices > 0 ||
    Object.values(useInstruments.getState().loads).some((load) => !load.complete);
  if (busy) setTimeout(tryOnce, TRY_AFTER_MS);
  else void tryMachine();
}

/** Ties documents, instruments, hands and engine together. Call once. */
export function startPerformance(): void {
  receiveMidi(takeMidi, () => {
    releaseHands();
    toast('The MIDI keyboard was unplugged; its notes were let go.');
  });
  useDocuments.subscribe((state, before) => {
    if (state.records === before.records) return;
    follow();
    if (state.records.tempo !== before.records.tempo || state.records.metre !== before.records.metre)
      tellClicksAnew();
  });
  useInstruments.subscribe((state, before) => state.loads !== before.loads && follow());
  useOwnHearing.subscribe(follow);
  usePerformance.subscribe((state, before) => {
    if (state.taken !== before.taken || state.trackId !== before.trackId) tellMix();
    if (state.taken !== before.taken) followMixes();
    if (state.trackId !== before.trackId) wantTracks();
    if (state.unheard !== before.unheard) planAll();
    if (state.trial !== before.trial) {
      tellMix();
      planAll();
    }
  });
  useRecordingSettings.subscribe(tellClicksAnew);
  soundHost.listen((state) => {
    meters.momentary = state.momentary;
    meters.voices = state.voices;
    meters.stolen = state.stolen;
    meters.givenUpCount += state.stolen;
    if (state.givenUp) noteGivenUp(state.givenUp);
    if (state.late > 0) noteLate(state.late);
    orderedTracks(useDocuments.getState().records).forEach((track, i) => {
      if (state.tracks[i]) meters.tracks[track.id] = state.tracks[i];
    });
    hearWhere(state.frame, state.seconds, state.playing && state.voices === 0);
    followHandMoves();
  });
  soundHost.troubled = (sentence) => toast.error(sentence);
  soundHost.revived = () => {
    forgetHandMoves();
    playOn();
  };
  startRecorder();
  // What was opened before this was loaded.
  follow();
  tellLimit();
  setTimeout(tryOnce, TRY_AFTER_MS);
}
