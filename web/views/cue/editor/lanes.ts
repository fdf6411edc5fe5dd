import { positionName } from '#core/catalogue/index.ts';
import { PARAMETERS } from '#core/keymap/index.ts';
import { BEND, CONTROLLER, type CurvePoint } from '#core/music/index.ts';
import { useEditor, type LaneId } from './editor-state.ts';

/** Lanes that always are there. */
const FIXED: readonly number[] = [CONTROLLER.dynamics, CONTROLLER.vibrato];
/** More would leave no room for notes. */
export const MOST_LANES = 4;

const NAMES: Readonly<Record<number, string>> = {
  [CONTROLLER.volume]: 'volume',
  [CONTROLLER.pan]: 'pan',
  [CONTROLLER.expression]: 'expression',
  [CONTROLLER.pedal]: 'pedal',
  [CONTROLLER.brightness]: 'brightness',
  [CONTROLLER.reverbSend]: 'hall send',
  [BEND]: 'pitch bend',
};

/** A lane that can be shown. */
export interface LaneChoice {
  id: LaneId;
  name: string;
}

/** The tempo of the cue as a lane. */
export const TEMPO_LANE: LaneId = 'tempo';

/** What a lane is called. */
export function laneName(id: LaneId): string {
  if (id === TEMPO_LANE) return 'tempo';
  const position = positionOfLane(id);
  return position === undefined ? controllerName(controllerOfLane(id) ?? 0) : positionName(position);
}

export function controllerName(controller: number): string {
  const parameter = PARAMETERS.find((one) => one.controller === controller);
  return parameter?.name.toLowerCase() ?? NAMES[controller] ?? `controller ${controller}`;
}

/** The controller of a lane; undefined for one of a level. */
export function controllerOfLane(id: LaneId): number | undefined {
  return id.startsWith('controller ') ? Number(id.slice('controller '.length)) : undefined;
}

/** The position of a lane of a level; undefined for one of a controller. */
export function positionOfLane(id: LaneId): string | undefined {
  return id.startsWith('level ') ? id.slice('level '.length) : undefined;
}

/** Lanes of controllers: those that mean something to an instrument, and whatever else the part moves. */
export function controllerLanes(points: readonly CurvePoint[]): LaneChoice[] {
  const known = [...PARAMETERS.map(({ controller }) => controller), ...Object.keys(NAMES).map(Number)];
  const moved = points.map(({ controller }) => controller);
  return [...new Set([...known, ...moved])]
    .filter((controller) => !FIXED.includes(controller))
    .map((controller): LaneChoice => ({
      id: `controller ${controller}`,
      name: controllerName(controller),
    }))
    .sort((a, b) => a.name.localeCompare(b.name));
}

/** Lanes of the levels of positions, which come near to far. */
export function levelLanes(positions: readonly string[]): LaneChoice[] {
  return positions.map((id) => ({ id: `level ${id}`, name: `${positionName(id)}, level` }));
}

const KEY = 'farlo-lanes';

/** Shows a lane; the one that has been there longest gives way when there are too many. Those that are shown are kept in this browser. */
export function showLane(id: LaneId): void {
  const { lanes } = useEditor.getState();
  if (!lanes.includes(id)) keep([...lanes, id].slice(-MOST_LANES));
}

export function hideLane(id: LaneId): void {
  keep(useEditor.getState().lanes.filter((one) => one !== id));
}

function keep(lanes: readonly LaneId[]): void {
  useEditor.setState({ lanes });
  localStorage.setItem(KEY, JSON.stringify(lanes));
}

const isLane = (id: unknown): id is LaneId =>
  typeof id === 'string' && /^(tempo|controller \d{1,3}|level .{1,40})$/.test(id);

/** Shows the lanes that were shown in this browser before. */
export function showKeptLanes(): void {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEY) ?? '[]');
    if (Array.isArray(kept)) useEditor.setState({ lanes: kept.filter(isLane).slice(-MOST_LANES) });
  } catch {
    // What cannot be read is as if nothing had been kept.
  }
}
