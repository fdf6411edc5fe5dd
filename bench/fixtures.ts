import type { BounceOrder } from '#core/deliver/index.ts';
import { HEAVY_POSITIONS, heavyInstrument, sortEvents, type EngineEvent } from '#core/engine/index.ts';
import { PLAIN_POSITION, type TrackMix } from '#core/mixing/index.ts';

export const heavyMix: TrackMix = {
  gainDb: 0,
  pan: 0,
  muted: false,
  hallSendDb: -12,
  positions: Object.fromEntries(HEAVY_POSITIONS.map((id) => [id, PLAIN_POSITION])),
};

/** Events that hold `voices` notes on each track from the first frame on. */
export function heldVoices(tracks: number, voices: number): EngineEvent[] {
  const events: EngineEvent[] = [];
  for (let track = 0; track < tracks; track++) {
    events.push({ kind: 'control', frame: 0, track, controller: 1, value: 64 });
    for (let v = 0; v < voices; v++)
      events.push({
        kind: 'start',
        frame: v * 7,
        track,
        sound: track * 1000 + v + 1,
        articulation: 0,
        role: 'attack',
        key: 57 + ((v * 5) % 24),
        velocity: 90,
        fromKey: 0,
        take: 0,
        offsetSeconds: 0,
        fadeInSeconds: 0,
      });
  }
  return sortEvents(events);
}

/** Stops of all that events start, at a frame. */
export function letGo(events: readonly EngineEvent[], frame: number): EngineEvent[] {
  return events.flatMap((event): EngineEvent[] =>
    event.kind === 'start'
      ? [{ kind: 'stop', frame, track: event.track, sound: event.sound, fadeSeconds: 0.1, release: false }]
      : [],
  );
}

/** A bounce of held voices. */
export function heavyOrder(
  tracks: number,
  voices: number,
  seconds: number,
  hall: BounceOrder['hall'],
  made = heavyInstrument(),
): BounceOrder {
  return {
    instruments: [made],
    tracks: Array.from({ length: tracks }, () => ({ instrumentId: 'heavy', mix: heavyMix })),
    hall,
    hallMix: { earlyDb: 0, tailDb: 0 },
    events: heldVoices(tracks, voices),
    endFrame: seconds * 48_000,
  };
}
