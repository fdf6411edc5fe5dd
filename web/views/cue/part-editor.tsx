import { useEffect, useRef } from 'react';
import { Plus, X } from 'lucide-react';
import { byNearness } from '#core/catalogue/index.ts';
import { CONTROLLER, type CurvePoint } from '#core/music/index.ts';
import { tellPointing } from '../../state/pointing.ts';
import { useMayEdit } from '../../state/session.ts';
import { setStyle, useFrame } from '../../ui/use-frame.ts';
import { useTheme } from '../../app/theme-choice.ts';
import { endOfCue, partOf } from '../../state/cue.ts';
import { itemOf, useDocuments, useList, useOwnedBy, type Item } from '../../state/documents.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { playheadTick } from '../../sound/playhead.ts';
import { Button } from '../../ui/button.tsx';
import { useCalm } from '../../ui/use-calm.ts';
import { useSize } from '../../ui/use-size.ts';
import { BarLine } from './editor/bar-line.tsx';
import { ControllerLane } from './editor/controller-lane.tsx';
import { LevelLane } from './editor/level-lane.tsx';
import {
  FIRST_TICK,
  keepSelected,
  pointer,
  tickToX,
  useEditor,
  wheelMoves,
  xToTick,
  type LaneId,
} from './editor/editor-state.ts';
import {
  controllerLanes,
  controllerName,
  controllerOfLane,
  hideLane,
  laneName,
  levelLanes,
  positionOfLane,
  showKeptLanes,
  showLane,
  TEMPO_LANE,
} from './editor/lanes.ts';
import { LaneBorder } from './editor/lane-border.tsx';
import { laneHeight, useLaneHeights, type HighLane } from './editor/lane-heights.ts';
import { TempoLane } from './editor/tempo-lane.tsx';
import { ViewBar, ZoomButtons } from './editor/view-bar.tsx';
import { VelocityLane } from './editor/velocity-lane.tsx';
import { addMarker } from './editor/marker-edits.ts';
import { MarkerLine } from './editor/marker-line.tsx';
import { MarkLine } from './editor/mark-line.tsx';
import { KeyBar } from './editor/key-bar.tsx';
import { NoteCanvas } from './editor/note-canvas.tsx';
import { fitCanvas, themeInks, paintKeyNames } from './editor/paint.ts';

const DYNAMICS = [
  { value: 117, text: 'ff' },
  { value: 74, text: 'mf' },
  { value: 13, text: 'pp' },
];
const VIBRATO = [
  { value: 117, text: 'full' },
  { value: 13, text: 'none' },
];

const ENDS = [
  { value: 117, text: '127' },
  { value: 13, text: '0' },
];

// Once a page, before the first editor is drawn.
showKeptLanes();

const DYNAMICS_LANE: LaneId = `controller ${CONTROLLER.dynamics}`;
const VIBRATO_LANE: LaneId = `controller ${CONTROLLER.vibrato}`;
const ALWAYS: readonly HighLane[] = ['velocity', DYNAMICS_LANE, VIBRATO_LANE];

