import { toast } from 'sonner';
import { EARLY_TICKS, isStruck, metreTicks, type PlayedMessage } from '#core/music/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import { cueOf, metreOf, partOf, tempoOf } from '../state/cue.ts';
import { itemOf, useDocuments } from '../state/documents.ts';
import { mayEdit, useSession } from '../state/session.ts';
import { forgetTake, leftTakes, TakeLog } from '../state/take-log.ts';
import { isWritten, writeRecorded } from '../state/takes.ts';
import { witnessHands, type PlayedByHand } from './hands.ts';
import { heardFrame } from './heard-at.ts';
import { soundHost } from './host.ts';
import { hearPhrase } from './last-phrase.ts';
import { playing } from './playhead.ts';
import { usePerformance, type Unheard } from './performance-state.ts';
import { useRecordingSettings } from './recording-settings.ts';
import { play, stop } from './transport.ts';

/** What hands play is written down: as it is played in this browser, and into the part when it ends. */

let log: TakeLog | undefined;
/** Time of the cue from which notes count: those of the count-in do not. */
let countsFrom = 0;
/** Time of the cue at which it begins, where nothing is counted in and nothing was heard yet. */
let beginsAt: number | undefined;
/** Keys struck before anything was heard, and when, by the page's clock. */
const struckBefore = new Map<number, number>();

/** Records on the chosen track from the playhead, or over the loop; ends a recording that runs. */
export async function recordOrStop(): Promise<void> {
  const { recording, playing: plays, preparing } = usePerformance.getState();
  if (plays || preparing) stop();
  if (!recording) await record();
}

async function record(): Promise<void> {
  if (!mayEdit()) {
    toast('You may look at this studio, not change it.');
    return;
  }
  const { records, cueId } = useDocuments.getState();
  const { trackId, looping, restTick } = usePerformance.getState();
  const cue = cueOf(records, cueId);
  const track = itemOf(records, 'track', trackId);
  if (!cue || !track) {
    toast('Choose a track of a cue to record on.');
    return;
  }
  const { within, replaces, gridTicks, leadBars } = useRecordingSettings.getState();
  const hasLoop = cue.loopEndTick > cue.loopStartTick;
  if (within && !hasLoop) {
    toast('There is no loop to record within: drag one in the bar line.');
    return;
  }
  const bounded = hasLoop && (within || looping);
  const fromTick = bounded ? cue.loopStartTick : restTick;
  const toTick = bounded ? cue.loopEndTick : null;
  const tempo = tempoOf(records);
  const goesRound = looping && toTick !== null;
  log = new TakeLog({
    id: crypto.randomUUID(),
    userId: useSession.getState().info?.user?.id ?? '',
    cueId: cue.id,
    trackId: track.id,
    fromTick,
    toTick,
    roundSeconds: goesRound ? tempo.toSeconds(toTick) - tempo.toSeconds(fromTick) : null,
    replaces,
    gridTicks,
  });
  countsFrom = tempo.toSeconds(fromTick - EARLY_TICKS);
  beginsAt = leadBars === 0 ? tempo.toSeconds(fromTick) : undefined;
  struckBefore.clear();
  const unheard: Unheard = {
    trackId: track.id,
    ...(replaces ? { notes: { fromTick, toTick: toTick ?? Infinity } } : {}),
    curves: [],
  };
  usePerformance.setState({ recording: true, recorded: 0, unheard });
  // Bars as they are where it begins, so that the first is counted in as it goes on.
  const leadTicks = leadBars * metreTicks(metreOf(records).at(fromTick)).bar;
  await play({ tick: fromTick, leadTicks });
  // Without sound there is nothing to play to.
  const { playing: plays, preparing } = usePerformance.getState();
  if (!plays && !preparing) finish();
}

/** Time of the cue that was heard when a message came; in a loop it goes on from round to round. Undefined before anything is heard. */
function cueSecondsAt(atMs: number): number | undefined {
  if (!usePerformance.getState().playing) return undefined;
  const frame = heardFrame(atMs - useRecordingSettings.getState().latencyMs);
  return frame === undefined ? undefined : playing.startSeconds + frame / ENGINE_RATE;
}

/**
 * Where nothing is counted in, what is played after Record was pressed and before anything is heard was meant for the beginning: sound
 * takes a moment to begin, more on a busy machine. Keys let go before are held for as long as they were.
 */
