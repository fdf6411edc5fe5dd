import type { EngineEvent } from '../engine/index.ts';

/** Most sounds that are held at once. @param events in order of frame; of several tracks, too */
export function mostAtOnce(events: readonly EngineEvent[]): number {
  const held = new Set<string>();
  let most = 0;
  for (const event of events) {
    if (event.kind !== 'start' && event.kind !== 'stop') continue;
    const name = `${event.track} ${event.sound}`;
    if (event.kind === 'stop') held.delete(name);
    else most = Math.max(most, held.add(name).size);
  }
  return most;
}
