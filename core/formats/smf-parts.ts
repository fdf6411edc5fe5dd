import type { Trigger } from '../keymap/index.ts';
import type { CurvePoint, Mark, Note } from '../music/index.ts';
import type { SmfTrack } from './smf.ts';

/** What a MIDI track becomes; ids are the caller's to give. */
export interface ReadPart {
  notes: Omit<Note, 'id'>[];
  marks: Omit<Mark, 'id'>[];
  points: Omit<CurvePoint, 'id'>[];
  /** Keyswitch notes that became marks. */
  switches: number;
}

/**
 * Turns a MIDI track into a part: controllers become curves with steps kept as steps, and notes on known
 * keyswitches become marks that hold until the next one.
 * @param triggers the keymap of the track it goes to; empty keeps every note
 * @param endTick where the last mark ends at the latest
 */
export function partFromSmf(
  track: SmfTrack,
  triggers: readonly Pick<Trigger, 'key' | 'articulation'>[],
  endTick: number,
): ReadPart {
  const byKey = new Map(triggers.map((trigger) => [trigger.key, trigger.articulation]));
  const switches = track.notes.filter((note) => byKey.has(note.key));
  const notes = track.notes
    .filter((note) => !byKey.has(note.key))
    .map(({ startTick, endTick: end, key, velocity }) => ({ startTick, endTick: end, key, velocity }));
  const last = Math.max(endTick, ...notes.map((note) => note.endTick));
  const marks: Omit<Mark, 'id'>[] = [];
  switches.forEach((note, i) => {
    const articulation = byKey.get(note.key) ?? '';
    const before = marks.at(-1);
    if (before && before.articulation === articulation) return;
    if (before) before.endTick = note.startTick;
    if (before && before.endTick <= before.startTick) marks.pop();
    // A switch pressed a little ahead of its note is meant for that note.
    const first = notes.find((candidate) => candidate.startTick >= note.startTick);
    const next = switches[i + 1]?.startTick ?? last;
    const startTick = first && first.startTick < next ? first.startTick : note.startTick;
    if (before) before.endTick = Math.max(before.startTick + 1, startTick);
    marks.push({ startTick, endTick: Math.max(last, startTick + 1), articulation });
  });
  return { notes, marks, points: pointsOf(track), switches: switches.length };
}

/** MIDI controllers hold their value until the next message: where that is a jump, the curve jumps too. */
function pointsOf(track: SmfTrack): Omit<CurvePoint, 'id'>[] {
  const points: Omit<CurvePoint, 'id'>[] = [];
  const byController = new Map<number, { tick: number; value: number }[]>();
  for (const { controller, tick, value } of track.controls)
    byController.set(controller, [...(byController.get(controller) ?? []), { tick, value }]);
  for (const [controller, list] of byController) {
    list.sort((a, b) => a.tick - b.tick);
    list.forEach((point, i) => {
      const before = list[i - 1];
      // Dense messages are a drawn line; distant ones are steps.
      if (before && point.tick - before.tick > STEP_TICKS && point.value !== before.value)
        points.push({ controller, tick: point.tick - 1, value: before.value });
      points.push({ controller, tick: point.tick, value: point.value });
    });
  }
  return points;
}

const STEP_TICKS = 120;
