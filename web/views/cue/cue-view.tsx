import { lazy, Suspense, useEffect, useState } from 'react';
import { Ellipsis, FileMusic, FileUp, ListFilter, Mic, Plus, Timer } from 'lucide-react';
import { Link, useNavigate } from 'react-router';
import { toast } from 'sonner';
import { NOTE_RULES, type CurveSpan } from '#core/music/index.ts';
import { metreOf, partOf } from '../../state/cue.ts';
import { useDocuments, useItem, useList, type Item } from '../../state/documents.ts';
import { useVocabulary } from '../../state/keymaps.ts';
import { chosenByOthers, usePointing } from '../../state/pointing.ts';
import { useMayEdit, useSession } from '../../state/session.ts';
import { useTrackKeymap } from '../../app/use-keymap.ts';
import { usePageTitle } from '../../app/page-title.ts';
import { cueActions, newCue } from '../../app/document-actions.ts';
import { askNumber } from '../../ui/ask.tsx';
import { Menu, type MenuItem } from '../../ui/menu.tsx';
import { wholeWithin } from '../../ui/numbers.ts';
import { Pane, Panes } from '../../ui/panes.tsx';
import { useCueAddress } from './cue-address.ts';
import { singleKeysOn } from '../../app/keys.ts';
import { isTyping } from '../../sound/computer-keys.ts';
import { selectArticulation } from '../../sound/hands.ts';
import { beginScrub, endScrub, scrubTo } from '../../sound/scrub.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { barAtPlayhead, insertBars, MOST_BARS, removeBars } from './bar-edits.ts';
import { SongImportDialog } from './song-import-dialog.tsx';
import { PartEditor } from './part-editor.tsx';
import { RecordPane } from './record-pane.tsx';
import {
  clearSpan,
  copySpan,
  loopSpan,
  MOST_REPEATS,
  moveSpan,
  repeatSpan,
  useSpanChoice,
} from './span-edits.ts';
import { TimePane } from './time-pane.tsx';
import { TrackList } from './track-list.tsx';
import { MANY_TRACKS } from './track-groups.ts';
import { TrackPane } from './track-pane.tsx';
import { pointer, useEditor } from './editor/editor-state.ts';
import { markSpan, selectedNotes } from './editor/part-edits.ts';

const ScorePane = lazy(async () => ({ default: (await import('./score/score-pane.tsx')).ScorePane }));

const GRIDS = [
  { value: '960', text: '1/4' },
  { value: '480', text: '1/8' },
  { value: '320', text: '1/8 triplet' },
  { value: '240', text: '1/16' },
  { value: '120', text: '1/32' },
];

/** Of the tracks above the part at first, pixels: so many that a handful of many is seen. */
const [FEW_HEIGHT, MANY_HEIGHT] = [112, 208];

