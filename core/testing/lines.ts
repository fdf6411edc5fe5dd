import { bounce } from '../deliver/index.ts';
import type { TrackMix } from '../mixing/index.ts';
import { PLAIN_POSITION } from '../mixing/index.ts';
import { TempoMap, type Part } from '../music/index.ts';
import { planPart, toEvents, type Plan } from '../performance/index.ts';
import { midiToHertz } from '../units/index.ts';
import { PowerTape } from './ear/k-level.ts';
import { takeover } from './ear/pitches.ts';
import type { RecordedInstrument } from './recorded.ts';

/** A connected line that goes to and fro over one interval. */
export interface LineOrder {
  low: number;
  interval: number;
  /** Seconds of each note. */
  noteSeconds: number;
  dynamics: number;
  notes: number;
  articulation?: string;
}

/** What the ears say of one landing. */
export interface Landing {
  key: number;
  fromKey: number;
  /** Lowest and highest window around it against the settled tones on either side, dB. */
  low: number;
  high: number;
  /** Milliseconds after the beat at which the new pitch outweighs the old; undefined when it cannot be told. */
  late: number | undefined;
  /** dB that the new pitch is below its settled power 45 ms after the beat. */
  behind: number | undefined;
}

/** The close position alone, without the hall. */
const CLOSE: TrackMix = {
  gainDb: 0,
  pan: 0,
  muted: false,
  hallSendDb: -60,
  positions: { close: PLAIN_POSITION },
};
const FIRST_BEAT = 1;

/** Plays a part on an instrument. @returns left and right, and its plan; frame 0 is the part's beginning */
export function played(
  { instrument, audio }: RecordedInstrument,
  part: Part,
  articulation: string,
  mix: TrackMix = CLOSE,
): { left: Float32Array; right: Float32Array; plan: Plan } {
  // Sixty beats a minute of 960 ticks: a tick is 1/960 s.
  const tempo = new TempoMap([{ tick: 0, bpm: 60 }]);
  const plan = planPart(part, { tempo, instrument, mix, mode: 'planned', articulation, audio });
  const end = Math.max(...part.notes.map((note) => note.endTick)) / 960 + 0.5;
  const chunks: [Float32Array, Float32Array][] = [];
  bounce(
    {
      instruments: [{ instrument, audio }],
      tracks: [{ instrumentId: instrument.id, mix }],
      hall: null,
      hallMix: { earlyDb: -60, tailDb: -60 },
      events: toEvents(plan, 0, 0),
      endFrame: Math.round(end * 48_000),
    },
    (l, r) => chunks.push([l.slice(), r.slice()]),
    () => undefined,
  );
  const join = (side: 0 | 1) => {
    const out = new Float32Array(chunks.reduce((sum, chunk) => sum + chunk[side].length, 0));
    let at = 0;
    for (const chunk of chunks) {
      out.set(chunk[side], at);
      at += chunk[side].length;
    }
    return out;
  };
  return { left: join(0), right: join(1), plan };
}

const ticks = (seconds: number) => Math.round(seconds * 960);

function lineOf(order: LineOrder, noteSeconds: number, keys: readonly number[]): Part {
  return {
    notes: keys.map((key, i) => ({
      id: `${order.low} ${order.interval} ${i}`,
      startTick: ticks(FIRST_BEAT + i * noteSeconds),
      endTick: ticks(FIRST_BEAT + (i + 1) * noteSeconds),
      key,
      velocity: 90,
    })),
    marks: [],
    points: [
      { id: 'd', controller: 1, tick: 0, value: order.dynamics },
      { id: 'v', controller: 77, tick: 0, value: 40 },
    ],
  };
}

