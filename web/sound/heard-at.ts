import { ENGINE_RATE } from '#core/units/index.ts';
import { soundHost } from './host.ts';
import { playing } from './playhead.ts';

/** Frame of the performance that was heard at a time of the page's clock; undefined before anything is heard. */
export function heardFrame(atMs: number): number | undefined {
  const heard = soundHost.heardSeconds(atMs);
  if (heard === undefined || playing.contextSeconds === 0) return undefined;
  return playing.frame + (heard - playing.contextSeconds) * ENGINE_RATE;
}