const SIDES = { track: 'Track', time: 'Time', recording: 'Recording' } as const;

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
  const [side, setSide] = useState<'track' | 'time' | 'recording'>('track');
  const [importing, setImporting] = useState<File>();
  const [hasScore, setHasScore] = useState(false);
  const takesTime = useSpanChoice((state) => state.takesTime);
  const isMany = useList('track').length > MANY_TRACKS;
  // Each is arranged by itself: many tracks want more room than few, and a score takes of it.
  const arrangement = ['cue-tracks', hasScore && track ? 'score' : '', isMany ? 'many' : '']
    .filter((word) => word !== '')
    .join('-');
  useScrubKey();
  const navigate = useNavigate();
  const trouble = useCueAddress();
  const hasCues = useSession((state) => (state.overview?.cues.length ?? 1) > 0);
  const templateId = useDocuments((state) => state.templateId);
  usePageTitle(cue?.name, track?.name);
  if (trouble) return <CueTrouble sentence={trouble} />;
  if (!cue)
    return hasCues ? (
      <p className="p-8 text-ink-2">Opening the cue …</p>
    ) : (
      <NoCue templateId={templateId} mayEdit={mayEdit} />
    );
  return (
    <>
      <Panes id="cue" names={['Border of the side pane']}>
        <Pane id="work" least={420}>
          <div className="flex h-full min-h-0 min-w-0 flex-col">
            <div className="flex shrink-0 flex-wrap items-center gap-2 border-b border-rule px-3 py-1.5">
              <h1 className="mr-2 min-w-0 truncate font-serif text-lg font-semibold">{cue.name}</h1>
              <Menu
                label="More for this cue"
                trigger={<Ellipsis size={15} aria-hidden />}
                groups={[
                  ...cueActions(cue, mayEdit, (id) => void navigate(id ? `/cue/${id}` : '/cue')),
                  barActions(mayEdit),
                  spanActions(mayEdit, takesTime),
                ]}
              />
              <div className="flex-1" />
              <Button
                pressed={side === 'recording'}
                title="How what hands play is recorded, at the side"
                onClick={() => setSide(side === 'recording' ? 'track' : 'recording')}
              >
                <Mic size={14} aria-hidden /> Recording
              </Button>
              <Button
                pressed={side === 'time'}
                title="Tempo and metre over the cue, at the side"
                onClick={() => setSide(side === 'time' ? 'track' : 'time')}
              >
                <Timer size={14} aria-hidden /> Time
              </Button>
              <Button
                pressed={hasScore}
                title="What is written as notation, above the grid"
                onClick={() => setHasScore(!hasScore)}
              >
                <FileMusic size={14} aria-hidden /> Score
              </Button>
              <Button
                disabled={!mayEdit}
                onClick={() => void newCue(templateId).then((id) => id && void navigate(`/cue/${id}`))}
              >
                <Plus size={14} aria-hidden /> New cue …
              </Button>
              <label
                className={`inline-flex min-h-6 items-center gap-1.5 rounded-md border border-rule bg-raised px-2.5 py-1 focus-within:outline-2 focus-within:outline-cool ${mayEdit ? 'cursor-pointer hover:border-ink-3' : 'opacity-50'}`}
              >
                <FileUp size={14} aria-hidden /> Bring in …
                <input
                  type="file"
                  aria-label="Bring in MIDI or MusicXML"
                  accept=".mid,.midi,.smf,.musicxml,.xml,.mxl"
                  disabled={!mayEdit}
                  className="sr-only"
                  onChange={(event) => {
                    setImporting(event.target.files?.[0]);
                    event.target.value = '';
                  }}
                />
              </label>
            </div>
            <div className="min-h-0 flex-1">
              <Panes
                id={arrangement}
                key={arrangement}
                orientation="vertical"
                names={
                  hasScore && track
                    ? ['Border between tracks and score', 'Border between score and part']
                    : ['Border between tracks and part']
                }
              >
                <Pane id="tracks" size={isMany ? MANY_HEIGHT : FEW_HEIGHT} least={57}>
                  <TrackList />
                </Pane>
                {hasScore && track && (
                  <Pane id="score" size={170} least={90}>
                    <Suspense fallback={<p className="p-3 text-ink-3">Drawing …</p>}>
                      <ScorePane track={track} />
                    </Suspense>
                  </Pane>
                )}
                <Pane id="part" least={160}>
                  {track ? (
                    <div className="flex h-full min-h-0 flex-col">
                      <EditorHead track={track} />
                      <div className="min-h-0 flex-1">
                        <PartEditor track={track} />
                      </div>
                    </div>
                  ) : (
                    <p className="p-6 text-ink-2">Choose a track to write its part.</p>
                  )}
                </Pane>
              </Panes>
            </div>
          </div>
        </Pane>
        <Pane id="side" size={272} least={200}>
          <aside aria-label={SIDES[side]} className="relative h-full min-h-0 overflow-auto p-3.5">
            {side === 'time' ? (
              <TimePane mayEdit={mayEdit} />
            ) : side === 'recording' ? (
              <RecordPane track={track} mayEdit={mayEdit} />
            ) : track ? (
              <TrackPane track={track} />
            ) : (
              <p className="text-ink-2">Choose a track.</p>
            )}
          </aside>
        </Pane>
      </Panes>
      {importing && (
        <SongImportDialog
          file={importing}
          onClose={() => setImporting(undefined)}
          onDone={(id) => {
            setImporting(undefined);
            void navigate(`/cue/${id}`);
          }}
        />
      )}
    </>
  );
}

