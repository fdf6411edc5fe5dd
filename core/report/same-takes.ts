import type { Zone } from '../catalogue/index.ts';
import { likeness } from '../measure/index.ts';
import type { SameTake } from './figures.ts';
import { lookedSpan, monoOf, type Measuring } from './measuring.ts';
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
          // A recording that two notes name belongs to the one whose root it was recorded at.
          const lender = [notes[n - 1], notes[n + 1]]
            .flatMap((note) => (note as Note | undefined)?.takes.map((other) => ({ note, other })) ?? [])
            .find(
              ({ note, other }) =>
                (zone.rootKey !== root || note.root < root) && isSame(context, other, zone),
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
