import { useState } from 'react';
import { FileUp, Plus } from 'lucide-react';
import { articulationTerm } from '#core/catalogue/index.ts';
import { useDocuments, useItem, type Item } from '../../state/documents.ts';
import { useMayEdit } from '../../state/session.ts';
import { selectArticulation, usePerformance } from '../../sound/performance.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { MidiImportDialog } from './midi-import-dialog.tsx';
import { NewCueDialog } from './new-cue-dialog.tsx';
import { PartEditor } from './part-editor.tsx';
import { TrackList } from './track-list.tsx';
import { TrackPane } from './track-pane.tsx';
import { useEditor } from './editor/editor-state.ts';
import { markSpan, selectedNotes } from './editor/part-edits.ts';

const GRIDS = [
  { value: '960', text: '1/4' },
  { value: '480', text: '1/8' },
  { value: '320', text: '1/8 triplet' },
  { value: '240', text: '1/16' },
  { value: '120', text: '1/32' },
];

const MODES: Record<string, string> = { immediate: 'immediate', natural: 'natural', planned: 'planned' };

/** The mock-up: tracks above, the part of the chosen track below, its mix and keymap at the side. */
export function CueView() {
  const cue = useItem(
    'cue',
    useDocuments((state) => state.cueId),
  );
  const track = useItem(
    'track',
    usePerformance((state) => state.trackId),
  );
  const mayEdit = useMayEdit();
  const [importing, setImporting] = useState<File>();
  const [naming, setNaming] = useState(false);
  if (!cue) return <p className="p-8 text-ink-2">Opening the cue …</p>;
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_272px]">
      <div className="grid min-h-0 min-w-0 grid-rows-[auto_auto_auto_minmax(0,1fr)]">
        <div className="flex items-center gap-2 border-b border-rule px-3 py-1.5">
          <h1 className="mr-2 font-serif text-lg font-semibold">{cue.name}</h1>
          <div className="flex-1" />
          <Button disabled={!mayEdit} onClick={() => setNaming(true)}>
            <Plus size={14} aria-hidden /> New cue …
          </Button>
          <label
            className={`inline-flex min-h-6 items-center gap-1.5 rounded-md border border-rule bg-raised px-2.5 py-1 focus-within:outline-2 focus-within:outline-cool ${mayEdit ? 'cursor-pointer hover:border-ink-3' : 'opacity-50'}`}
          >
            <FileUp size={14} aria-hidden /> Bring in MIDI …
            <input
              type="file"
              accept=".mid,.midi,.smf"
              disabled={!mayEdit}
              className="sr-only"
              onChange={(event) => {
                setImporting(event.target.files?.[0]);
                event.target.value = '';
              }}
            />
          </label>
        </div>
        <TrackList />
        {track ? <EditorHead track={track} /> : <div />}
        {track ? (
          <PartEditor track={track} />
        ) : (
          <p className="p-6 text-ink-2">Choose a track to write its part.</p>
        )}
      </div>
      <aside aria-label="Track" className="relative min-h-0 overflow-auto border-l border-rule p-3.5">
        {track ? <TrackPane track={track} /> : <p className="text-ink-2">Choose a track.</p>}
      </aside>
      {importing && <MidiImportDialog file={importing} onClose={() => setImporting(undefined)} />}
      {naming && <NewCueDialog onClose={() => setNaming(false)} />}
    </div>
  );
}

function EditorHead({ track }: { track: Item<'track'> }) {
  const tool = useEditor((state) => state.tool);
  const grid = useEditor((state) => state.gridTicks);
  const selection = useEditor((state) => state.selection);
  const mayEdit = useMayEdit();
  const articulation = usePerformance((state) => state.articulation);
  const plan = usePerformance((state) => state.plans[track.id]);
  const options = (plan?.context.instrument.articulations ?? []).map((a) => ({
    value: a.id,
    text: articulationTerm(a.id).name,
  }));
  const choose = (value: string) => {
    selectArticulation(value);
    const notes = selectedNotes();
    if (mayEdit && notes.length > 0)
      markSpan(
        track.id,
        Math.min(...notes.map((n) => n.startTick)),
        Math.max(...notes.map((n) => n.endTick)),
        value,
      );
  };
  return (
    <div className="flex items-center gap-2 border-y border-rule bg-ground px-3 py-1">
      <h2 className="font-serif text-[15px] font-semibold">{track.name}</h2>
      <span className="text-ink-3">connected: {MODES[track.mode]}</span>
      <div className="flex-1" />
      <div role="group" aria-label="Tool" className="flex gap-1">
        <Button
          pressed={tool === 'select'}
          className="py-0.5"
          onClick={() => useEditor.setState({ tool: 'select' })}
          title="Choose and move notes; a double press draws one"
        >
          Choose
        </Button>
        <Button
          pressed={tool === 'draw'}
          disabled={!mayEdit}
          className="py-0.5"
          onClick={() => useEditor.setState({ tool: 'draw' })}
          title="Press to draw a note, drag for its length"
        >
          Draw
        </Button>
      </div>
      <Choice
        label="Grid"
        value={String(grid)}
        onChange={(event) => useEditor.setState({ gridTicks: Number(event.target.value) })}
        options={GRIDS}
      />
      {options.length > 0 && (
        <Choice
          label={selection.size > 0 ? `Mark ${selection.size} selected` : 'Hand plays'}
          value={options.some((o) => o.value === articulation) ? articulation : ''}
          onChange={(event) => choose(event.target.value)}
          options={options}
        />
      )}
    </div>
  );
}
