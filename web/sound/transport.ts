import { toast } from 'sonner';
import { clicksBetween, Feed, planEndSeconds, type Plan } from '#core/performance/index.ts';
import { dbToGain, ENGINE_RATE } from '#core/units/index.ts';
import { cueOf, metreOf, orderedTracks, tempoOf } from '../state/cue.ts';
import { useDocuments } from '../state/documents.ts';
import { soundHost } from './host.ts';
import { usePerformance } from './performance-state.ts';
import { loadPlanned } from './planned-sounds.ts';
import { playheadTick, playing } from './playhead.ts';
import { useRecordingSettings } from './recording-settings.ts';
import { whatIsMissing, whenReady } from './readiness.ts';

/** A loop shorter than this would be a tone of its own. */
const LEAST_LOOP_FRAMES = ENGINE_RATE / 20;

/** The engine is told so much ahead: long enough for a page that is busy, short enough to cost nothing. */
const AHEAD_FRAMES = 2 * ENGINE_RATE;
/** A change has so long to reach those who render ahead. */
const CHANGE_FRAMES = ENGINE_RATE / 20;

let feed: Feed | undefined;
/** Clicks are told up to this frame. */
let clicksUntil = 0;

/** Where to play from, and how much is played before that. */
export interface PlayFrom {
  tick: number;
  leadTicks?: number;
}

/** Plans by track of the engine. */
function plansByTrack(): (Plan | undefined)[] {
  const { plans } = usePerformance.getState();
  return orderedTracks(useDocuments.getState().records).map((track) => plans[track.id]);
}

let stopWaiting: (() => void) | undefined;

/**
 * Starts playing at the resting place, or at the loop's start when looping; when plans or recordings are still to come, as soon as
 * they are here. @param from another place to play from
 */
export async function play(from?: PlayFrom): Promise<void> {
  stopWaiting?.();
  stopWaiting = undefined;
  loadPlanned();
  const { waiting, failed } = whatIsMissing();
  if (failed.length > 0) toast.error(`Not everything sounds. ${failed[0]}`);
  if (waiting.length > 0 && !usePerformance.getState().playing) {
    // The audio thread may only be woken by a press; it is one.
    void soundHost.wake().catch(() => undefined);
    usePerformance.setState({ preparing: true });
    stopWaiting = whenReady(() => void playNow(from));
    return;
  }
  await playNow(from);
}

async function playNow(place?: PlayFrom): Promise<void> {
  stopWaiting = undefined;
  usePerformance.setState({ preparing: false });
  const { records, cueId } = useDocuments.getState();
  const { looping, restTick } = usePerformance.getState();
  const cue = cueOf(records, cueId);
  const tempo = tempoOf(records);
  const loop = looping && cue && cue.loopEndTick > cue.loopStartTick ? cue : undefined;
  const from = place?.tick ?? (loop ? loop.loopStartTick : restTick);
  const startSeconds = tempo.toSeconds(from - (place?.leadTicks ?? 0));
  const leadFrames = Math.round((tempo.toSeconds(from) - startSeconds) * ENGINE_RATE);
  const loopFrames = loop
    ? Math.max(
        LEAST_LOOP_FRAMES,
        Math.round((tempo.toSeconds(loop.loopEndTick) - tempo.toSeconds(from)) * ENGINE_RATE),
      )
    : null;
  Object.assign(playing, { startSeconds, leadFrames, loopFrames });
  const next = new Feed({ startSeconds, loopFrames, leadFrames });
  feed = next;
  clicksUntil = 0;
  playing.contextSeconds = 0;
  try {
    await soundHost.play(next.begin(plansByTrack(), AHEAD_FRAMES), (tracks, frame) =>
      next.enter(tracks, frame),
    );
  } catch {
    toast.error(soundHost.trouble ?? 'The browser gives no sound.');
    return;
  }
  tellClicks(AHEAD_FRAMES);
  Object.assign(playing, { frame: 0, toldAt: performance.now() });
  usePerformance.setState({ playing: true });
}

/** Stops; the playhead stays where it started (`stay` false) or where it is. */
export function stop(stay = false): void {
  stopWaiting?.();
  stopWaiting = undefined;
  const tick = Math.round(playheadTick());
  soundHost.stop();
  feed = undefined;
  usePerformance.setState((state) => ({
    playing: false,
    preparing: false,
    restTick: stay ? tick : state.restTick,
  }));
}

