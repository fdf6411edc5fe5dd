import { toast } from 'sonner';
import type { Instrument } from '#core/catalogue/index.ts';
import type { SampleAudio } from '#core/engine/index.ts';
import type { Voicing } from '#core/keymap/index.ts';
import { samePositions, type TrackMix } from '#core/mixing/index.ts';
import { LivePlayer, type LiveSetup } from '#core/performance/index.ts';
import { orderedTracks } from '../state/cue.ts';
import { itemOf, useDocuments } from '../state/documents.ts';
import { soundHost } from './host.ts';
import { loadArticulations, useInstruments, wantArticulation, type LoadState } from './instruments.ts';
import type { MidiBytes, MidiSource } from './midi.ts';
import { soundOf } from './mixes.ts';
import { setupOfTaken, setupOfTrack } from './playing-by.ts';
import { readingOf } from './reading.ts';
import { usePerformance, type TakenSound } from './performance-state.ts';

interface Playing {
  key: string;
  instrument: Instrument;
  player: LivePlayer;
  setup: LiveSetup;
  mix: TrackMix;
  audio: Audio | undefined;
}
type Audio = ReadonlyMap<string, SampleAudio>;

let live: Playing | undefined;

/** Chooses the track that hands play and views show. */
export function selectTrack(trackId: string): void {
  const track = itemOf(useDocuments.getState().records, 'track', trackId);
  releaseHands();
  usePerformance.setState({ trackId, ...(track ? { articulation: track.articulation } : {}) });
}

/** Lets go of all keys that a hand holds. */
export function releaseHands(): void {
  if (live) void soundHost.live(live.player.allOff());
  const { held, trackId, taken } = usePerformance.getState();
  // Whoever writes down what is played hears of it as of any other release.
  if (!taken && trackId !== undefined)
    for (const key of held) tellWitnesses(trackId, [0x80, key, 0], performance.now());
  usePerformance.setState({ held: [] });
}

/** Chooses the articulation that hands play, as its trigger would. */
export function selectArticulation(articulation: string): void {
  usePerformance.setState({ articulation });
  live?.player.choose(articulation);
  loadPlayed();
}

/** Takes a sound up to be played by hands in place of the track's, or puts it down again. */
export function takeUp(taken: TakenSound | undefined, articulation?: string): void {
  releaseHands();
  const { trackId } = usePerformance.getState();
  const track = itemOf(useDocuments.getState().records, 'track', trackId);
  usePerformance.setState({
    taken,
    articulation: articulation ?? (taken ? 'long' : (track?.articulation ?? 'long')),
  });
}

