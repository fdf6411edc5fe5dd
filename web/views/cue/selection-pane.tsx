import { beginGesture, endGesture, useDocuments, type Item } from '../../state/documents.ts';
import { Button } from '../../ui/button.tsx';
import { GroupTitle } from '../../ui/heading.tsx';
import { Ruler } from '../../ui/ruler.tsx';
import { useEditor } from './editor/editor-state.ts';
import { CurvePane } from './curve-pane.tsx';
import { NoteValues } from './note-values.tsx';
import { ShapePane } from './shape-pane.tsx';
import { removeSelected, selectedNotes, setVelocity } from './editor/part-edits.ts';

/** What is selected in the editor, and what can be done with it. */
export function SelectionPane({ track, mayEdit }: { track: Item<'track'>; mayEdit: boolean }) {
  const selection = useEditor((state) => state.selection);
  const markId = useEditor((state) => state.markId);
  useDocuments((state) => state.records.note);
  const notes = selectedNotes();
  if (selection.size === 0 && !markId) return null;
  return (
    <>
      <GroupTitle>
        {notes.length > 0
          ? `${notes.length} ${notes.length === 1 ? 'note' : 'notes'} selected`
          : 'Mark selected'}
      </GroupTitle>
      {notes.length > 0 && (
        <Ruler
          label="Velocity"
          value={notes.reduce((sum, note) => sum + note.velocity, 0) / notes.length}
          low={1}
          high={127}
          rest={84}
          step={4}
          format={(v) => String(Math.round(v))}
          disabled={!mayEdit}
          help="How hard the notes are struck: chooses the layer and level of short notes. Costs nothing."
          onChange={(value) => setVelocity(notes, value)}
          onGesture={(phase) => (phase === 'begin' ? beginGesture('Velocity') : endGesture())}
        />
      )}
      {notes.length > 0 && (
        <>
          <NoteValues notes={notes} mayEdit={mayEdit} />
          <ShapePane mayEdit={mayEdit} />
          <CurvePane track={track} mayEdit={mayEdit} />
        </>
      )}
      <Button look="loss" className="mt-1" disabled={!mayEdit} onClick={removeSelected}>
        Delete
      </Button>
    </>
  );
}
