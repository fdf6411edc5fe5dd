import type { Zone } from '../catalogue/index.ts';
import { likeness, powerEvery5ms } from '../measure/index.ts';
import type { SameTake } from './figures.ts';
import { lookedSpan, monoOf, type Measuring } from './measuring.ts';
import { medianOf } from './readings.ts';
import { isRidden } from './zones.ts';

/** As alike as this only the same recording is: two takes of one soloist come up to 0.999. Moved in pitch some of it is lost. */
const SAME = 0.9995;
const SAME_MOVED = 0.998;
/** Farther apart recordings are not moved. */
const FARTHEST_SEMITONES = 5;

/** Takes of one note: zones that serve the same keys in the same layer. */
interface Note {
  root: number;
  takes: Zone[];
}

/**
 * Takes that are none of their own: the recording of another take of the note, or of a neighbour. Told by the recording
 * itself where both name the same one, otherwise by their waves.
 */
export function sameTakes(context: Measuring): SameTake[] {
  const found: SameTake[] = [];
  context.layers.forEach(({ zones }, layer) => {
    const notes = notesOf(zones.filter((zone) => zone.takes > 1 && !isRidden(zone)));
    notes.forEach(({ root, takes }, n) => {
      takes.forEach((zone, t) => {
        const entry = { key: root, layer, take: zone.take };
        const earlier = takes.slice(0, t).find((other) => isSame(context, other, zone));
        if (earlier) found.push({ ...entry, kind: 'repeated', otherKey: root, otherTake: earlier.take });
        else {
          const lender = [notes[n - 1], notes[n + 1]]
            .flatMap((note) => (note as Note | undefined)?.takes.map((other) => ({ note, other })) ?? [])
            .find(
              ({ note, other }) =>
                isSame(context, other, zone) && isLent(context, { root, takes }, zone, note, other),
            );
          if (lender)
            found.push({
              ...entry,
              kind: 'borrowed',
              otherKey: lender.note.root,
              otherTake: lender.other.take,
            });
        }
      });
    });
  });
  return found;
}

function notesOf(zones: readonly Zone[]): Note[] {
  const byKeys = new Map<string, Zone[]>();
  for (const zone of zones) {
    const name = `${zone.keyLow} ${zone.keyHigh}`;
    const list = byKeys.get(name);
    if (list) list.push(zone);
    else byKeys.set(name, [zone]);
  }
  return [...byKeys.values()]
    .sort((a, b) => a[0].keyLow - b[0].keyLow)
    .map((takes) => ({ root: mainRoot(takes), takes: takes.sort((a, b) => a.take - b.take) }));
}

/** The root most of the takes were recorded at. */
function mainRoot(takes: readonly Zone[]): number {
  const counts = new Map<number, number>();
  for (const { rootKey } of takes) counts.set(rootKey, (counts.get(rootKey) ?? 0) + 1);
  return [...counts].reduce((best, one) => (one[1] > best[1] ? one : best))[0];
}

/**
 * Of two notes that have one recording, whether the first has it from the second. A zone that says it was recorded elsewhere was;
 * otherwise the one whose sound and course are less like those of its own takes, for what is moved in pitch is also shortened or
 * stretched, room and all. Where there are no other takes the lower note lends.
 */
function isLent(context: Measuring, own: Note, zone: Zone, other: Note, its: Zone): boolean {
  if (zone.rootKey !== own.root || its.rootKey !== other.root) return zone.rootKey !== own.root;
  const [here, there] = [strangeness(context, own, zone), strangeness(context, other, its)];
  return here === undefined || there === undefined ? other.root < own.root : here > there;
}

const COURSE_SECONDS = 1;
/** Steps of 5 ms that are averaged of a course. */
const COURSE_STEPS = 6;
/** Of a course only what lies within so many dB of its height is compared. */
const COURSE_DB = 45;

/** Mean difference of the course of a recording in dB from those of the other takes of its note; undefined without any. */
function strangeness(context: Measuring, note: Note, zone: Zone): number | undefined {
  const course = courseOf(context, zone);
  const others = note.takes.flatMap((one) => {
    const audio = one === zone || isSame(context, one, zone) ? undefined : courseOf(context, one);
    return audio ? [audio] : [];
  });
  if (!course || others.length === 0) return undefined;
  let [sum, count] = [0, 0];
  course.forEach((value, i) => {
    const usual = medianOf(others.map((one) => one[i] ?? -COURSE_DB));
    if (Math.max(value, usual) <= -COURSE_DB) return;
    sum += Math.abs(Math.max(-COURSE_DB, value) - Math.max(-COURSE_DB, usual));
    count++;
  });
  return count === 0 ? undefined : sum / count;
}

/** Level of a recording from where it speaks, dB against its height, every 30 ms over a second. */
function courseOf(context: Measuring, zone: Zone): number[] | undefined {
  const audio = context.sound(zone);
  if (!audio) return undefined;
  const { onset } = lookedSpan(zone, audio, context);
  const power = powerEvery5ms(
    audio.channels,
    audio.rate,
    onset,
    onset + Math.round(COURSE_SECONDS * audio.rate),
  );
  const steps = Array.from({ length: Math.floor(power.length / COURSE_STEPS) }, (_, i) => {
    let sum = 0;
    for (let k = 0; k < COURSE_STEPS; k++) sum += power[i * COURSE_STEPS + k] / COURSE_STEPS;
    return sum;
  });
  const height = Math.max(1e-12, ...steps);
  return steps.map((value) => 10 * Math.log10(Math.max(1e-12, value) / height));
}

function isSame(context: Measuring, a: Zone, b: Zone): boolean {
  const [x, y] = [a, b].map((zone) => zone.samples[context.near]?.sample);
  if (x === undefined || y === undefined) return false;
  if (x === y) return a.startFrame === b.startFrame;
  const apart = Math.abs(a.rootKey - b.rootKey);
  const [first, second] = [context.sound(a), context.sound(b)];
  if (!first || !second || first.rate !== second.rate || apart > FARTHEST_SEMITONES) return false;
  const alike = likeness(
    monoOf(first),
    lookedSpan(a, first, context).onset,
    monoOf(second),
    lookedSpan(b, second, context).onset,
    first.rate,
    // Where they were moved in pitch, the second is read at the pitch of the first.
    2 ** ((a.rootKey - b.rootKey) / 12),
  );
  return alike > (apart === 0 ? SAME : SAME_MOVED);
}