/** Mixes the taken sound anew; what sounds of it changes at once, without starting again. */
export function mixTaken(mix: TrackMix): void {
  usePerformance.setState(({ taken }) => ({ taken: taken && { ...taken, mix } }));
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

/** Recordings by which moves are measured: none while some are still on their way, and would be heard as silence. */
const heardBy = (load: { complete: boolean; audio: ReadonlyMap<string, SampleAudio> }) =>
  load.complete ? load.audio : undefined;

function playerForTaken(taken: TakenSound): LivePlayer | undefined {
  const load = useInstruments.getState().loads[taken.instrumentId];
  if (!load) return undefined;
  const setup = setupOfTaken(useDocuments.getState().records, load.instrument, taken.byKeymap ?? false);
  return playerBy(`taken ${taken.instrumentId}`, takenTrack(), load, setup, taken.mix);
}

function playerFor(trackId: string): LivePlayer | undefined {
  const { records } = useDocuments.getState();
  const tracks = orderedTracks(records);
  const index = tracks.findIndex((track) => track.id === trackId);
  const track = tracks[index];
  const sound = track && soundOf(records, track);
  const load = sound?.instrumentId ? useInstruments.getState().loads[sound.instrumentId] : undefined;
  if (!load) return undefined;
  const setup = setupOfTrack(records, track, load.instrument, sound.tried);
  return playerBy(`${trackId} ${load.instrument.id}`, index, load, setup, sound.mix);
}

/**
 * The present player, or one for another sound. An edited keymap, a moved mix and more recordings are taken up while keys are held;
 * what is held on another sound is let go.
 */
function playerBy(
  whose: string,
  index: number,
  load: LoadState,
  setup: LiveSetup,
  mix: TrackMix,
): LivePlayer {
  const key = `${whose} ${index}`;
  const audio = heardBy(load);
  // An instrument that was recorded anew is another one.
  if (live?.key !== key || live.instrument !== load.instrument) {
    if (live) void soundHost.live(live.player.allOff());
    const { articulation } = usePerformance.getState();
    const player = new LivePlayer(load.instrument, index, setup, articulation, mix, audio);
    live = { key, instrument: load.instrument, player, setup, mix, audio };
    return player;
  }
  if (live.setup.keymap !== setup.keymap || live.setup.voicing !== setup.voicing) live.player.setUp(setup);
  if (!samePositions(live.mix, mix) || live.audio !== audio) live.player.hearBy(mix, audio);
  live = { ...live, setup, mix, audio };
  return live.player;
}

/** Loads the articulation that hands are about to play, where it was not loaded or was let go. */
function loadPlayed(): void {
  const { trackId, taken, articulation } = usePerformance.getState();
  const { records } = useDocuments.getState();
  const track = itemOf(records, 'track', trackId);
  const id = taken ? taken.instrumentId : track && soundOf(records, track).instrumentId;
  if (id) needArticulation(id, articulation, live?.setup.voicing);
}

/** Sees to it that what is about to be heard of an instrument is loaded. @param voicing what sounds for the articulation */
export function needArticulation(instrumentId: string, articulation: string, voicing?: Voicing): void {
  const load = useInstruments.getState().loads[instrumentId];
  const own = voicing
    ?.indicesOf(articulation)
    .flatMap((index) => load?.instrument.articulations[index]?.id ?? []);
  for (const id of own ?? [articulation])
    if (!load) void wantArticulation(instrumentId, id).catch(() => undefined);
    else if (!load.wanted.has(id))
      void loadArticulations(load.instrument, new Set([id])).catch(() => undefined);
}

/** A message that hands have sent to a track, and what its keymap made of it. */
export interface PlayedByHand {
  trackId: string;
  bytes: MidiBytes;
  /** When it came, by the page's clock. */
  atMs: number;
  articulation: string;
  /** A key that selected something and did not sound itself. */
  selects: boolean;
  /** Controllers by which a part knows the one that was moved. */
  controllers: readonly number[];
}

const witnesses = new Set<(played: PlayedByHand) => void>();

/** Tells somebody of all that hands play on tracks, for example who writes it down. @returns a function that ends it */
export function witnessHands(witness: (played: PlayedByHand) => void): () => void {
  witnesses.add(witness);
  return () => witnesses.delete(witness);
}

/** A message from a keyboard, the screen or the computer's keys, played on the current track. */
export function takeMidi([status, data1, data2]: MidiBytes, _source: MidiSource, atMs: number): void {
  const { trackId, taken } = usePerformance.getState();
  const player = taken ? playerForTaken(taken) : trackId === undefined ? undefined : playerFor(trackId);
  if ((status & 0xf0) === 0x90) loadPlayed();
  if (!player) {
    if (!taken && trackId !== undefined) tellWitnesses(trackId, [status, data1, data2], atMs);
    return;
  }
  soundHost
    .live(player.message(status, data1, data2))
    .catch(() => toast.error(soundHost.trouble ?? 'The browser gives no sound.'));
  const chosen = player.articulation !== usePerformance.getState().articulation;
  if ((status & 0xf0) === 0xb0)
    usePerformance.setState(({ ridden }) => ({ ridden: { ...ridden, [data1]: data2 } }));
  usePerformance.setState({
    held: player.soundingKeys,
    articulation: player.articulation,
    reading: readingOf([status, data1, data2], player),
  });
  if (chosen) loadPlayed();
  if (!taken && trackId !== undefined) tellWitnesses(trackId, [status, data1, data2], atMs, player);
}

function tellWitnesses(trackId: string, bytes: MidiBytes, atMs: number, player?: LivePlayer): void {
  const [status, data1] = bytes;
  const { articulation } = usePerformance.getState();
  const isKey = (status & 0xe0) === 0x80;
  const selects = isKey && (player?.resolution.taken ?? false);
  const controllers = player?.writtenAs(data1) ?? [data1];
  for (const witness of witnesses) witness({ trackId, bytes, atMs, articulation, selects, controllers });
}
