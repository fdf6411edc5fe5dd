import { naturalId, type RecordFields } from '#api/index.ts';
import { phraseText, readPhrase } from '#core/listen/index.ts';
import { quantised, writePlayed, type Played, type PlayedMessage } from '#core/music/index.ts';
import { tempoOf } from './cue.ts';
import type { Edit } from './diff.ts';
import { edit, itemOf, listOf, useDocuments, type Item } from './documents.ts';
import { playedEdits, reachEdits, type PlayedInto } from './part-edits.ts';
import type { Recorded } from './take-log.ts';

/** A round with less of its length than this was not begun in earnest. */
const LEAST_ROUND = 0.1;

/** What was played, round by round where it went round a loop; rounds in which nothing was played are left out. */
export function roundsOf(
  { fromTick, toTick, roundSeconds }: Recorded,
  messages: readonly PlayedMessage[],
  endSeconds: number,
): Played[] {
  const tempo = tempoOf(useDocuments.getState().records);
  const past = endSeconds - tempo.toSeconds(fromTick);
  const count = roundSeconds === null ? 1 : Math.max(1, Math.ceil(past / roundSeconds - LEAST_ROUND));
  return Array.from({ length: count }, (_, round) => {
    const earlier = round * (roundSeconds ?? 0);
    return writePlayed(
      messages.map((message) => ({ ...message, seconds: message.seconds - earlier })),
      tempo,
      {
        fromTick,
        toTick: toTick ?? Infinity,
        endSeconds: endSeconds - earlier,
        isRound: roundSeconds !== null,
      },
    );
  }).filter(({ notes, ridden }) => notes.length > 0 || ridden.length > 0);
}

/**
 * Writes what was recorded into the part of its track as one step: the last round, with all rounds kept as takes where there are
 * several. Where notes are to be drawn to a grid, that is a step of its own, which can be taken back alone.
 * @returns how many notes and curves were written; undefined when nothing was played where it counts
 */
export function writeRecorded(
  recorded: Recorded,
  messages: readonly PlayedMessage[],
  endSeconds: number,
): { notes: number; curves: number } | undefined {
  const { records } = useDocuments.getState();
  const track = itemOf(records, 'track', recorded.trackId);
  const rounds = roundsOf(recorded, messages, endSeconds);
  const last = rounds.at(-1);
  if (!track || !last) return undefined;
  const toTick = recorded.toTick ?? Math.round(tempoOf(records).toTicks(endSeconds));
  const { id, fromTick, replaces, gridTicks } = recorded;
  const ids = last.notes.map((_, i) => naturalId('note', id, i));
  edit('Record', [
    ...playedEdits(last, {
      ...intoOf(track, ids),
      ...(replaces ? { replaces: { fromTick, toTick } } : {}),
    }),
    ...longerCue(last),
    ...(rounds.length > 1 ? takeEdits(recorded, toTick, rounds) : []),
  ]);
  if (gridTicks > 0) drawToGrid(ids, gridTicks);
  return { notes: last.notes.length, curves: last.ridden.length };
}

/** True when a recording is in its part already. */
export function isWritten(recorded: Recorded): boolean {
  const { records } = useDocuments.getState();
  return itemOf(records, 'note', naturalId('note', recorded.id, 0)) !== undefined;
}

function intoOf(track: Item<'track'>, ids: readonly string[]): PlayedInto {
  return { trackId: track.id, unmarked: track.articulation, noteIds: ids };
}

/** A cue ends with a bar behind all that was played. */
const longerCue = ({ notes }: Played): Edit[] =>
  reachEdits(notes.reduce((end, note) => Math.max(end, note.endTick), 0));

function drawToGrid(ids: readonly string[], gridTicks: number): void {
  const { records } = useDocuments.getState();
  const notes = ids.flatMap((id) => itemOf(records, 'note', id) ?? []);
  const { update } = quantised(notes, { gridTicks, strength: 1, swing: 0.5, ends: false });
  if (update.length === 0) return;
  edit(
    'Draw what was recorded to the grid',
    update.map(({ id, ...fields }): Edit => ({ kind: 'note', id, op: 'update', fields })),
  );
}

/** Takes of a track, in the order in which they were played. */
export function takesOf(takes: readonly Item<'take'>[], trackId: string): Item<'take'>[] {
  return takes.filter((take) => take.trackId === trackId).sort((a, b) => a.place - b.place);
}

