import { create } from 'zustand';
import { samplesOf, type Articulation, type Instrument, type SampleInfo } from '#core/catalogue/index.ts';
import type { SampleAudio } from '#core/engine/index.ts';
import { request } from '../state/api-client.ts';
import { soundHost } from './host.ts';
import { pageMemory } from './page-memory.ts';
import { SampleBank } from './sample-bank.ts';

/** How far an instrument's audio has come. */
export interface LoadState {
  instrument: Instrument;
  /** What of it can be heard, by sample id; a new map whenever more has come or some has gone. */
  audio: ReadonlyMap<string, SampleAudio>;
  /** Articulations that are here or on their way. */
  wanted: ReadonlySet<string>;
  /** Bytes of what is wanted, shared recordings once, and how many of them have arrived. */
  totalBytes: number;
  loadedBytes: number;
  /** True when every wanted recording is here whole. */
  complete: boolean;
}

interface InstrumentsState {
  /** What is loaded or on its way, by instrument id. */
  loads: Readonly<Record<string, LoadState>>;
  errors: Readonly<Record<string, string>>;
  /** Bytes really held by all of them together. */
  heldBytes: number;
}

/** Instruments in memory; each recording is held once whatever the number of tracks and instruments that play it. */
export const useInstruments = create<InstrumentsState>(() => ({ loads: {}, errors: {}, heldBytes: 0 }));

/** How often page and engine are told while recordings arrive: what somebody waits for, and the rest. */
const URGENT_MS = 25;
const TELL_MS = 300;

const bank = new SampleBank(
  pageMemory,
  (ids) => soundHost.forget(ids),
  () => useInstruments.setState({ heldBytes: bank.bytes }),
);

/** Keeps recordings where they are until the answer is called: a worker reads them. */
export const holdRecordings = () => bank.hold();

const opening = new Map<string, Promise<Instrument>>();
/** Articulations that were wanted once, by instrument. */
const wantedOnce = new Map<string, Set<string>>();
/** Bytes still to come, by what was claimed together. */
const arrived = new Map<string, { id: string; missing: number }>();
const arriving = new Set<string>();
/** Articulations that are not to be loaded, by instrument; told by the shelf. */
let switchedOff: ReadonlyMap<string, ReadonlySet<string>> = new Map();

/** Positions that tracks hear, by instrument: the others of these instruments are not loaded. */
let heard: ReadonlyMap<string, ReadonlySet<string>> = new Map();
/** Instruments that were asked for whole: all their positions are loaded, whatever the mixes say. */
const whole = new Set<string>();
const isClosed = (id: string, position: string) => !whole.has(id) && heard.get(id)?.has(position) === false;

const claimName = (id: string, articulation: string) => `${id} ${articulation}`;

/** Asks for an instrument's description, once. @throws RequestFailure */
export function openInstrument(id: string): Promise<Instrument> {
  let known = opening.get(id);
  if (!known) {
    known = request<Instrument>('GET', `/instruments/${id}`);
    opening.set(id, known);
    known.catch(() => opening.delete(id));
  }
  return known;
}

/** Asks for an instrument's description; where it does not come, the page knows why. */
export async function knowInstrument(id: string): Promise<Instrument | undefined> {
  try {
    return await openInstrument(id);
  } catch (error) {
    fail(id, (error as Error).message);
    return undefined;
  }
}

/** Loads all of an instrument, also what was let go before; what is switched off aside. */
export async function loadInstrument(id: string): Promise<void> {
  const instrument = await knowInstrument(id);
  if (!instrument) return;
  openWhole(instrument);
  wantedOnce.delete(id);
  await wantOnce(
    instrument,
    instrument.articulations.map((one) => one.id),
  );
}

/** Whether anything of an instrument was ever wanted, and did not fail. */
export const isWanted = (id: string): boolean => wantedOnce.has(id);

/** Whether an articulation is not to be loaded. */
export const isSwitchedOff = (id: string, articulation: string): boolean =>
  switchedOff.get(id)?.has(articulation) ?? false;

/**
 * Sees to it that articulations were loaded once, what is switched off aside; what was let go since stays so. They are on their way
 * when this returns.
 */
export async function wantOnce(instrument: Instrument, articulations: Iterable<string>): Promise<void> {
  const { id } = instrument;
  const once = wantedOnce.get(id) ?? new Set();
  wantedOnce.set(id, once);
  const fresh = new Set<string>();
  for (const one of articulations) if (!once.has(one) && !isSwitchedOff(id, one)) fresh.add(one);
  if (fresh.size === 0) return;
  for (const one of fresh) once.add(one);
  await loadArticulations(instrument, fresh).catch(() => wantedOnce.delete(id));
}

