import {
  isInScale,
  pitchName,
  type MetreMap,
  type MiddleC,
  type Note,
  type TempoMap,
} from '#core/music/index.ts';
import { eachSoundBetween, type Plan } from '#core/performance/index.ts';
import { ROW, tickToX, useEditor, xToTick } from './editor-state.ts';

/** The theme's colours as a canvas needs them. */
export interface Inks {
  sheet: string;
  ground: string;
  rule: string;
  ruleSoft: string;
  ink: string;
  ink2: string;
  ink3: string;
  cool: string;
  coolTint: string;
  warm: string;
  straw: string;
}

const inksByTheme = new Map<string | undefined, Inks>();

/** The colours of the theme on the page. They are read once: asking for an element's style at every stroke costs half as much as the notes. */
export function themeInks(): Inks {
  const { theme } = document.documentElement.dataset;
  let inks = inksByTheme.get(theme);
  if (!inks) inksByTheme.set(theme, (inks = readInks()));
  return inks;
}

function readInks(): Inks {
  const style = getComputedStyle(document.documentElement);
  const of = (name: string) => style.getPropertyValue(`--${name}`).trim();
  return {
    sheet: of('sheet'),
    ground: of('ground'),
    rule: of('rule'),
    ruleSoft: of('rule-soft'),
    ink: of('ink'),
    ink2: of('ink-2'),
    ink3: of('ink-3'),
    cool: of('cool'),
    coolTint: of('cool-tint'),
    warm: of('warm'),
    straw: of('straw'),
  };
}

/** A canvas fitted to its box at the screen's own resolution; its context in CSS pixels. */
export function fitCanvas(
  canvas: HTMLCanvasElement,
  width: number,
  height: number,
): CanvasRenderingContext2D | undefined {
  const scale = devicePixelRatio;
  if (canvas.width !== Math.round(width * scale) || canvas.height !== Math.round(height * scale)) {
    canvas.width = Math.round(width * scale);
    canvas.height = Math.round(height * scale);
  }
  const context = canvas.getContext('2d') ?? undefined;
  context?.setTransform(scale, 0, 0, scale, 0, 0);
  return context;
}

/** Calls back for every bar and beat line in view: x, and whether a bar begins. */
export function eachLine(
  metre: MetreMap,
  width: number,
  visit: (x: number, bar: number | undefined) => void,
): void {
  const { pixelsPerTick } = useEditor.getState();
  const from = Math.max(0, xToTick(0));
  const to = xToTick(width);
  let { bar } = metre.toBarBeat(from);
  for (let tick = metre.barStart(bar); tick <= to; bar++) {
    const next = metre.barStart(bar + 1);
    const { denominator } = metre.at(tick);
    const beat = (960 * 4) / denominator;
    visit(tickToX(tick), bar);
    if (beat * pixelsPerTick > 7)
      for (let t = tick + beat; t < next - 1; t += beat) visit(tickToX(t), undefined);
    tick = next;
  }
}

/** Grid, rows of the keys beside the scale, and the playable range. */
export function paintGrid(
  context: CanvasRenderingContext2D,
  inks: Inks,
  metre: MetreMap,
  width: number,
  height: number,
  range: { low: number; high: number } | undefined,
): void {
  const { topKey, scale } = useEditor.getState();
  context.fillStyle = inks.sheet;
  context.fillRect(0, 0, width, height);
  for (let key = Math.floor(topKey); key > topKey - height / ROW - 1; key--) {
    const y = (topKey - key) * ROW;
    const outside = range !== undefined && (key < range.low || key > range.high);
    if (outside || !isInScale(scale, key)) {
      context.fillStyle = outside ? inks.ground : inks.ruleSoft;
      context.globalAlpha = outside ? 1 : 0.45;
      context.fillRect(0, y, width, ROW);
      context.globalAlpha = 1;
    }
    if (key % 12 === 0) {
      context.fillStyle = inks.rule;
      context.fillRect(0, y + ROW - 0.5, width, 0.5);
    }
  }
  eachLine(metre, width, (x, bar) => {
    context.fillStyle = bar === undefined ? inks.ruleSoft : inks.rule;
    context.fillRect(Math.round(x), 0, 1, height);
  });
}