/** Bars, marks, notes and curves of one part over one time line, with the playhead through all of them. */
export function PartEditor({ track }: { track: Item<'track'> }) {
  const playhead = useRef<HTMLDivElement>(null);
  const [area, { width }] = useSize<HTMLDivElement>();
  useEffect(() => {
    useEditor.setState({ width });
  }, [width]);
  const mixes = useOwnedBy('positionMix', track.id);
  const positions = mixes.map(({ positionId }) => positionId).sort(byNearness);
  const marked = useList('marker').length > 0;
  const mayEdit = useMayEdit();
  const part = useDocuments((state) => partOf(state.records, track.id).part);
  useEffect(() => {
    const { records } = useDocuments.getState();
    const { id: partId } = partOf(records, track.id);
    keepSelected((kind, id) => itemOf(records, kind, id)?.partId === partId && partId !== undefined);
  }, [part, track.id]);
  const cueId = useDocuments((state) => state.cueId);
  const selection = useEditor((state) => state.selection);
  useEffect(() => {
    if (cueId !== undefined) tellPointing({ cueId, trackId: track.id, noteIds: selection });
  }, [cueId, track.id, selection]);
  useEffect(() => () => tellPointing(undefined), []);
  const asked = useEditor((state) => state.lanes);
  // Another track may have other positions.
  const lanes = asked.filter((id) => {
    const position = positionOfLane(id);
    return position === undefined || positions.includes(position);
  });
  const end = useCalm(useDocuments(({ records, cueId: id }) => endOfCue(records, id)));
  const heights = useLaneHeights();
  const high = [...ALWAYS, ...lanes].map((lane) => `${laneHeight(heights, lane)}px`);
  useFrame(() => {
    const element = playhead.current;
    if (!element) return;
    const x = tickToX(playheadTick());
    setStyle(element, 'transform', `translateX(${x}px)`);
    setStyle(element, 'visibility', x < 0 || x > width ? 'hidden' : 'visible');
    // While playing, the page turns when the playhead reaches its edge.
    if (usePerformance.getState().playing && (x > width || x < -2))
      useEditor.setState({ startTick: Math.max(FIRST_TICK, playheadTick() - 480) });
  });
  // Where the playhead is put is shown.
  const restTick = usePerformance((state) => state.restTick);
  useEffect(() => {
    const x = tickToX(restTick);
    if (width > 0 && (x < 0 || x > width))
      useEditor.setState({ startTick: Math.max(FIRST_TICK, restTick - 480) });
    // Not when the window or the zoom changes.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [restTick]);
  return (
    <div
      className="isolate grid h-full min-h-0 grid-cols-[84px_minmax(0,1fr)]"
      style={{
        gridTemplateRows: `24px ${marked ? '20px' : '0px'} 26px minmax(0,1fr) ${high.join(' ')} 25px`,
      }}
      data-editor
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
      <div
        ref={area}
        onPointerMove={(event) => {
          pointer.tick = Math.max(
            0,
            Math.round(xToTick(event.clientX - event.currentTarget.getBoundingClientRect().left)),
          );
        }}
        onPointerLeave={() => {
          pointer.tick = undefined;
        }}
        className="relative grid min-w-0 grid-rows-subgrid"
        style={{ gridRow: `span ${8 + lanes.length}` }}
      >
        <BarLine />
        <div className="overflow-hidden">{marked && <MarkerLine />}</div>
        <MarkLine track={track} />
        <div id="part-notes" className="relative min-h-0" data-notes>
          <NoteCanvas track={track} />
          <KeyBar />
          {part.notes.length === 0 && <FirstNotes mayEdit={mayEdit} />}
        </div>
        <div className="relative border-t border-rule">
          <LaneBorder lane="velocity" name="velocities" />
          <VelocityLane track={track} />
        </div>
        <div className="relative border-t border-rule">
          <LaneBorder lane={DYNAMICS_LANE} name="dynamics" />
          <ControllerLane track={track} controller={CONTROLLER.dynamics} name="Dynamics" words={DYNAMICS} />
        </div>
        <div className="relative border-t border-rule">
          <LaneBorder lane={VIBRATO_LANE} name="vibrato" />
          <ControllerLane track={track} controller={CONTROLLER.vibrato} name="Vibrato" words={VIBRATO} />
        </div>
        {lanes.map((id) => (
          <div key={id} className="relative border-t border-rule">
            <LaneBorder lane={id} name={laneName(id)} />
            <Lane track={track} id={id} />
          </div>
        ))}
        <ViewBar end={end} />
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
        <LaneChooser points={part.points} positions={positions} />
      </div>
      {lanes.map((id) => (
        <LaneName key={id} id={id} />
      ))}
      <ZoomButtons end={end} width={width} />
    </div>
  );
}

/** A curve that was asked for. */
function Lane({ track, id }: { track: Item<'track'>; id: LaneId }) {
  const position = positionOfLane(id);
  const controller = controllerOfLane(id);
  if (id === 'tempo') return <TempoLane />;
  if (position !== undefined) return <LevelLane track={track} positionId={position} />;
  if (controller === undefined) return null;
  return (
    <ControllerLane track={track} controller={controller} name={controllerName(controller)} words={ENDS} />
  );
}

function LaneName({ id }: { id: LaneId }) {
  const position = positionOfLane(id);
  const name = laneName(id);
  return (
    <div className="relative overflow-hidden border-t border-r border-rule pt-1.5 pl-3">
      <span className="block truncate pr-4 font-semibold first-letter:uppercase" title={name}>
        {name}
      </span>
      {position !== undefined && <span className="block text-xs text-ink-3">level</span>}
      <Button
        look="icon"
        className="absolute top-0 right-0"
        aria-label={`Put the lane of ${name} away`}
        title="Puts the lane away; its curve stays."
        onClick={() => hideLane(id)}
      >
        <X size={12} aria-hidden />
      </Button>
    </div>
  );
}

function LaneChooser({ points, positions }: { points: readonly CurvePoint[]; positions: readonly string[] }) {
  return (
    <select
      aria-label="Show another lane"
      title="Shows another controller, or the level of a microphone position, over the cue, to draw it."
      className="mt-1 -ml-1 block min-h-6 w-[72px] rounded-sm border border-rule bg-raised text-xs text-ink-2"
      value=""
      onChange={(event) => showLane(event.target.value as LaneId)}
    >
      <option value="">lane …</option>
      <option value={TEMPO_LANE}>tempo of the cue</option>
      <optgroup label="Levels of positions">
        {levelLanes(positions).map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </optgroup>
      <optgroup label="Controllers">
        {controllerLanes(points).map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </optgroup>
    </select>
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
    if (canvas.current && context) paintKeyNames(context, themeInks(), width, height, middleC);
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
