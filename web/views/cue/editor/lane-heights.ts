import { create } from 'zustand';
import type { LaneId } from './editor-state.ts';

/** A lane whose height can be set: one of a curve, or that of the velocities. */
export type HighLane = LaneId | 'velocity';

const KEY = 'farlo-lane-heights';
/** Bounds of a lane in pixels: less cannot be drawn in, more is no lane. */
export const LANE = { least: 28, most: 260, step: 8 } as const;
const usual = (lane: HighLane) => (lane === 'velocity' ? 40 : 58);

function kept(): Partial<Record<HighLane, number>> {
  try {
    const read = JSON.parse(localStorage.getItem(KEY) ?? '{}') as Record<string, unknown>;
    const heights = Object.entries(read).filter(
      (one): one is [HighLane, number] => typeof one[1] === 'number' && held(one[1]) === one[1],
    );
    return Object.fromEntries(heights);
  } catch {
    return {};
  }
}

const held = (height: number) => Math.round(Math.min(LANE.most, Math.max(LANE.least, height)));

/** Heights of lanes that were set, pixels; they are kept in this browser. */
export const useLaneHeights = create<Partial<Record<HighLane, number>>>(() => kept());

/** Height of a lane in pixels. */
export const laneHeight = (heights: Partial<Record<HighLane, number>>, lane: HighLane): number =>
  heights[lane] ?? usual(lane);

/** Sets the height of a lane; `undefined` gives it its usual one again. */
export function setLaneHeight(lane: HighLane, height: number | undefined): void {
  useLaneHeights.setState({ [lane]: height === undefined ? undefined : held(height) });
  localStorage.setItem(KEY, JSON.stringify(useLaneHeights.getState()));
}
