import { parsePitch, pitchName, readPlace, writePlace, type Note } from '#core/music/index.ts';
import { TICKS_PER_QUARTER } from '#core/units/index.ts';
import { metreOf } from '../../state/cue.ts';
import { useDocuments, useList, type Item } from '../../state/documents.ts';
import { numberWithin } from '../../ui/numbers.ts';
import { Typed } from '../../ui/typed.tsx';
import { moveNotes, setLength, setSyllables } from './editor/part-edits.ts';

/** Shown where the notes differ. */
const MIXED = 'mixed';
/** Longer notes nobody holds. */
const MOST_QUARTERS = 4000;
const LONGEST_SYLLABLE = 60;

/** Where the selected notes begin, how long they last and what they sound, to be typed. */
export function NoteValues({ notes, mayEdit }: { notes: readonly Item<'note'>[]; mayEdit: boolean }) {
  const metre = useDocuments((state) => metreOf(state.records));
  const middleC = useList('template')[0]?.middleC ?? 4;
  const [first] = notes;
  const length = common(notes, ({ startTick, endTick }) => endTick - startTick);
  const key = common(notes, (note) => note.key);
  return (
    <div className="mt-1 grid grid-cols-3 gap-x-2 text-xs">
      <label>
        begins at
        <Typed
          label="Beginning, bar and beat"
          value={writePlace(metre, first.startTick)}
          disabled={!mayEdit}
          width="w-full"
          parse={(text) =>
            readPlace(metre, text) ?? 'A bar and a beat, such as 12.3, and ticks if you like: 12.3.240.'
          }
          onCommit={(tick) => moveNotes(notes, tick - first.startTick, 0)}
        />
      </label>
      <label>
        quarters long
        <Typed
          label="Length in quarters"
          value={
            length === undefined ? MIXED : String(Math.round((length / TICKS_PER_QUARTER) * 1000) / 1000)
          }
          disabled={!mayEdit}
          width="w-full"
          parse={numberWithin(0.01, MOST_QUARTERS)}
          onCommit={(quarters) => setLength(notes, Math.round(quarters * TICKS_PER_QUARTER))}
        />
      </label>
      <label>
        key
        <Typed
          label="Key"
          value={key === undefined ? MIXED : pitchName(key, middleC)}
          disabled={!mayEdit}
          width="w-full"
          parse={(text) => parsePitch(text, middleC) ?? 'A note, such as F#4 or Bb2.'}
          onCommit={(wanted) => moveNotes(notes, 0, wanted - first.key)}
        />
      </label>
      <label className="col-span-3 mt-1 flex flex-col">
        sung on {notes.length === 1 ? 'it' : 'them, one syllable each'}
        <Typed
          label="Syllables"
          value={notes
            .map(({ syllable }) => syllable || '_')
            .join(' ')
            .replace(/( ?_)+$/, '')}
          disabled={!mayEdit}
          width="w-full"
          title="One for each note in turn: a hyphen where a word goes on (lan- -tern), _ for a note without one"
          parse={(text) => readSyllables(text, notes.length)}
          onCommit={(syllables) => setSyllables(notes, syllables)}
        />
      </label>
    </div>
  );
}

/** Words as they lie on notes, or why not. */
function readSyllables(text: string, count: number): string[] | string {
  const list = text.trim() === '' ? [] : text.trim().split(/\s+/);
  if (list.length > count)
    return `There are ${list.length} syllables for ${count} ${count === 1 ? 'note' : 'notes'}.`;
  if (list.some((one) => one.length > LONGEST_SYLLABLE)) return 'A syllable is too long.';
  return list.map((one) => (one === '_' ? '' : one));
}

/** What all notes have alike; undefined where they differ. */
function common(notes: readonly Note[], of: (note: Note) => number): number | undefined {
  const value = of(notes[0]);
  return notes.every((note) => of(note) === value) ? value : undefined;
}
