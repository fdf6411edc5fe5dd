import { create } from 'zustand';
import type { Scale } from '#core/music/index.ts';

/** A curve of a part: of a controller, or of the level of a microphone position; or the tempo of the cue. */
export type LaneId = 'tempo' | `controller ${number}` | `level ${string}`;

interface EditorState {
  /** Left edge in ticks. */
  startTick: number;
  pixelsPerTick: number;
  /** Pixels of the cue that are in view; 0 while no editor is drawn. */
  width: number;
  /** Key at the top edge. */
  topKey: number;
  /** Grid in ticks. */
  gridTicks: number;
  tool: 'select' | 'draw';
  /** Ids of selected notes. */
  selection: ReadonlySet<string>;
  markId: string | undefined;
  /** Notes of other tracks are shown behind. */
  others: boolean;
  /** Scale whose keys are light in the pitch grid, and by whose steps notes are moved. */
  scale: Scale;
  /** Curves that are shown below those that always are, in the order in which they were asked for. */
  lanes: readonly LaneId[];
  /** A note that is to come into view. */
  wanted: string | undefined;
}

/** Left edge at the beginning of the cue: a little before it. */
export const FIRST_TICK = -240;
/** Pixels of a tick as the editor opens. */
export const FIRST_SCALE = 0.024;

/** What the part editor shows and what is selected; no part of any document. */
export const useEditor = create<EditorState>(() => ({
  startTick: FIRST_TICK,
  pixelsPerTick: FIRST_SCALE,
  width: 0,
  topKey: 84,
  gridTicks: 480,
  tool: 'select',
  selection: new Set<string>(),
  markId: undefined,
  others: false,
  scale: { root: 0, name: 'major' },
  lanes: [],
  wanted: undefined,
}));

/** Height of one key in the pitch grid, in pixels. */
export const ROW = 9;

export const tickToX = (tick: number) => {
  const { startTick, pixelsPerTick } = useEditor.getState();
  return (tick - startTick) * pixelsPerTick;
};
export const xToTick = (x: number) => {
  const { startTick, pixelsPerTick } = useEditor.getState();
  return startTick + x / pixelsPerTick;
};
export const snap = (tick: number) => {
  const { gridTicks } = useEditor.getState();
  return Math.max(0, Math.round(tick / gridTicks) * gridTicks);
};
export const snapDown = (tick: number) => {
  const { gridTicks } = useEditor.getState();
  return Math.max(0, Math.floor(tick / gridTicks) * gridTicks);
};

/** Highest and lowest key that may stand at the top edge. */
export const TOP_KEYS = { low: 24, high: 120 } as const;

/** Moves up or down to where notes are, when none of them would be seen. @param height of the pitch grid, pixels */
export function showKeys(keys: readonly number[], height: number): void {
  const { topKey } = useEditor.getState();
  const rows = Math.floor(height / ROW);
  if (keys.length === 0 || rows < 1 || keys.some((key) => key <= topKey && key > topKey - rows)) return;
  const sorted = [...keys].sort((a, b) => a - b);
  const middle = sorted[sorted.length >> 1];
  showTopKey(middle + Math.floor(rows / 2));
}

/**
 * Moves up or down, where a part is opened and not all of it would be seen: to all its notes, or where they do not fit, to most of them.
 * @param height of the pitch grid, pixels
 */
export function openOn(keys: readonly number[], height: number): void {
  const { topKey } = useEditor.getState();
  const rows = Math.floor(height / ROW);
  if (keys.length === 0 || rows < 1) return;
  const sorted = [...keys].sort((a, b) => a - b);
  const [low, high] = [sorted[0], sorted[sorted.length - 1]];
  if (high <= topKey && low > topKey - rows) return;
  const middle = high - low < rows ? (low + high) / 2 : sorted[sorted.length >> 1];
  showTopKey(Math.ceil(middle + (rows - 1) / 2));
}

/** Moves up or down to a key at the top edge. */
export function showTopKey(key: number): void {
  useEditor.setState({ topKey: Math.min(TOP_KEYS.high, Math.max(TOP_KEYS.low, key)) });
}

/** Brings a note into view, where it is not. @param width of the pitch grid, pixels */
export function showNote(
  { startTick, key }: { startTick: number; key: number },
  width: number,
  height: number,
): void {
  showKeys([key], height);
  const x = tickToX(startTick);
  const { pixelsPerTick } = useEditor.getState();
  if (x < 0 || x > width * 0.95)
    useEditor.setState({ startTick: Math.max(FIRST_TICK, startTick - (width * 0.2) / pixelsPerTick) });
}

const LEAST_SCALE = 0.002;
const MOST_SCALE = 0.4;

/** Zooms around a place of the editor's width. */
export function zoomBy(factor: number, x: number): void {
  const { pixelsPerTick } = useEditor.getState();
  const anchor = xToTick(x);
  const scale = Math.min(MOST_SCALE, Math.max(LEAST_SCALE, pixelsPerTick * factor));
  useEditor.setState({ pixelsPerTick: scale, startTick: Math.max(FIRST_TICK, anchor - x / scale) });
}

/**
 * Shows a stretch of the cue over a width in pixels. Where it would be drawn too small or too large, one of its ends stays where it is
 * asked for and the other gives way.
 */
export function showSpan(
  fromTick: number,
  toTick: number,
  width: number,
  kept: 'start' | 'end' = 'start',
): void {
  const from = Math.max(FIRST_TICK, fromTick);
  const scale = Math.min(MOST_SCALE, Math.max(LEAST_SCALE, width / Math.max(1, toTick - from)));
  useEditor.setState({
    pixelsPerTick: scale,
    startTick: kept === 'start' ? from : Math.max(FIRST_TICK, toTick - width / scale),
  });
}

/** Scrolls, or with Ctrl zooms around the pointer. */
export function wheelMoves(event: WheelEvent, x: number): void {
  event.preventDefault();
  const { startTick, pixelsPerTick, topKey } = useEditor.getState();
  if (event.ctrlKey || event.metaKey) {
    zoomBy(Math.exp(-event.deltaY / 300), x);
    return;
  }
  const sideways = event.shiftKey ? event.deltaY : event.deltaX;
  useEditor.setState({
    startTick: Math.max(FIRST_TICK, startTick + sideways / pixelsPerTick),
  });
  if (!event.shiftKey) showTopKey(topKey - event.deltaY / 20);
}

/** Lets go of what is selected and not there any more: notes and marks of another part, or taken back. */
export function keepSelected(isThere: (kind: 'note' | 'mark', id: string) => boolean): void {
  const { selection, markId } = useEditor.getState();
  const gone = [...selection].filter((id) => !isThere('note', id));
  if (gone.length > 0) {
    const kept = new Set(selection);
    for (const id of gone) kept.delete(id);
    useEditor.setState({ selection: kept });
  }
  if (markId !== undefined && !isThere('mark', markId)) useEditor.setState({ markId: undefined });
}

/** Where the pointer is over the cue, ticks; undefined where it is elsewhere. */
export const pointer: { tick: number | undefined } = { tick: undefined };

/**
 * Keeps a move of the pointer that drags something here from listeners of the page: those of the panes' borders measure the layout at
 * each, which costs as much as drawing the notes.
 */
export function keepToItself({ nativeEvent }: { nativeEvent: Event }): void {
  nativeEvent.stopPropagation();
}