/** Moves the resting place; playing goes on from there, a recording ends. */
export function locate(tick: number): void {
  if (usePerformance.getState().recording) stop();
  usePerformance.setState({ restTick: Math.max(0, Math.round(tick)) });
  if (usePerformance.getState().playing) void play();
}

/** Goes on where it was after the sound had to begin anew. */
export function playOn(): void {
  const { playing: plays, looping } = usePerformance.getState();
  if (plays) void playNow(looping ? undefined : { tick: playheadTick() });
}

/** Turns the loop on or off; a recording ends. */
export function toggleLoop(): void {
  if (usePerformance.getState().recording) stop();
  usePerformance.setState(({ looping }) => ({ looping: !looping }));
  if (usePerformance.getState().playing) void play();
}

/** Tells the clicks up to a frame, where any are wanted. */
function tellClicks(until: number): void {
  const { click, clickDb } = useRecordingSettings.getState();
  const from = clicksUntil;
  clicksUntil = Math.max(from, until);
  if (click === 'never' || (click === 'recording' && !usePerformance.getState().recording)) return;
  const { records } = useDocuments.getState();
  soundHost.addClicks(
    clicksBetween(playing, metreOf(records), tempoOf(records), from, clicksUntil),
    dbToGain(clickDb),
  );
}

/** Tells the clicks anew: tempo, metre or what is wanted of them has changed. */
export function tellClicksAnew(): void {
  if (!usePerformance.getState().playing) return;
  soundHost.dropClicks();
  clicksUntil = playing.frame + CHANGE_FRAMES;
  tellClicks(playing.frame + AHEAD_FRAMES);
}

/** Lets what plays go on with plans that changed. */
export function replan(): void {
  if (!usePerformance.getState().playing) return;
  const change = feed?.change(plansByTrack(), soundHost.ahead.nextFrame + CHANGE_FRAMES);
  if (change) soundHost.change(change);
}

/**
 * Takes the engine's report of where it is; at the end of everything playing stops, unless it is recorded.
 * @param contextSeconds when that frame is next, by the clock of the audio context
 */
export function hearWhere(frame: number, contextSeconds: number, isSilent: boolean): void {
  Object.assign(playing, { frame, contextSeconds, toldAt: performance.now() });
  const { playing: plays, looping, recording } = usePerformance.getState();
  // Told by halves, so that there is always some left.
  if (plays && feed && feed.until - frame < AHEAD_FRAMES / 2) soundHost.feed(feed.go(frame + AHEAD_FRAMES));
  if (plays && clicksUntil - frame < AHEAD_FRAMES / 2) tellClicks(frame + AHEAD_FRAMES);
  if (plays && !looping && !recording && isSilent && isPastEnd(frame)) stop();
}

/** True once nothing more is to come: past the cue's end and past the last planned sound. */
function isPastEnd(frame: number): boolean {
  const { records, cueId } = useDocuments.getState();
  const now = playing.startSeconds + frame / ENGINE_RATE;
  const cue = cueOf(records, cueId);
  const ends = Object.values(usePerformance.getState().plans).map(planEndSeconds);
  return now > Math.max(cue ? tempoOf(records).toSeconds(cue.endTick) : 0, ...ends) + 0.5;
}

/** Sounds even clicks and nothing else, the first in a moment; a performance ends. @throws Error when the browser gives no sound */
export async function playClicks(count: number, everySeconds: number): Promise<void> {
  if (usePerformance.getState().playing) stop();
  feed = undefined;
  Object.assign(playing, { startSeconds: 0, leadFrames: 0, loopFrames: null, frame: 0, contextSeconds: 0 });
  await soundHost.play([]);
  const clicks = Array.from({ length: count }, (_, i) => ({
    frame: Math.round((i + 1) * everySeconds * ENGINE_RATE),
    strong: i % 4 === 0,
  }));
  soundHost.addClicks(clicks, dbToGain(useRecordingSettings.getState().clickDb));
}

/** Ends what `playClicks` began. */
export function endClicks(): void {
  soundHost.dropClicks();
  soundHost.stop();
}
