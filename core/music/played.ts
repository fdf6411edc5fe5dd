import type { ArticulationId } from './articulation-id.ts';
import { thinCurve } from './curve.ts';
import { BEND, CONTROLLER, type CurvePoint, type Mark, type Note } from './part.ts';
import type { TempoMap } from './tempo-map.ts';

/** A message of a keyboard as it was played. */
export interface PlayedMessage {
  /** Time of the cue. */
  seconds: number;
  status: number;
  data1: number;
  data2: number;
  /** What a key sounded with. */
  articulation?: ArticulationId;
  /** The keymap took it to select something: it is no note and no curve. */
  selects?: boolean;
  /** Controllers by which a part knows the one that was moved; itself unless given. */
  controllers?: readonly number[];
}

/** True for a key that is struck and sounds. */
export function isStruck({ status, data2, selects }: PlayedMessage): boolean {
  return (status & 0xf0) === 0x90 && data2 > 0 && !selects;
}

/** Over which ticks something was played. */
export interface PlayedSpan {
  /** What begins earlier is left out, but for what was meant for this very tick and came a little early. */
  fromTick: number;
  /** What begins here or later is left out. */
  toTick: number;
  /** Keys still held are let go here. */
  endSeconds: number;
  /** It is a round of a loop: what comes just before its end was meant for the next round. */
  isRound?: boolean;
}

/** Ticks of a curve that a hand has moved, from the first of its moves to the last. */
export interface Ridden {
  controller: number;
  points: Pick<CurvePoint, 'tick' | 'value'>[];
}

/** What was played, as it is written. */
export interface Played {
  notes: Omit<Note, 'id'>[];
  /** Stretches of notes that sounded with one articulation, one after the other. */
  stretches: Omit<Mark, 'id'>[];
  ridden: Ridden[];
}

/** So many ticks early a note may come that was meant for the first: a thirty-second. */
export const EARLY_TICKS = 120;
/** In a loop the end before it is as near: half of that. */
const EARLY_IN_ROUND_TICKS = 60;
/** What a hand has held for longer than this is held, not on its way to the next value. */
const HELD_SECONDS = 0.12;
/** Steps of a controller by which a curve may leave what was ridden. */
const TOLERANCE = 0.45;
/** Controllers that are sent for something else: banks, data entry, numbers of parameters; those from 120 on are commands. */
const NO_CURVES = new Set([0, 6, 32, 38, 96, 97, 98, 99, 100, 101]);
const COMMANDS_FROM = 120;

/** What hands have played, as notes, articulations and curves of a part. */
export function writePlayed(messages: readonly PlayedMessage[], tempo: TempoMap, span: PlayedSpan): Played {
  const notes = notesOf(messages, tempo, span);
  return {
    notes: notes.map(({ startTick, endTick, key, velocity }) => ({ startTick, endTick, key, velocity })),
    stretches: stretchesOf(notes),
    ridden: riddenOf(messages, tempo, span),
  };
}

interface Struck extends Omit<Note, 'id'> {
  articulation: ArticulationId | undefined;
}

function notesOf(
  messages: readonly PlayedMessage[],
  tempo: TempoMap,
  { fromTick, toTick, endSeconds, isRound = false }: PlayedSpan,
): Struck[] {
  const first = fromTick - (isRound ? EARLY_IN_ROUND_TICKS : EARLY_TICKS);
  const last = toTick - (isRound ? EARLY_IN_ROUND_TICKS : 0);
  const notes: Struck[] = [];
  const held = new Map<number, Struck>();
  const tickAt = (seconds: number) => Math.round(tempo.toTicks(seconds));
  const letGo = (key: number, seconds: number) => {
    const note = held.get(key);
    if (note) note.endTick = Math.max(note.startTick + 1, Math.min(tickAt(seconds), toTick));
    held.delete(key);
  };
  for (const { seconds, status, data1: key, data2: velocity, articulation, selects } of messages) {
    const kind = status & 0xf0;
    if (kind !== 0x90 && kind !== 0x80) continue;
    letGo(key, seconds);
    if (kind === 0x80 || velocity === 0 || selects) continue;
    const tick = tickAt(seconds);
    if (tick < first || tick >= last) continue;
    const startTick = Math.max(fromTick, tick);
    const note: Struck = { startTick, endTick: startTick + 1, key, velocity, articulation };
    notes.push(note);
    held.set(key, note);
  }
  for (const key of held.keys()) letGo(key, endSeconds);
  return notes.sort((a, b) => a.startTick - b.startTick || a.key - b.key);
}

/** Notes that follow one another with one articulation, from the first to where another begins or the last ends. */
function stretchesOf(notes: readonly Struck[]): Omit<Mark, 'id'>[] {
  const stretches: Omit<Mark, 'id'>[] = [];
  for (const { startTick, endTick, articulation } of notes) {
    if (articulation === undefined) continue;
    const last = stretches.at(-1);
    // Of two that begin together with different ones, the first says it for both.
    if (last && (last.articulation === articulation || last.startTick === startTick)) {
      last.endTick = Math.max(last.endTick, endTick);
      continue;
    }
    if (last) last.endTick = startTick;
    stretches.push({ startTick, endTick, articulation });
  }
  return stretches;
}

function riddenOf(
  messages: readonly PlayedMessage[],
  tempo: TempoMap,
  { fromTick, toTick }: PlayedSpan,
): Ridden[] {
  const lines = new Map<number, { seconds: number; tick: number; value: number }[]>();
  for (const message of messages) {
    const moved = valueOf(message);
    const tick = Math.round(tempo.toTicks(message.seconds));
    if (!moved || tick < fromTick || tick > toTick) continue;
    for (const controller of moved.controllers) {
      const line = lines.get(controller) ?? [];
      lines.set(controller, line);
      const before = line.at(-1);
      const held = controller === CONTROLLER.pedal ? 0 : HELD_SECONDS;
      if (before && tick > before.tick + 1 && message.seconds - before.seconds > held)
        line.push({ seconds: message.seconds, tick: tick - 1, value: before.value });
      // Of several at one tick the last counts.
      if (line.at(-1)?.tick === tick) line.pop();
      line.push({ seconds: message.seconds, tick, value: moved.value });
    }
  }
  return [...lines].map(([controller, line]) => ({
    controller,
    points: thinCurve(line, TOLERANCE).map(({ tick, value }) => ({ tick, value })),
  }));
}

/** The curves that a message moves, and where to. */
function valueOf({
  status,
  data1,
  data2,
  controllers = [data1],
}: PlayedMessage): { controllers: readonly number[]; value: number } | undefined {
  const kind = status & 0xf0;
  // 64 is the middle of the wheel, one step is 128 of its 16,384.
  if (kind === 0xe0) return { controllers: [BEND], value: data2 + data1 / 128 };
  if (kind !== 0xb0 || data1 >= COMMANDS_FROM || NO_CURVES.has(data1)) return undefined;
  return { controllers, value: data2 };
}