/** While its key is held, it plays from where the pointer is over the cue, and goes along with it. */
function useScrubKey(): void {
  useEffect(() => {
    const down = (event: KeyboardEvent) => {
      if (event.key !== 'h' || event.repeat || event.ctrlKey || event.metaKey || event.altKey) return;
      if (!singleKeysOn() || isTyping(event.target)) return;
      // Letters may be notes just now: whoever plays them says so first.
      setTimeout(() => {
        if (!event.defaultPrevented && pointer.tick !== undefined) beginScrub(pointer.tick);
      });
    };
    const up = (event: KeyboardEvent) => event.key === 'h' && endScrub();
    const move = () => pointer.tick !== undefined && scrubTo(pointer.tick);
    window.addEventListener('keydown', down);
    window.addEventListener('keyup', up);
    window.addEventListener('blur', endScrub);
    // Behind what the views do with it: by then they have said where it is.
    window.addEventListener('pointermove', move);
    return () => {
      endScrub();
      window.removeEventListener('keydown', down);
      window.removeEventListener('keyup', up);
      window.removeEventListener('blur', endScrub);
      window.removeEventListener('pointermove', move);
    };
  }, []);
}

/** What lies within the loop, in all tracks, copied, moved, repeated or cleared. */
function spanActions(mayEdit: boolean, takesTime: boolean): MenuItem[] {
  const withLoop = (act: (span: CurveSpan) => void) => () => {
    const span = loopSpan();
    if (span) act(span);
    else toast('There is no loop: drag one in the bar line, over what is meant.');
  };
  const playhead = () => Math.round(usePerformance.getState().restTick);
  return [
    {
      text: 'Copy the loop to the playhead',
      disabled: !mayEdit,
      onSelect: withLoop((span) => copySpan(span, playhead())),
    },
    {
      text: 'Move the loop to the playhead',
      disabled: !mayEdit,
      onSelect: withLoop((span) => {
        if (!moveSpan(span, playhead()))
          toast('The playhead lies too near: the loop would come upon itself.');
      }),
    },
    {
      text: 'Repeat the loop …',
      disabled: !mayEdit,
      onSelect: withLoop(
        (span) =>
          void askNumber(
            'Repeat the loop',
            'What all tracks have within it is put behind it so many times, over what is there.',
            'Repeat',
            { label: 'Times', first: 1, read: wholeWithin(1, MOST_REPEATS) },
          ).then((times) => times !== undefined && repeatSpan(span, times)),
      ),
    },
    { text: 'Clear the loop', disabled: !mayEdit, loss: true, onSelect: withLoop(clearSpan) },
    {
      text: 'Take tempo, metre, key and markers along',
      checked: takesTime,
      disabled: !mayEdit,
      onSelect: () => useSpanChoice.setState({ takesTime: !takesTime }),
    },
  ];
}

/** Bars put in and taken out at the playhead. */
function barActions(mayEdit: boolean): MenuItem[] {
  const how = { label: 'Bars', first: 1, read: wholeWithin(1, MOST_BARS) };
  return [
    {
      text: 'Insert bars …',
      disabled: !mayEdit,
      onSelect: () =>
        void askNumber(
          `Insert bars before bar ${barAtPlayhead()}`,
          'Notes, marks, curves, markers, tempo and metre behind them move along; a note that lasts across holds on.',
          'Insert',
          how,
        ).then((count) => count !== undefined && insertBars(count)),
    },
    {
      text: 'Remove bars …',
      disabled: !mayEdit,
      loss: true,
      onSelect: () =>
        void askNumber(
          `Remove bars from bar ${barAtPlayhead()} on`,
          'What begins in them goes with them, in all tracks; what stands behind them closes up. One step takes it back.',
          'Remove',
          how,
        ).then((count) => count !== undefined && removeBars(count)),
    },
  ];
}