/** Loads articulations, also what was let go before. @throws Error with a sentence when they cannot be loaded */
export async function loadArticulations(instrument: Instrument, ids: ReadonlySet<string>): Promise<void> {
  await load(
    instrument,
    instrument.articulations.filter((one) => ids.has(one.id)),
  );
}

/** Lets go of all of an instrument. What is played of it later is loaded by need. */
export function unloadInstrument(id: string): void {
  const load = useInstruments.getState().loads[id];
  if (!load) return;
  for (const articulation of load.wanted) bank.release(claimName(id, articulation));
  tell(load.instrument, 0);
}

/**
 * Loads one articulation from all positions, whatever tracks hear of them. @param near key whose recordings are to come first: somebody waits to hear it
 * @throws Error with a sentence when it cannot be loaded
 */
export async function wantArticulation(id: string, articulationId: string, near?: number): Promise<void> {
  const instrument = await openInstrument(id);
  openWhole(instrument);
  const articulation = instrument.articulations.find((one) => one.id === articulationId);
  if (articulation) await load(instrument, [articulation], near);
}

/** Loads articulations together. @throws RequestFailure */
async function load(
  instrument: Instrument,
  articulations: readonly Articulation[],
  near?: number,
): Promise<void> {
  const { id } = instrument;
  const claims = new Map(
    articulations.map((one) => [claimName(id, one.id), samplesNear(instrument, one, near)] as const),
  );
  const key = [...claims.keys()].join();
  for (const name of claims.keys()) arriving.add(name);
  useInstruments.setState(({ errors }) => ({ errors: omit(errors, id) }));
  try {
    const samples = new Map([...claims.values()].flat().map((sample) => [sample.id, sample]));
    const missing = bank.missingBytes([...samples.values()]);
    const work = bank.claim(
      claims,
      (bytes) => {
        arrived.set(key, { id, missing: Math.max(0, missing - bytes) });
        tell(instrument, near === undefined ? TELL_MS : URGENT_MS);
      },
      near !== undefined,
    );
    arrived.set(key, { id, missing });
    tell(instrument, URGENT_MS);
    const began = performance.now();
    await work;
    noteRate(missing, performance.now() - began);
  } catch (error) {
    // What did not fit, or did not come, is wanted no longer; the rest stays.
    for (const name of claims.keys()) if (!bank.isPlaced(name)) bank.release(name);
    fail(id, (error as Error).message);
    throw error;
  } finally {
    for (const name of claims.keys()) arriving.delete(name);
    arrived.delete(key);
    tell(instrument, [...arriving].some((one) => one.startsWith(`${id} `)) ? TELL_MS : 0);
  }
}

/** Less than this says more of the way to the server than of its speed. */
const RATE_BYTES = 1_000_000;
let rate: number | undefined;

function noteRate(bytes: number, milliseconds: number): void {
  if (bytes < RATE_BYTES || milliseconds <= 0) return;
  const now = (bytes / milliseconds) * 1000;
  rate = rate === undefined ? now : 0.7 * rate + 0.3 * now;
}

/** Bytes a second at which recordings have come so far; undefined until some have. */
export function loadRate(): number | undefined {
  return rate;
}

/** Samples of an articulation, those of roots near a key first. */
function samplesNear(
  instrument: Instrument,
  articulation: Articulation,
  near: number | undefined,
): SampleInfo[] {
  const zones =
    near === undefined
      ? articulation.zones
      : [...articulation.zones].sort((a, b) => Math.abs(a.rootKey - near) - Math.abs(b.rootKey - near));
  const ids = new Set(
    zones.flatMap((zone) =>
      Object.entries(zone.samples).flatMap(([position, { sample }]) =>
        isClosed(instrument.id, position) ? [] : sample,
      ),
    ),
  );
  return [...ids].flatMap((id) => instrument.samples[id] ?? []);
}

/** Loads every position of an instrument from now on, those of what is here already too. */
function openWhole(instrument: Instrument): void {
  const { id, positions } = instrument;
  const someClosed = positions.some((position) => isClosed(id, position.id));
  whole.add(id);
  if (someClosed) reload(instrument);
}

/** Brings what is claimed of an instrument to the positions that are heard now. */
function reload(instrument: Instrument): void {
  const wanted = useInstruments.getState().loads[instrument.id]?.wanted;
  if (!wanted) return;
  const articulations = instrument.articulations.filter(({ id }) => wanted.has(id));
  for (const one of articulations)
    bank.narrow(claimName(instrument.id, one.id), samplesNear(instrument, one, undefined));
  void load(instrument, articulations).catch(() => undefined);
}

/** Says which positions are heard of the instruments that tracks play: others are let go of, and those heard again are loaded. */
export function followHeard(next: ReadonlyMap<string, ReadonlySet<string>>): void {
  const before = new Map<string, string>();
  const loads = Object.values(useInstruments.getState().loads);
  for (const { instrument } of loads) before.set(instrument.id, openPositions(instrument).join());
  heard = next;
  for (const { instrument } of loads)
    if (before.get(instrument.id) !== openPositions(instrument).join()) reload(instrument);
}