function secondsInTake({ bytes: [status, key, velocity], atMs }: PlayedByHand, heard: number | undefined) {
  if (beginsAt === undefined) return heard;
  if (heard !== undefined && heard >= beginsAt) {
    beginsAt = undefined;
    return heard;
  }
  if (status >> 4 === 9 && velocity > 0) struckBefore.set(key, atMs);
  else if (status >> 4 === 8 || status >> 4 === 9)
    return beginsAt + (atMs - (struckBefore.get(key) ?? atMs)) / 1000;
  return beginsAt;
}

function take(played: PlayedByHand): void {
  const heard = cueSecondsAt(played.atMs);
  const seconds = log ? secondsInTake(played, heard) : heard;
  const message = messageOf(played, seconds ?? played.atMs / 1000);
  if (!log) {
    hearPhrase(played.trackId, message, seconds !== undefined);
    return;
  }
  if (seconds === undefined || played.trackId !== log.take.trackId) return;
  log.add(message);
  if (isStruck(message) && seconds >= countsFrom)
    usePerformance.setState(({ recorded }) => ({ recorded: recorded + 1 }));
  if ((message.status & 0xf0) === 0xb0) takeCurves(played.controllers, seconds);
}

function messageOf(
  { bytes, articulation, selects, controllers }: PlayedByHand,
  seconds: number,
): PlayedMessage {
  const [status, data1, data2] = bytes;
  return { seconds, status, data1, data2, articulation, selects, controllers };
}

/** From where a hand has taken a curve, what was drawn there gives way to it. */
function takeCurves(controllers: readonly number[], seconds: number): void {
  const { unheard } = usePerformance.getState();
  if (!unheard || !log) return;
  const { records } = useDocuments.getState();
  const { points } = partOf(records, unheard.trackId).part;
  const fresh = controllers.filter(
    (one) =>
      !unheard.curves.some(({ controller }) => controller === one) &&
      points.some(({ controller }) => controller === one),
  );
  const tick = Math.round(tempoOf(records).toTicks(seconds));
  if (fresh.length === 0 || tick < log.take.fromTick) return;
  const curves = fresh.map((controller) => ({ controller, fromTick: tick }));
  usePerformance.setState({ unheard: { ...unheard, curves: [...unheard.curves, ...curves] } });
}

/** What was recorded goes into the part. */
function finish(endSeconds?: number): void {
  const ended = log;
  log = undefined;
  usePerformance.setState({ recording: false, unheard: undefined });
  if (!ended) return;
  const { take: recorded, messages } = ended;
  const last = messages.at(-1)?.seconds ?? 0;
  // Of a cue that was left in the meantime it is written when that is opened again.
  if (recorded.cueId !== useDocuments.getState().cueId) return;
  const written = writeRecorded(recorded, messages, Math.max(last, endSeconds ?? last));
  if (!written && messages.some(isStruck)) toast('What was played lies outside of what is recorded.');
  void ended.close();
}

/** Takes up what pages left behind that were closed, or broke, while they recorded into the cue that is open now. */
async function takeUpLeft(): Promise<void> {
  const { cueId } = useDocuments.getState();
  const userId = useSession.getState().info?.user?.id;
  if (cueId === undefined || userId === undefined) return;
  for (const left of await leftTakes(userId, cueId, log?.take.id)) {
    const { take: recorded, messages } = left;
    if (useDocuments.getState().cueId !== cueId) return;
    const last = messages.at(-1)?.seconds ?? 0;
    const track = itemOf(useDocuments.getState().records, 'track', recorded.trackId);
    if (!track) continue;
    const written = isWritten(recorded) ? undefined : writeRecorded(recorded, messages, last);
    if (written)
      toast(
        `What was being recorded on ${track.name} when the page was closed is in its part. Undo takes it out.`,
        {
          duration: 10_000,
        },
      );
    await forgetTake(left);
  }
}

/** Listens to hands and to the transport. Call once. */
export function startRecorder(): void {
  witnessHands(take);
  let endSeconds: number | undefined;
  usePerformance.subscribe((state, before) => {
    if (before.recording && (before.playing || before.preparing) && !state.playing && !state.preparing)
      finish(endSeconds);
  });
  soundHost.listen(() => {
    if (log) endSeconds = cueSecondsAt(performance.now());
  });
  useDocuments.subscribe((state, before) => {
    if (state.cueId !== before.cueId) void takeUpLeft();
  });
  void takeUpLeft();
}