function CueTrouble({ sentence }: { sentence: string }) {
  return (
    <div role="alert" className="p-8">
      <p>{sentence}</p>
      <Link to="/cue" className="text-cool underline">
        To the cue that is open
      </Link>
    </div>
  );
}

function NoCue({ templateId, mayEdit }: { templateId: string | undefined; mayEdit: boolean }) {
  const navigate = useNavigate();
  return (
    <div className="max-w-[60ch] p-8">
      <h1 className="font-serif text-xl font-semibold">No cue yet</h1>
      <p className="mt-1 mb-3 text-ink-2">
        {templateId
          ? 'A cue is one piece of music over the tracks of a template.'
          : 'A cue is made in a template, which holds the tracks. Make a template first.'}
      </p>
      {templateId ? (
        <Button
          look="main"
          disabled={!mayEdit}
          onClick={() => void newCue(templateId).then((id) => id && void navigate(`/cue/${id}`))}
        >
          New cue …
        </Button>
      ) : (
        <Button look="main" onClick={() => void navigate('/template')}>
          To the templates
        </Button>
      )}
    </div>
  );
}

function EditorHead({ track }: { track: Item<'track'> }) {
  const cueId = useDocuments((state) => state.cueId);
  const elsewhere = usePointing((state) => chosenByOthers(state, cueId, track.id));
  const tool = useEditor((state) => state.tool);
  const others = useEditor((state) => state.others);
  const grid = useEditor((state) => state.gridTicks);
  const selection = useEditor((state) => state.selection);
  const mayEdit = useMayEdit();
  const articulation = usePerformance((state) => state.articulation);
  const plan = usePerformance((state) => state.plans[track.id]);
  const vocabulary = useVocabulary();
  const house = useTrackKeymap(track);
  // What the keymap has comes first, in its order, then what else the instrument plays.
  const words = new Set([
    ...(house?.keymap.entries ?? []).map((entry) => entry.articulation),
    ...(plan?.context.voicing?.repertoire.terms ?? []),
  ]);
  const options = plan ? [...words].map((id) => ({ value: id, text: vocabulary.term(id).name })) : [];
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
    <div className="flex shrink-0 flex-wrap items-center gap-2 border-b border-rule bg-ground px-3 py-1">
      <h2 className="font-serif text-[15px] font-semibold">{track.name}</h2>
      {/* In one place, so that nothing moves when somebody comes. */}
      {elsewhere === '' ? (
        <span className="text-ink-3">connected: {MODES[track.mode]}</span>
      ) : (
        <span
          role="status"
          className="max-w-[130px] truncate text-straw"
          title={`Chosen by others: ${elsewhere}`}
        >
          {elsewhere}
        </span>
      )}
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
        <Menu
          label="Choose notes by a rule"
          trigger={<ListFilter size={14} aria-hidden />}
          className="border border-rule bg-raised"
          groups={[
            NOTE_RULES.map(({ name, of }) => ({
              text: name,
              onSelect: () => {
                const { records } = useDocuments.getState();
                const { notes } = partOf(records, track.id).part;
                const found = of(notes, {
                  metre: metreOf(records),
                  selected: useEditor.getState().selection,
                });
                useEditor.setState({ selection: new Set(found.map(({ id }) => id)), markId: undefined });
                if (found.length === 0) toast('No note is like that.');
              },
            })),
          ]}
        />
      </div>
      <Button
        pressed={others}
        className="py-0.5"
        onClick={() => useEditor.setState({ others: !others })}
        title="Shows the notes of the other tracks behind"
      >
        Others
      </Button>
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
