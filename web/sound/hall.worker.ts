import type { HallResponse } from '#core/dsp/index.ts';
import {
  hallResponse,
  recordedResponse,
  SHARED_HALLS,
  type HallSettings,
  type RecordedHall,
  type SharedHall,
} from '#core/rooms/index.ts';

/** A hall that is to be worked out: one that ships with Farlo, or one that was recorded. */
export type HallOrder =
  { hall: SharedHall; settings: HallSettings } | { recorded: RecordedHall; settings: HallSettings };

self.onmessage = ({ data }: MessageEvent<HallOrder>) => {
  const response: HallResponse =
    'hall' in data
      ? hallResponse(SHARED_HALLS[data.hall], data.settings)
      : recordedResponse(data.recorded, data.settings);
  const { left, right, cross } = response;
  const sides = [left, right, ...(cross ? [cross.leftToRight, cross.rightToLeft] : [])];
  self.postMessage(response, { transfer: sides.map(({ buffer }) => buffer) });
};
