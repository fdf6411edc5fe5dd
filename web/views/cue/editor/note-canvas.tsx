import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import type { Note } from '#core/music/index.ts';
import {
  beginGesture,
  edit,
  endGesture,
  listOf,
  ownedBy,
  useDocuments,
  type Item,
} from '../../../state/documents.ts';
import type { Records } from '../../../state/tables.ts';
import { notesOfOthers, usePointing } from '../../../state/pointing.ts';
import { useMayEdit } from '../../../state/session.ts';
import { singleKeysOn } from '../../../app/keys.ts';
import { useTheme } from '../../../app/theme-choice.ts';
import { usePerformance } from '../../../sound/performance-state.ts';
import { rangeOfWord } from '../../../sound/playing-by.ts';
import { metreOf, partOf, tempoOf } from '../../../state/cue.ts';
import { sendFrom } from '../../../sound/midi.ts';
import { useSize } from '../../../ui/use-size.ts';
import {
  keepToItself,
  FIRST_SCALE,
  FIRST_TICK,
  ROW,
  openOn,
  snap,
  showKeys,
  showNote,
  snapDown,
  tickToX,
  useEditor,
  wheelMoves,
  xToTick,
  zoomBy,
} from './editor-state.ts';
import {
  fitCanvas,
  themeInks,
  paintGrid,
  paintNotes,
  paintOfOthers,
  paintOthers,
  paintPlan,
  paintRubber,
} from './paint.ts';
import {
  addNotes,
  copySelected,
  moveBySteps,
  moveNotes,
  paste,
  removeSelected,
  resizeNotes,
  selectedNotes,
} from './part-edits.ts';
import { ensurePart } from '../../../state/part-edits.ts';
import { SHAPES, shapeSelected } from './shape-edits.ts';
import { typeMark } from './typed-mark.ts';

const EDGE = 6;
const SCREEN = { id: 'screen', name: 'Screen' };
const NEW_VELOCITY = 84;

type Drag =
  | { kind: 'move' | 'resize'; x: number; y: number; notes: Item<'note'>[]; moved: boolean }
  | { kind: 'draw'; noteId: string; startTick: number; partId: string }
  | { kind: 'rubber'; x0: number; y0: number; x1: number; y1: number; add: boolean };

