import type { Articulation, Instrument } from '#core/catalogue/index.ts';
import { matchLoudness, type WrittenPhrase } from '#core/listen/index.ts';
import type { HallMix, TrackMix } from '#core/mixing/index.ts';
import { pitchName, TempoMap } from '#core/music/index.ts';
import { planPart } from '#core/performance/index.ts';
import { RequestFailure } from '../state/api-client.ts';
import { wantedHall } from './hall.ts';
import { soundHost } from './host.ts';
import { holdRecordings, openInstrument, useInstruments, wantArticulation } from './instruments.ts';
import { shareRoom, takeRoomBack, type SharedRoom } from './page-memory.ts';
import type { RenderAnswer, Rendered, RenderRequest } from './render.worker.ts';
import { useRenderings, type RenderState } from './renderings-state.ts';

/** A phrase to be rendered; `name` says all of it in text, so that equal ones are rendered once. */
export interface RenderOrder {
  name: string;
  instrumentId: string;
  /** The technique that plays; marks of the phrase may bring in others. */
  articulation: string;
  phrase: WrittenPhrase;
  bpm: number;
  mix: TrackMix;
  hall?: HallMix;
}

/** Sound of renderings kept in memory at most. */
const MOST_BYTES = 192 * 2 ** 20;

interface Waiting {
  order: RenderOrder;
  rank: number;
  number: number;
  done: ((rendered: Rendered) => void)[];
  failed: ((error: Error) => void)[];
}

const kept = new Map<string, Rendered>();
const waiting = new Map<string, Waiting>();
let worker: Worker | undefined;
let shared: SharedRoom | undefined;
let busy: string | undefined;
let count = 0;

function setState(name: string, state: RenderState): void {
  useRenderings.setState(({ states }) => ({ states: { ...states, [name]: state } }));
}

/**
 * Sees to it that a phrase is rendered. @param rank lower ones come first
 * @throws Error with a sentence when it cannot be
 */
export function rendering(order: RenderOrder, rank = 0): Promise<Rendered> {
  const known = kept.get(order.name);
  if (known) {
    // Used last, kept longest.
    kept.delete(order.name);
    kept.set(order.name, known);
    return Promise.resolve(known);
  }
  return new Promise((done, failed) => {
    const entry = waiting.get(order.name);
    if (entry) {
      entry.rank = Math.min(entry.rank, rank);
      entry.done.push(done);
      entry.failed.push(failed);
    } else {
      waiting.set(order.name, { order, rank, number: count++, done: [done], failed: [failed] });
      if (useRenderings.getState().states[order.name]?.kind !== 'ready')
        setState(order.name, { kind: 'waiting' });
    }
    void next();
  });
}

/** Figures of a phrase in the background; nothing happens when they are known. */
export function prepareRendering(order: RenderOrder, rank: number): void {
  const state = useRenderings.getState().states[order.name];
  if (state && state.kind !== 'failed') return;
  rendering(order, rank).catch(() => undefined);
}

/** Forgets what waits in the background, for example because another tempo was chosen. */
export function dropWaiting(leastRank: number): void {
  for (const [name, entry] of waiting) {
    if (name === busy || entry.rank < leastRank) continue;
    waiting.delete(name);
    useRenderings.setState(({ states: { [name]: _gone, ...states } }) => ({ states }));
    for (const failed of entry.failed) failed(new Error('No longer wanted.'));
  }
}

async function next(): Promise<void> {
  if (busy !== undefined) return;
  let first: Waiting | undefined;
  for (const entry of waiting.values())
    if (!first || entry.rank < first.rank || (entry.rank === first.rank && entry.number < first.number))
      first = entry;
  if (!first) return;
  const { name } = first.order;
  busy = name;
  try {
    const rendered = await render(first.order);
    keep(name, rendered);
    const { lufs, truePeakDb, outline } = rendered;
    setState(name, { kind: 'ready', lufs, truePeakDb, outline, seconds: rendered.left.length / 48_000 });
    for (const done of first.done) done(rendered);
  } catch (error) {
    setState(name, { kind: 'failed', message: (error as Error).message });
    for (const failed of first.failed) failed(error as Error);
  } finally {
    waiting.delete(name);
    busy = undefined;
    void next();
  }
}

