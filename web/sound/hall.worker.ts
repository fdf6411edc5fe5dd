import { hallResponse, SHARED_HALLS, type HallSettings, type SharedHall } from '#core/rooms/index.ts';

/** A hall that is to be worked out. */
export interface HallOrder {
  hall: SharedHall;
  settings: HallSettings;
}

self.onmessage = ({ data: { hall, settings } }: MessageEvent<HallOrder>) => {
  const response = hallResponse(SHARED_HALLS[hall], settings);
  const { left, right, cross } = response;
  const sides = [left, right, ...(cross ? [cross.leftToRight, cross.rightToLeft] : [])];
  self.postMessage(response, { transfer: sides.map(({ buffer }) => buffer) });
};
