import { useEffect, useRef } from 'react';
import { Plus } from 'lucide-react';
import { byNearness, positionName } from '#core/catalogue/index.ts';
import { CONTROLLER } from '#core/music/index.ts';
import { useMayEdit } from '../../state/session.ts';
import { useFrame } from '../../ui/use-frame.ts';
import { useTheme } from '../../app/theme-choice.ts';
import { partOf } from '../../state/cue.ts';
import { useDocuments, useList, useOwnedBy, type Item } from '../../state/documents.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { playheadTick } from '../../sound/playhead.ts';
import { useSize } from '../../ui/use-size.ts';
import { BarLine } from './editor/bar-line.tsx';
import { ControllerLane } from './editor/controller-lane.tsx';
import { LevelLane } from './editor/level-lane.tsx';
import { keepSelected, tickToX, useEditor, wheelMoves } from './editor/editor-state.ts';
import { VelocityLane } from './editor/velocity-lane.tsx';
import { addMarker } from './editor/marker-edits.ts';
import { MarkerLine } from './editor/marker-line.tsx';
import { MarkLine } from './editor/mark-line.tsx';
import { NoteCanvas } from './editor/note-canvas.tsx';
import { fitCanvas, inksOf, paintKeyNames } from './editor/paint.ts';

const DYNAMICS = [
  { value: 117, text: 'ff' },
  { value: 74, text: 'mf' },
  { value: 13, text: 'pp' },
];
const VIBRATO = [
  { value: 117, text: 'full' },
  { value: 13, text: 'none' },
];