/** Plays a line and listens to all its landings but the first note. */
export function landingsOf(sounding: RecordedInstrument, order: LineOrder): Landing[] {
  const keys = Array.from({ length: order.notes }, (_, i) => order.low + (i % 2) * order.interval);
  const { noteSeconds } = order;
  const { left, right } = played(
    sounding,
    lineOf(order, noteSeconds, keys),
    order.articulation ?? 'connected',
  );
  const tape = new PowerTape([left, right]);
  const mono = left.map((value, i) => value + right[i]);
  const settled = settledLevels(sounding, order);
  return keys.slice(1).map((key, i): Landing => {
    const beat = Math.round((FIRST_BEAT + (i + 1) * noteSeconds) * 960) / 960;
    const fromKey = keys[i];
    const { low, high } = tape.extremes(beat - 0.05, beat + Math.min(0.3, noteSeconds));
    const [a, b] = [settled.get(fromKey) ?? 0, settled.get(key) ?? 0];
    const room = { before: Math.min(0.5, noteSeconds * 0.6), after: Math.min(0.6, noteSeconds * 0.9) };
    const heard = takeover(mono, midiToHertz(fromKey), midiToHertz(key), beat, room);
    return {
      key,
      fromKey,
      low: low - Math.min(a, b),
      high: high - Math.max(a, b),
      late: heard.at === undefined ? undefined : (heard.at - beat) * 1000,
      behind: heard.behindDb,
    };
  });
}

const SETTLED_FROM = 0.6;
const SETTLED_SECONDS = 3;

/** K-weighted level of each of the two pitches when it is held, dB. */
function settledLevels(sounding: RecordedInstrument, order: LineOrder): Map<number, number> {
  const { tape, keys } = heldTones(sounding, order);
  return new Map(
    keys.map((key, i) => {
      const start = FIRST_BEAT + i * SETTLED_SECONDS;
      return [key, tape.db(start + SETTLED_FROM, start + SETTLED_SECONDS - 0.3)];
    }),
  );
}

const held = new WeakMap<RecordedInstrument, Map<string, { tape: PowerTape; keys: number[] }>>();

function heldTones(sounding: RecordedInstrument, order: LineOrder): { tape: PowerTape; keys: number[] } {
  const known = held.get(sounding) ?? new Map<string, { tape: PowerTape; keys: number[] }>();
  held.set(sounding, known);
  const name = `${order.low} ${order.interval} ${order.dynamics} ${order.articulation ?? ''}`;
  let tones = known.get(name);
  if (!tones) known.set(name, (tones = playHeld(sounding, order)));
  return tones;
}

function playHeld(sounding: RecordedInstrument, order: LineOrder) {
  const keys = [order.low, order.low + order.interval];
  const { left, right } = played(
    sounding,
    lineOf(order, SETTLED_SECONDS, keys),
    order.articulation ?? 'connected',
  );
  return { tape: new PowerTape([left, right]), keys };
}

/** The same statistic at places inside held tones: how far a tone that nobody touches falls and rises, dB. */
export function restless(
  sounding: RecordedInstrument,
  order: LineOrder,
  places = 12,
): { low: number; high: number }[] {
  const { tape, keys } = heldTones(sounding, order);
  return keys.flatMap((_key, i) => {
    const start = FIRST_BEAT + i * SETTLED_SECONDS + SETTLED_FROM;
    const end = FIRST_BEAT + (i + 1) * SETTLED_SECONDS - 0.3;
    const mean = tape.db(start, end);
    return Array.from({ length: places }, (_, n) => {
      const from = start + ((end - start - 0.35) * n) / places;
      const { low, high } = tape.extremes(from, from + 0.35);
      return { low: low - mean, high: high - mean };
    });
  });
}

/** Value below which a share of the values lies; straight between neighbours. */
export function quantile(values: readonly number[], share: number): number {
  const sorted = [...values].sort((a, b) => a - b);
  const at = (sorted.length - 1) * share;
  const low = Math.floor(at);
  const high = Math.ceil(at);
  return sorted[low] + (sorted[high] - sorted[low]) * (at - low);
}