/** Names of the keys C and G at the left. */
export function paintKeyNames(
  context: CanvasRenderingContext2D,
  inks: Inks,
  width: number,
  height: number,
  middleC: MiddleC,
): void {
  const { topKey } = useEditor.getState();
  context.fillStyle = inks.sheet;
  context.fillRect(0, 0, width, height);
  context.fillStyle = inks.ink3;
  context.font = '12px "Public Sans Variable", sans-serif';
  context.textAlign = 'right';
  context.textBaseline = 'middle';
  for (let key = Math.floor(topKey); key > topKey - height / ROW - 1; key--)
    if (key % 12 === 0 || key % 12 === 7)
      context.fillText(pitchName(key, middleC), width - 8, (topKey - key + 0.5) * ROW);
}

/** Notes as ink bars tapering at their end, thicker when louder. */
export function paintNotes(
  context: CanvasRenderingContext2D,
  inks: Inks,
  notes: readonly Note[],
  width: number,
  height: number,
): void {
  const { topKey, selection } = useEditor.getState();
  const [first, last] = [xToTick(0), xToTick(width)];
  const middleOf = (key: number) => (topKey - key + 0.5) * ROW;
  // All of one colour are filled at once: a path of its own for each would cost more than its shape.
  const [plain, chosen] = [new Path2D(), new Path2D()];
  const selected: Note[] = [];
  context.font = '12px "Public Sans Variable", sans-serif';
  context.textAlign = 'left';
  context.textBaseline = 'alphabetic';
  context.fillStyle = inks.ink2;
  for (const note of notes) {
    if (note.startTick > last) break;
    if (note.endTick < first) continue;
    const middle = middleOf(note.key);
    if (middle < -ROW || middle > height + ROW) continue;
    const [left, right] = [tickToX(note.startTick), tickToX(note.endTick)];
    const half = halfOf(note);
    const taper = Math.min(5, (right - left) / 2);
    const isChosen = selection.has(note.id);
    const path = isChosen ? chosen : plain;
    path.moveTo(left, middle - half);
    path.lineTo(right - taper, middle - half);
    path.lineTo(right, middle);
    path.lineTo(right - taper, middle + half);
    path.lineTo(left, middle + half);
    if (isChosen) selected.push(note);
    if (note.syllable) context.fillText(note.syllable, left, middle - half - 4);
  }
  context.fillStyle = inks.ink;
  context.fill(plain);
  context.fillStyle = inks.cool;
  context.fill(chosen);
  // Not by colour alone: a selected note carries a frame.
  context.strokeStyle = inks.cool;
  for (const note of selected) {
    const [left, right, half] = [tickToX(note.startTick), tickToX(note.endTick), halfOf(note)];
    context.strokeRect(left - 2.5, middleOf(note.key) - half - 2.5, right - left + 5, 2 * half + 5);
  }
}

/** Half of a note's thickness: louder ones are thicker. */
const halfOf = ({ velocity }: Note) => 1.6 + (velocity / 127) * 2.9;

/** Notes that others have chosen or just changed: a broken frame, and once for each of them their name. */
export function paintOfOthers(
  context: CanvasRenderingContext2D,
  inks: Inks,
  notes: readonly Note[],
  names: ReadonlyMap<string, string>,
  width: number,
  height: number,
): void {
  if (names.size === 0) return;
  const { topKey } = useEditor.getState();
  const named = new Set<string>();
  context.strokeStyle = context.fillStyle = inks.straw;
  context.font = '600 11px "Public Sans Variable", sans-serif';
  context.textAlign = 'left';
  context.textBaseline = 'alphabetic';
  context.setLineDash([3, 2]);
  for (const note of notes) {
    const name = names.get(note.id);
    if (name === undefined) continue;
    const [left, right] = [tickToX(note.startTick), tickToX(note.endTick)];
    const top = (topKey - note.key) * ROW;
    if (right < 0 || left > width || top < -ROW || top > height) continue;
    context.strokeRect(left - 4.5, top - 2.5, Math.max(2, right - left) + 9, ROW + 5);
    if (!named.has(name)) context.fillText(name, left - 4, top - 5);
    named.add(name);
  }
  context.setLineDash([]);
}