/** The pitch grid of one part: notes are drawn, chosen, moved, lengthened and deleted here. */
export function NoteCanvas({ track }: { track: Item<'track'> }) {
  const [frame, { width, height }] = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const part = useDocuments((state) => partOf(state.records, track.id).part);
  const metre = useDocuments((state) => metreOf(state.records));
  const tempo = useDocuments((state) => tempoOf(state.records));
  const view = useEditor();
  const plan = usePerformance((state) => state.plans[track.id]);
  const theme = useTheme((state) => state.theme);
  const others = useDocuments((state) => (view.others ? state.records : undefined));
  const cueId = useDocuments((state) => state.cueId);
  const pointing = usePointing();
  const mayEdit = useMayEdit();
  const drag = useRef<Drag | undefined>(undefined);
  const [rubber, setRubber] = useState<{ x0: number; y0: number; x1: number; y1: number }>();
  const recording = usePerformance((state) => state.recording);
  const isEmpty = part.notes.length === 0;
  const opened = useRef<string>(undefined);
  useEffect(() => {
    if (height === 0) return;
    const keys = partOf(useDocuments.getState().records, track.id).part.notes.map(({ key }) => key);
    // When a part is opened, comes in or was recorded; not while it is written.
    const now = `${track.id} ${recording} ${isEmpty}`;
    if (opened.current === now) showKeys(keys, height);
    else openOn(keys, height);
    opened.current = now;
  }, [track.id, height, recording, isEmpty]);
  useEffect(() => {
    if (view.wanted === undefined || height === 0) return;
    const note = part.notes.find(({ id }) => id === view.wanted);
    if (!note) return;
    showNote(note, width, height);
    useEditor.setState({ wanted: undefined });
  }, [view.wanted, part, width, height]);
  useEffect(() => {
    const element = canvas.current;
    const context = element && fitCanvas(element, width, height);
    if (!element || !context) return;
    const inks = themeInks();
    const { instrument, voicing } = plan?.context ?? {};
    paintGrid(
      context,
      inks,
      metre,
      width,
      height,
      instrument && voicing && rangeOfWord(instrument, voicing, track.articulation),
    );
    if (others) paintOthers(context, inks, otherParts(others, track.id), width, height);
    if (plan) paintPlan(context, inks, plan, tempo, width, height);
    paintNotes(context, inks, part.notes, width, height);
    paintOfOthers(context, inks, part.notes, notesOfOthers(pointing, cueId), width, height);
    if (rubber) paintRubber(context, inks, rubber);
  }, [
    width,
    height,
    metre,
    tempo,
    view,
    plan,
    theme,
    rubber,
    part,
    others,
    pointing,
    cueId,
    track.id,
    track.articulation,
  ]);

  useEffect(() => {
    const element = canvas.current;
    if (!element) return undefined;
    const onWheel = (event: WheelEvent) => wheelMoves(event, event.offsetX);
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, []);

  const place = (event: PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  };
  const keyAt = (y: number) => Math.floor(useEditor.getState().topKey - y / ROW + 1);
  const noteAt = (x: number, y: number): { note: Note; edge: boolean } | undefined => {
    const key = keyAt(y);
    for (let i = part.notes.length - 1; i >= 0; i--) {
      const note = part.notes[i];
      if (note.key !== key) continue;
      const left = tickToX(note.startTick);
      const right = Math.max(tickToX(note.endTick), left + 5);
      if (x >= left && x <= right) return { note, edge: x > right - EDGE && right - left > 2 * EDGE };
    }
    return undefined;
  };
  const sound = (key: number, on: boolean) => {
    if (!usePerformance.getState().playing) sendFrom(SCREEN, [on ? 0x90 : 0x80, key, on ? NEW_VELOCITY : 0]);
  };

  const onDown = (event: PointerEvent<HTMLCanvasElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    const { x, y } = place(event);
    const hit = noteAt(x, y);
    const { selection, tool } = useEditor.getState();
    if (hit) {
      const chosen = new Set(event.shiftKey ? selection : selection.has(hit.note.id) ? selection : []);
      if (event.shiftKey && chosen.has(hit.note.id)) chosen.delete(hit.note.id);
      else chosen.add(hit.note.id);
      useEditor.setState({ selection: chosen, markId: undefined });
      sound(hit.note.key, true);
      if (!mayEdit) return;
      beginGesture(hit.edge ? 'Change length' : 'Move notes');
      drag.current = { kind: hit.edge ? 'resize' : 'move', x, y, notes: selectedNotes(), moved: false };
      return;
    }
    if (mayEdit && (tool === 'draw' || event.detail === 2)) {
      const startTick = snapDown(xToTick(x));
      const { gridTicks } = useEditor.getState();
      const key = Math.min(127, Math.max(0, keyAt(y)));
      beginGesture('Draw note');
      const [noteId] = addNotes(track.id, 'Draw note', [
        { startTick, endTick: startTick + gridTicks, key, velocity: NEW_VELOCITY },
      ]);
      drag.current = { kind: 'draw', noteId, startTick, partId: ensurePart(track.id).partId };
      sound(key, true);
      return;
    }
    drag.current = { kind: 'rubber', x0: x, y0: y, x1: x, y1: y, add: event.shiftKey };
  };

  const onMove = (event: PointerEvent<HTMLCanvasElement>) => {
    const { x, y } = place(event);
    const now = drag.current;
    if (!now) {
      const hit = noteAt(x, y);
      event.currentTarget.style.cursor = hit
        ? hit.edge
          ? 'ew-resize'
          : 'grab'
        : useEditor.getState().tool === 'draw'
          ? 'crosshair'
          : 'default';
      return;
    }
    keepToItself(event);
    const { gridTicks, pixelsPerTick } = useEditor.getState();
    if (now.kind === 'rubber') {
      Object.assign(now, { x1: x, y1: y });
      setRubber({
        x0: Math.min(now.x0, x),
        y0: Math.min(now.y0, y),
        x1: Math.max(now.x0, x),
        y1: Math.max(now.y0, y),
      });
    } else if (now.kind === 'draw') {
      const endTick = Math.max(now.startTick + gridTicks, snap(xToTick(x)));
      edit('Draw note', [{ kind: 'note', id: now.noteId, op: 'update', fields: { endTick } }]);
    } else {
      const ticks = Math.round((x - now.x) / pixelsPerTick / gridTicks) * gridTicks;
      now.moved ||= Math.abs(x - now.x) > 3 || Math.abs(y - now.y) > 3;
      if (!now.moved) return;
      if (now.kind === 'move') moveNotes(now.notes, ticks, Math.round((now.y - y) / ROW));
      else resizeNotes(now.notes, ticks, Math.min(gridTicks, 60));
    }
  };

  const onUp = (event: PointerEvent<HTMLCanvasElement>) => {
    const now = drag.current;
    drag.current = undefined;
    for (const key of usePerformance.getState().held) sound(key, false);
    if (now?.kind === 'rubber') {
      setRubber(undefined);
      const [low, high] = [keyAt(Math.max(now.y0, now.y1)), keyAt(Math.min(now.y0, now.y1))];
      const [from, to] = [xToTick(Math.min(now.x0, now.x1)), xToTick(Math.max(now.x0, now.x1))];
      const inside = part.notes.filter(
        (note) =>
          note.key >= low &&
          note.key <= high &&
          note.endTick > from &&
          note.startTick < to &&
          now.x0 !== now.x1,
      );
      useEditor.setState(({ selection }) => ({
        selection: new Set([...(now.add ? selection : []), ...inside.map((note) => note.id)]),
        markId: undefined,
      }));
    } else endGesture(event.type !== 'pointercancel');
  };

  return (
    <div ref={frame} className="h-full w-full overflow-hidden">
      <canvas
        ref={canvas}
        tabIndex={0}
        role="application"
        aria-label={`Notes of ${track.name}: ${part.notes.length}, ${view.selection.size} selected. Arrow keys move selected notes, Shift with left or right changes their length, Ctrl+A selects all, n and b go from note to note, Insert draws one at the playhead, Page keys turn pages, Ctrl with plus or minus zooms.`}
        style={{ width, height }}
        className="block touch-none"
        onPointerDown={onDown}
        onPointerMove={onMove}
        onPointerUp={onUp}
        onPointerCancel={onUp}
        onKeyDown={(event) => onKey(event, track, part.notes, mayEdit)}
      />
    </div>
  );
}

/** Notes of all tracks but one, track by track. */
function otherParts(records: Records, trackId: string): (readonly Note[])[] {
  return listOf(records, 'part').flatMap((one) =>
    one.trackId === trackId ? [] : [ownedBy(records, 'note', one.id)],
  );
}

const PAGE_SHARE = 0.8;

/** Pages and zoom by keyboard. @returns whether the key was one of them */
function view(event: KeyboardEvent): boolean {
  const { startTick, pixelsPerTick } = useEditor.getState();
  const width = event.currentTarget.clientWidth;
  const page = { PageUp: -1, PageDown: 1 }[event.key];
  if (page !== undefined) {
    useEditor.setState({
      startTick: Math.max(FIRST_TICK, startTick + (page * PAGE_SHARE * width) / pixelsPerTick),
    });
    return true;
  }
  if (!(event.ctrlKey || event.metaKey) || !['+', '=', '-', '0'].includes(event.key)) return false;
  if (event.key === '0') useEditor.setState({ pixelsPerTick: FIRST_SCALE });
  else zoomBy(event.key === '-' ? 1 / 1.5 : 1.5, width / 2);
  return true;
}

/** The same edits by keyboard. */
function onKey(event: KeyboardEvent, track: Item<'track'>, notes: readonly Note[], mayEdit: boolean): void {
  const { gridTicks, selection } = useEditor.getState();
  const command = event.ctrlKey || event.metaKey;
  const select = (ids: Iterable<string>) =>
    useEditor.setState({ selection: new Set(ids), markId: undefined });
  const done = () => {
    event.preventDefault();
    event.stopPropagation();
  };
  if (command && event.key === 'a') {
    select(notes.map((note) => note.id));
    return done();
  }
  if (event.key === 'Escape') {
    select([]);
    endGesture(false);
    return done();
  }
  if (view(event)) return done();
  if (singleKeysOn() && !command && (event.key === 'n' || event.key === 'b')) {
    // Next or previous note, so that single notes can be reached without a mouse.
    const at = notes.findIndex((note) => selection.has(note.id));
    const next =
      notes[(at + (event.key === 'n' ? 1 : notes.length - 1) + notes.length) % Math.max(1, notes.length)];
    if (next) select([next.id]);
    return done();
  }
  if (command && event.key === 'c') {
    copySelected();
    return done();
  }
  if (!mayEdit) return undefined;
  if (command && event.key === 'x') {
    copySelected();
    removeSelected();
    return done();
  }
  if (command && event.key === 'v') {
    paste(track.id);
    return done();
  }
  if (event.key === 'Delete' || event.key === 'Backspace') {
    removeSelected();
    return done();
  }
  if (event.key === 'Insert') {
    const { restTick } = usePerformance.getState();
    const startTick = snap(restTick);
    addNotes(track.id, 'Draw note', [
      { startTick, endTick: startTick + gridTicks, key: notes.at(-1)?.key ?? 67, velocity: NEW_VELOCITY },
    ]);
    return done();
  }
  const chosen = selectedNotes();
  if (chosen.length === 0) return undefined;
  if (singleKeysOn() && !command && !event.altKey && event.key === 'a') {
    void typeMark(track.id);
    return done();
  }
  const shape = singleKeysOn() && !command && !event.altKey && SHAPES.find(({ key }) => key === event.key);
  if (shape) {
    shapeSelected(shape);
    return done();
  }
  const sideways = { ArrowLeft: -gridTicks, ArrowRight: gridTicks }[event.key];
  const upwards = { ArrowUp: 1, ArrowDown: -1 }[event.key];
  if (sideways !== undefined) {
    if (event.shiftKey) resizeNotes(chosen, sideways, 60, 'length');
    else moveNotes(chosen, sideways, 0, 'move');
    return done();
  }
  if (upwards !== undefined) {
    if (event.altKey) moveBySteps(chosen, upwards, 'step');
    else moveNotes(chosen, 0, event.shiftKey ? upwards * 12 : upwards, 'move');
    return done();
  }
  return undefined;
}