async function render(order: RenderOrder): Promise<Rendered> {
  const { instrumentId, articulation, phrase, mix } = order;
  setState(order.name, { kind: 'loading' });
  const instrument = await openInstrument(instrumentId);
  if (!instrument.articulations.some((one) => one.id === articulation))
    throw new Error(`${instrument.name} has no ${articulation}.`);
  // What really plays, stand-ins of missing techniques too.
  const plan = planPart(phrase.part, {
    tempo: new TempoMap([{ tick: 0, bpm: order.bpm }]),
    instrument,
    mix,
    mode: 'planned',
    articulation,
  });
  const used = new Set(plan.segments.flatMap((segment) => segment.sounds.map((sound) => sound.articulation)));
  const own = instrument.articulations.filter((one, i) => used.has(i) || one.id === articulation);
  for (const one of own)
    await wantArticulation(instrumentId, one.id).catch((error: Error) => {
      throw new Error(whatIsMissing(instrument, one, error));
    });
  const load = useInstruments.getState().loads[instrumentId];
  if (!load) throw new Error(useInstruments.getState().errors[instrumentId] ?? 'The recordings were let go.');
  setState(order.name, { kind: 'rendering' });
  const small: Instrument = { ...instrument, articulations: own, packs: {} };
  const ids = new Set(
    own.flatMap((one) => one.zones.flatMap((zone) => Object.values(zone.samples))).map((ref) => ref.sample),
  );
  shared ??= shareRoom();
  const request: RenderRequest = {
    shared,
    order: {
      instrument: {
        ...small,
        samples: Object.fromEntries([...ids].map((id) => [id, instrument.samples[id]])),
      },
      audio: new Map([...load.audio].filter(([id]) => ids.has(id))),
      articulation,
      phrase,
      bpm: order.bpm,
      mix,
      hall: order.hall ? await wantedHall() : null,
      hallMix: order.hall ?? { earlyDb: 0, tailDb: 0 },
    },
  };
  worker ??= new Worker(new URL('./render.worker.ts', import.meta.url), { type: 'module' });
  const own_ = worker;
  const letGo = holdRecordings();
  return new Promise<Rendered>((resolve, reject) => {
    own_.onmessage = ({ data }: MessageEvent<RenderAnswer>) =>
      data.kind === 'done' ? resolve(data.rendered) : reject(new Error(data.message));
    own_.onerror = (event) => {
      own_.terminate();
      worker = undefined;
      if (shared) takeRoomBack(shared);
      shared = undefined;
      reject(new Error(event.message));
    };
    own_.postMessage(request);
  }).finally(letGo);
}

const MOST_NAMED = 4;

/** Says whose recordings cannot be had, and which of them where the server told. */
function whatIsMissing(instrument: Instrument, articulation: Articulation, error: Error): string {
  const whose = `${instrument.name}, ${articulation.name || articulation.id}`;
  const pack = error instanceof RequestFailure ? error.problem?.place?.record : undefined;
  const roots = articulation.zones
    .filter((zone) =>
      Object.values(zone.samples).some(({ sample }) => instrument.samples[sample]?.pack === pack),
    )
    .map((zone) => zone.rootKey)
    .sort((a, b) => a - b);
  const names = [...new Set(roots)].map((key) => pitchName(key));
  if (names.length === 0) return `${whose}: ${error.message}`;
  const named = names.slice(0, MOST_NAMED).join(', ') + (names.length > MOST_NAMED ? ' …' : '');
  return `${whose}: recordings of ${named} are no longer on the disk. Take the library in again.`;
}

function keep(name: string, rendered: Rendered): void {
  kept.set(name, rendered);
  let bytes = heldBytes();
  for (const [old] of kept) {
    if (bytes <= MOST_BYTES || old === name || sounding.has(old)) continue;
    bytes -= sizeOf(kept.get(old));
    kept.delete(old);
  }
  useRenderings.setState({ heldBytes: heldBytes() });
}

const sizeOf = (rendered: Rendered | undefined) =>
  rendered ? rendered.left.byteLength + rendered.right.byteLength : 0;

function heldBytes(): number {
  let sum = 0;
  for (const rendered of kept.values()) sum += sizeOf(rendered);
  return sum;
}

/** Names that the worklet has now. */
let sounding = new Set<string>();

/**
 * Gives what is rendered of some orders to the engine, matched in loudness or with one common gain, so that it can go from one
 * to another.
 */
export function offerToEngine(names: readonly string[], matched: boolean): void {
  const here = names.flatMap((name) => {
    const rendered = kept.get(name);
    return rendered ? [{ name, rendered }] : [];
  });
  const matching = matchLoudness(here.map((one) => one.rendered));
  soundHost.setRenderings(
    new Map(
      here.map(({ name, rendered: { left, right } }, i) => [
        name,
        { left, right, gain: matched ? matching.matched[i] : matching.plain },
      ]),
    ),
  );
  sounding = new Set(here.map((one) => one.name));
  soundHost.keepRenderings([...sounding]);
}

/** Puts a sound that was not rendered here beside the renderings, for example a passage of a recording. */
export function keepSound(name: string, sound: Rendered): void {
  keep(name, sound);
}

/** A rendering that is in memory, or undefined. */
export function heldRendering(name: string): Rendered | undefined {
  return kept.get(name);
}