/** Notes of other tracks, faint and thin, so that they are not taken for those of the part. */
export function paintOthers(
  context: CanvasRenderingContext2D,
  inks: Inks,
  parts: readonly (readonly Note[])[],
  width: number,
  height: number,
): void {
  const { topKey } = useEditor.getState();
  const [first, last] = [xToTick(0), xToTick(width)];
  context.fillStyle = inks.ink3;
  context.globalAlpha = 0.4;
  for (const notes of parts)
    for (const { startTick, endTick, key } of notes) {
      if (startTick > last) break;
      const y = (topKey - key + 0.5) * ROW;
      if (endTick < first || y < 0 || y > height) continue;
      const left = tickToX(startTick);
      context.fillRect(left, y - 1, Math.max(2, tickToX(endTick) - left), 2);
    }
  context.globalAlpha = 1;
}

/** Half of the width of the dot at which a planned sound begins, pixels. */
const DOT = 2.5;

/** The planned performance: a thin line under each note that begins where its sound will start. */
export function paintPlan(
  context: CanvasRenderingContext2D,
  inks: Inks,
  plan: Plan,
  tempo: TempoMap,
  width: number,
  height: number,
): void {
  const { topKey } = useEditor.getState();
  context.font = 'italic 12px "Source Serif 4 Variable", serif';
  context.textAlign = 'right';
  context.textBaseline = 'alphabetic';
  context.strokeStyle = inks.cool;
  context.fillStyle = inks.cool;
  const at = (x: number) => tempo.toSeconds(Math.max(0, xToTick(x)));
  const [lines, dots] = [new Path2D(), new Path2D()];
  eachSoundBetween(plan, at(0), at(width), (sound) => {
    if (sound.gesture === 'hold') return;
    const left = tickToX(tempo.toTicks(sound.startSeconds));
    const right = tickToX(tempo.toTicks(Math.max(sound.endSeconds, sound.beatSeconds)));
    const y = (topKey - sound.key + 1) * ROW + 2.5;
    if (right < 0 || left > width || y < 0 || y > height) return;
    lines.moveTo(left, y);
    lines.lineTo(Math.max(right, left + 4), y);
    // As good as round at this size, and drawn in a tenth of the time.
    dots.moveTo(left - DOT, y);
    dots.lineTo(left, y - DOT);
    dots.lineTo(left + DOT, y);
    dots.lineTo(left, y + DOT);
    if (sound.gesture === 'move') {
      const beat = tickToX(tempo.toTicks(sound.beatSeconds));
      context.fillRect(beat - 0.5, y - 3, 1, 6);
      if (right - left > 16) context.fillText(sound.key > sound.fromKey ? 'up' : 'down', left - 4, y + 3);
    }
  });
  context.stroke(lines);
  context.fill(dots);
}

/** The rectangle that selects. */
export function paintRubber(
  context: CanvasRenderingContext2D,
  inks: Inks,
  box: { x0: number; y0: number; x1: number; y1: number },
): void {
  context.globalAlpha = 0.35;
  context.fillStyle = inks.coolTint;
  context.fillRect(box.x0, box.y0, box.x1 - box.x0, box.y1 - box.y0);
  context.globalAlpha = 1;
  context.strokeStyle = inks.cool;
  context.strokeRect(box.x0, box.y0, box.x1 - box.x0, box.y1 - box.y0);
}