function takeEdits({ trackId, fromTick }: Recorded, toTick: number, rounds: readonly Played[]): Edit[] {
  const { records } = useDocuments.getState();
  const before = takesOf(listOf(records, 'take'), trackId);
  const from = (before.at(-1)?.place ?? 0) + 1;
  return rounds.map((played, i): Edit => {
    const fields: RecordFields<'take'> = {
      trackId,
      name: `Take ${from + i}`,
      place: from + i,
      fromTick,
      toTick,
      written: textOf(played, fromTick, toTick),
    };
    return { kind: 'take', id: crypto.randomUUID(), op: 'add', fields: { ...fields } };
  });
}

function textOf({ notes, stretches, ridden }: Played, fromTick: number, toTick: number): string {
  const moved = <T extends { startTick: number; endTick: number }>(one: T, i: number) => ({
    ...one,
    id: String(i),
    startTick: one.startTick - fromTick,
    endTick: one.endTick - fromTick,
  });
  return phraseText({
    part: {
      notes: notes.map(moved),
      marks: stretches.map(moved),
      points: ridden.flatMap(({ controller, points }) =>
        points.map(({ tick, value }, i) => ({ id: String(i), controller, tick: tick - fromTick, value })),
      ),
    },
    endTick: toTick - fromTick,
  });
}

/** What a take holds, at its place in the cue; undefined when it cannot be read. */
export function playedOf({ fromTick, written }: Item<'take'>): Played | undefined {
  const phrase = readPhrase(written);
  if (!phrase) return undefined;
  const moved = <T extends { startTick: number; endTick: number }>(one: T): T => ({
    ...one,
    startTick: one.startTick + fromTick,
    endTick: one.endTick + fromTick,
  });
  const { notes, marks, points } = phrase.part;
  return {
    notes: notes.map(({ startTick, endTick, key, velocity }) => moved({ startTick, endTick, key, velocity })),
    stretches: marks.map(({ startTick, endTick, articulation }) =>
      moved({ startTick, endTick, articulation }),
    ),
    ridden: [...new Set(points.map(({ controller }) => controller))].map((controller) => ({
      controller,
      points: points
        .filter((point) => point.controller === controller)
        .map(({ tick, value }) => ({ tick: tick + fromTick, value })),
    })),
  };
}

/** Puts a take in the place of what its track has there; of a span, as much of it as lies in that. @returns false where there is nothing */
export function putTake(take: Item<'take'>, span?: { fromTick: number; toTick: number }): boolean {
  const { records } = useDocuments.getState();
  const track = itemOf(records, 'track', take.trackId);
  const played = playedOf(take);
  const fromTick = Math.max(take.fromTick, span?.fromTick ?? 0);
  const toTick = Math.min(take.toTick, span?.toTick ?? Infinity);
  if (!track || !played || fromTick >= toTick) return false;
  const part = withinSpan(played, fromTick, toTick);
  edit(`Use ${take.name}`, [
    ...playedEdits(part, { trackId: track.id, unmarked: track.articulation, replaces: { fromTick, toTick } }),
    ...longerCue(part),
  ]);
  return true;
}

function withinSpan({ notes, stretches, ridden }: Played, fromTick: number, toTick: number): Played {
  return {
    notes: notes
      .filter(({ startTick }) => startTick >= fromTick && startTick < toTick)
      .map((note) => ({ ...note, endTick: Math.min(note.endTick, toTick) })),
    stretches: stretches.flatMap((one) => {
      const startTick = Math.max(one.startTick, fromTick);
      const endTick = Math.min(one.endTick, toTick);
      return startTick < endTick ? [{ ...one, startTick, endTick }] : [];
    }),
    ridden: ridden.flatMap(({ controller, points }) => {
      const inside = points.filter(({ tick }) => tick >= fromTick && tick <= toTick);
      return inside.length > 0 ? [{ controller, points: inside }] : [];
    }),
  };
}

/** Forgets takes. */
export function removeTakes(takes: readonly Item<'take'>[]): void {
  edit(
    takes.length === 1 ? `Remove ${takes[0].name}` : 'Remove takes',
    takes.map(({ id }): Edit => ({ kind: 'take', id, op: 'remove' })),
  );
}

/** Writes a phrase that was played without recording it; it begins at a tick. */
export function writePhraseAt(
  trackId: string,
  messages: readonly PlayedMessage[],
  endSeconds: number,
): number {
  const { records } = useDocuments.getState();
  const track = itemOf(records, 'track', trackId);
  if (!track) return 0;
  const played = writePlayed(messages, tempoOf(records), { fromTick: 0, toTick: Infinity, endSeconds });
  if (played.notes.length === 0) return 0;
  edit('Keep what was played', [
    ...playedEdits(played, { trackId, unmarked: track.articulation }),
    ...longerCue(played),
  ]);
  return played.notes.length;
}