/** Lets go of one articulation of an instrument. */
export async function unloadArticulation(id: string, articulationId: string): Promise<void> {
  bank.release(claimName(id, articulationId));
  tell(await openInstrument(id), 0);
}

/** Forgets an instrument, for example because it was recorded anew; it loads again when it is next wanted. */
export function forgetInstrument(id: string): void {
  const load = useInstruments.getState().loads[id];
  for (const articulation of load?.wanted ?? []) bank.release(claimName(id, articulation));
  opening.delete(id);
  wantedOnce.delete(id);
  whole.delete(id);
  useInstruments.setState(({ loads, errors }) => ({
    loads: omit(loads, id),
    errors: omit(errors, id),
    heldBytes: bank.bytes,
  }));
}

/** Says which articulations are switched off: loaded ones are let go, and those switched on again are loaded. */
export function followSwitches(off: ReadonlyMap<string, ReadonlySet<string>>): void {
  const before = switchedOff;
  switchedOff = off;
  for (const [id, load] of Object.entries(useInstruments.getState().loads)) {
    for (const articulation of load.wanted)
      if (off.get(id)?.has(articulation)) void unloadArticulation(id, articulation);
    for (const articulation of before.get(id) ?? [])
      if (!off.get(id)?.has(articulation)) void wantArticulation(id, articulation).catch(() => undefined);
  }
}

/** Bytes that letting go of some articulations would free, shared recordings considered. */
export function bytesFreedBy(unused: readonly { id: string; articulation: string }[]): number {
  return bank.freedBy(new Set(unused.map(({ id, articulation }) => claimName(id, articulation))));
}

/** Bytes that loading an articulation would take, what is here already aside. */
export function bytesNeededFor(instrument: Instrument, articulations: readonly Articulation[]): number {
  const positions = openPositions(instrument);
  const ids = new Set(articulations.flatMap((articulation) => [...samplesOf(articulation, positions)]));
  return bank.missingBytes([...ids].flatMap((id) => instrument.samples[id] ?? []));
}

const waiting = new Map<string, ReturnType<typeof setTimeout>>();
const lastTold = new Map<string, number>();

/** Tells page and engine what is here now, unless they were told within the last `everyMs`; then a little later. */
function tell(instrument: Instrument, everyMs: number): void {
  const { id } = instrument;
  const since = performance.now() - (lastTold.get(id) ?? -Infinity);
  clearTimeout(waiting.get(id));
  if (since >= everyMs) {
    lastTold.set(id, performance.now());
    publish(instrument);
  } else
    waiting.set(
      id,
      setTimeout(() => tell(instrument, 0), everyMs - since),
    );
}

function publish(instrument: Instrument): void {
  const { id } = instrument;
  const audio = new Map<string, SampleAudio>();
  for (const sample of Object.keys(instrument.samples)) {
    const own = bank.get(sample);
    if (own) audio.set(sample, own);
  }
  const wanted = new Set(
    instrument.articulations.map((one) => one.id).filter((one) => bank.isClaimed(claimName(id, one))),
  );
  const pending = [...arriving].filter((name) => name.startsWith(`${id} `));
  const totalBytes = bytesOf(instrument, wanted);
  let open = 0;
  for (const one of arrived.values()) if (one.id === id) open += one.missing;
  const state: LoadState = {
    instrument,
    audio,
    wanted,
    totalBytes,
    loadedBytes: Math.max(0, totalBytes - open),
    complete: pending.length === 0,
  };
  useInstruments.setState(({ loads }) => ({
    loads: wanted.size > 0 ? { ...loads, [id]: state } : omit(loads, id),
    heldBytes: bank.bytes,
  }));
  soundHost.setInstrument(state);
}

function bytesOf(instrument: Instrument, articulations: ReadonlySet<string>): number {
  const positions = openPositions(instrument);
  const ids = new Set(
    instrument.articulations.flatMap((one) =>
      articulations.has(one.id) ? [...samplesOf(one, positions)] : [],
    ),
  );
  let sum = 0;
  for (const sample of ids) {
    const info = instrument.samples[sample];
    if (info) sum += info.frames * info.channels * (info.format === 'i16' ? 2 : 4);
  }
  return sum;
}

/** Positions of an instrument that are loaded. */
function openPositions({ id, positions }: Instrument): string[] {
  return positions.flatMap((position) => (isClosed(id, position.id) ? [] : position.id));
}

function fail(id: string, sentence: string): void {
  useInstruments.setState(({ errors }) => ({ errors: { ...errors, [id]: sentence } }));
}

function omit<T>(table: Readonly<Record<string, T>>, id: string): Record<string, T> {
  const { [id]: _gone, ...rest } = table;
  return rest;
}