/** Bars, marks, notes and curves of one part over one time line, with the playhead through all of them. */
export function PartEditor({ track }: { track: Item<'track'> }) {
  const playhead = useRef<HTMLDivElement>(null);
  const [area, { width }] = useSize<HTMLDivElement>();
  const mixes = useOwnedBy('positionMix', track.id);
  const positions = mixes.map(({ positionId }) => positionId).sort(byNearness);
  const marked = useList('marker').length > 0;
  const mayEdit = useMayEdit();
  const part = useDocuments((state) => partOf(state.records, track.id).part);
  useEffect(() => keepSelected(part), [part]);
  const levelOf = useEditor((state) => state.levelOf);
  const shown = levelOf !== undefined && positions.includes(levelOf) ? levelOf : undefined;
  useFrame(() => {
    const element = playhead.current;
    if (!element) return;
    const x = tickToX(playheadTick());
    element.style.transform = `translateX(${x}px)`;
    element.style.visibility = x < 0 || x > width ? 'hidden' : 'visible';
    // While playing, the page turns when the playhead reaches its edge.
    if (usePerformance.getState().playing && (x > width || x < -2))
      useEditor.setState({ startTick: Math.max(-240, playheadTick() - 480) });
  });
  // Where the playhead is put is shown.
  const restTick = usePerformance((state) => state.restTick);
  useEffect(() => {
    const x = tickToX(restTick);
    if (width > 0 && (x < 0 || x > width)) useEditor.setState({ startTick: Math.max(-240, restTick - 480) });
    // Not when the window or the zoom changes.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [restTick]);
  return (
    <div
      className="grid h-full min-h-0 grid-cols-[84px_minmax(0,1fr)]"
      style={{
        gridTemplateRows: `22px ${marked ? '20px' : '0px'} 26px minmax(0,1fr) 40px 58px 58px ${shown ? '58px' : '0px'}`,
      }}
    >
      <div className="flex justify-end border-r border-b border-rule pr-1">
        <button
          type="button"
          disabled={!mayEdit}
          title="Sets a marker at the playhead (key k on the bar line)."
          className="inline-flex items-center gap-0.5 text-xs text-ink-2 hover:text-ink disabled:opacity-50"
          onClick={() => void addMarker()}
        >
          <Plus size={11} aria-hidden /> marker
        </button>
      </div>
      <div ref={area} className="relative row-span-8 grid min-w-0 grid-rows-subgrid">
        <BarLine />
        <div className="overflow-hidden">{marked && <MarkerLine />}</div>
        <MarkLine track={track} />
        <div className="relative min-h-0">
          <NoteCanvas track={track} />
          {part.notes.length === 0 && <FirstNotes mayEdit={mayEdit} />}
        </div>
        <div className="border-t border-rule">
          <VelocityLane track={track} />
        </div>
        <div className="border-t border-rule">
          <ControllerLane track={track} controller={CONTROLLER.dynamics} name="Dynamics" words={DYNAMICS} />
        </div>
        <div className="border-t border-rule">
          <ControllerLane track={track} controller={CONTROLLER.vibrato} name="Vibrato" words={VIBRATO} />
        </div>
        <div className={shown ? 'border-t border-rule' : ''}>
          {shown && <LevelLane track={track} positionId={shown} />}
        </div>
        <div
          ref={playhead}
          className="pointer-events-none absolute top-0 bottom-0 left-0 w-[1.5px] bg-warm"
          aria-hidden
        >
          <svg width="9" height="7" className="absolute top-0 -left-[4px]">
            <path d="M0 0H9L4.5 7Z" fill="var(--warm)" />
          </svg>
        </div>
      </div>
      <div className="overflow-hidden border-r border-rule-soft pl-3 text-xs text-ink-3">
        {marked && 'Markers'}
      </div>
      <div className="border-r border-b border-rule-soft pt-1 pl-3 text-xs text-ink-3">Marks</div>
      <KeyNames />
      <div className="border-t border-r border-rule pt-1.5 pl-3 font-semibold">Velocity</div>
      <div className="border-t border-r border-rule pt-1.5 pl-3 font-semibold">Dynamics</div>
      <div className="border-t border-r border-rule pt-1.5 pl-3">
        <span className="font-semibold">Vibrato</span>
        <select
          aria-label="Position whose level moves"
          title="Shows the level of a microphone position over the cue, to draw it."
          className="mt-1 -ml-1 block w-[72px] min-h-6 rounded-sm border border-rule bg-raised text-xs text-ink-2"
          value={shown ?? ''}
          onChange={(event) => useEditor.setState({ levelOf: event.target.value || undefined })}
        >
          <option value="">level …</option>
          {positions.map((id) => (
            <option key={id} value={id}>
              {positionName(id)}
            </option>
          ))}
        </select>
      </div>
      <div className={`overflow-hidden border-r border-rule ${shown ? 'border-t pt-1.5 pl-3' : ''}`}>
        {shown && (
          <>
            <span className="font-semibold">{positionName(shown)}</span>
            <span className="block text-xs text-ink-3">level</span>
          </>
        )}
      </div>
    </div>
  );
}

/** What to do first in a part without notes. */
function FirstNotes({ mayEdit }: { mayEdit: boolean }) {
  const recording = usePerformance((state) => state.recording);
  if (recording) return null;
  return (
    <p className="pointer-events-none absolute inset-x-0 top-1/3 mx-auto max-w-[46ch] text-center text-sm text-ink-3">
      {mayEdit
        ? 'No notes yet. Press Draw and drag them in, press Record and play, let keys write note by note under Recording, or bring in MIDI.'
        : 'No notes yet.'}
    </p>
  );
}

function KeyNames() {
  const [frame, { width, height }] = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const topKey = useEditor((state) => state.topKey);
  const theme = useTheme((state) => state.theme);
  const middleC = useList('template')[0]?.middleC ?? 4;
  useEffect(() => {
    const context = canvas.current && fitCanvas(canvas.current, width, height);
    if (canvas.current && context) paintKeyNames(context, inksOf(canvas.current), width, height, middleC);
  }, [width, height, topKey, theme, middleC]);
  useEffect(() => {
    const element = canvas.current;
    const onWheel = (event: WheelEvent) => wheelMoves(event, 0);
    element?.addEventListener('wheel', onWheel, { passive: false });
    return () => element?.removeEventListener('wheel', onWheel);
  }, []);
  return (
    <div ref={frame} className="min-h-0 overflow-hidden border-r border-rule">
      <canvas ref={canvas} style={{ width, height }} className="block" aria-hidden />
    </div>
  );
}
