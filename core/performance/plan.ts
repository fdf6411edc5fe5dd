import { samePositions } from '../mixing/index.ts';
import type { Note, Part } from '../music/index.ts';
import { Leads } from './leads.ts';
import type { Finding, PlanContext, PlannedSound, Segment } from './planned.ts';
import { SegmentWriter } from './segment.ts';
import { nextTake } from './takes.ts';

/** A planned part. Keep it and hand it to the next `planPart`: only what changed is planned anew. */
export interface Plan {
  context: PlanContext;
  part: Part;
  notes: readonly Note[];
  segments: readonly Segment[];
  leads: Leads;
}

const byTime = (a: Note, b: Note) =>
  a.startTick - b.startTick || a.key - b.key || (a.id < b.id ? -1 : a.id > b.id ? 1 : 0);

/**
 * Plans a part: for every note which recordings sound, when they start, and how they hand over to each other.
 * Pure: equal input gives equal output; an edit of one note does not reshuffle the takes of others beyond what
 * keeps neighbours unlike.
 * @param previous the plan before the edit; reused where notes, marks, curves and context are the same objects
 */
export function planPart(part: Part, context: PlanContext, previous?: Plan): Plan {
  const sameSound =
    previous?.context.instrument === context.instrument &&
    samePositions(previous.context.mix, context.mix) &&
    previous.context.audio === context.audio;
  const sameContext =
    sameSound &&
    previous.context.tempo === context.tempo &&
    previous.context.mode === context.mode &&
    previous.context.articulation === context.articulation &&
    previous.context.voicing === context.voicing &&
    previous.context.responses === context.responses;
  // What was measured of the recordings holds whatever is asked of them.
  const leads = sameSound ? previous.leads : new Leads(context.instrument, context.mix, context.audio);
  const writer = new SegmentWriter(part, context, leads);
  const reusable = sameContext && previous.part.marks === part.marks && previous.part.points === part.points;
  const change = reusable ? changeBetween(previous.notes, part.notes) : undefined;
  // Outside of what changed the notes are the sorted ones of before.
  const sorted = isSorted(part.notes, change?.front ?? 0, part.notes.length - (change?.back ?? 0));
  const notes = sorted ? part.notes : [...part.notes].sort(byTime);
  const segments =
    reusable && change
      ? spliceSegments(previous, notes, sorted ? change : changeBetween(previous.notes, notes), writer)
      : writer.write(notes, 0, notes.length);
  chooseTakes(segments);
  return { context, part, notes, segments, leads };
}

/** All sounds of a plan in order of their notes. Allocates. */
export function soundsOf(plan: Plan): PlannedSound[] {
  return plan.segments.flatMap((segment) => segment.sounds);
}

/** A sound may start this long before that of the note before it: leads differ. */
const MOST_LEAD_SECONDS = 5;

/**
 * Calls back for the planned sounds that may be heard between two moments, in order, without looking at those before
 * and after them. Allocates nothing.
 */
export function eachSoundBetween(
  plan: Plan,
  fromSeconds: number,
  toSeconds: number,
  visit: (sound: PlannedSound) => void,
): void {
  for (const { sounds, untilSeconds } of plan.segments) {
    if (untilSeconds < fromSeconds) continue;
    if (sounds.length > 0 && sounds[0].startSeconds > toSeconds + MOST_LEAD_SECONDS) return;
    for (const sound of sounds)
      if (
        sound.startSeconds <= toSeconds &&
        (sound.endSeconds >= fromSeconds || sound.beatSeconds >= fromSeconds)
      )
        visit(sound);
  }
}

/** All findings of a plan. Allocates. */
export function findingsOf(plan: Plan): Finding[] {
  return plan.segments.flatMap((segment) => segment.findings);
}

/** True when notes [from, to) and their neighbours are in order. */
function isSorted(notes: readonly Note[], from: number, to: number): boolean {
  for (let i = Math.max(1, from); i < Math.min(notes.length, to + 1); i++)
    if (byTime(notes[i - 1], notes[i]) > 0) return false;
  return true;
}

/** How many notes at the front and at the back are the same objects. */
interface Change {
  front: number;
  back: number;
}

function changeBetween(old: readonly Note[], notes: readonly Note[]): Change {
  const shorter = Math.min(old.length, notes.length);
  let front = 0;
  while (front < shorter && old[front] === notes[front]) front++;
  let back = 0;
  while (back < shorter - front && old[old.length - 1 - back] === notes[notes.length - 1 - back]) back++;
  return { front, back };
}

/** Keeps the segments before and after the changed notes, and writes those between. */
function spliceSegments(
  previous: Plan,
  notes: readonly Note[],
  { front, back }: Change,
  writer: SegmentWriter,
): Segment[] {
  const { segments } = previous;
  // A note's end depends on the next one and its beginning on the one before: leave a margin of one note.
  let head = 0;
  let from = 0;
  while (head < segments.length && from + segments[head].count <= front - 1) from += segments[head++].count;
  let tail = segments.length;
  let fromEnd = 0;
  while (tail > head && fromEnd + segments[tail - 1].count <= back - 1) fromEnd += segments[--tail].count;
  return segments
    .slice(0, head)
    .concat(writer.write(notes, from, notes.length - fromEnd), segments.slice(tail));
}

/** Gives every sound with takes one unlike its predecessor's on the same key, and with it its start. */
function chooseTakes(segments: readonly Segment[]): void {
  const last = new Int16Array(128 * 64).fill(-1);
  for (const { sounds, takes } of segments) {
    if (!takes) continue;
    for (const sound of sounds) {
      const count = sound.leads.length;
      if (count <= 1) continue;
      const slot = (sound.articulation % 64) * 128 + sound.key;
      sound.take = nextTake(sound.seed, last[slot], count);
      last[slot] = sound.take;
      sound.startSeconds = sound.beatSeconds - sound.leads[sound.take];
    }
  }
}
