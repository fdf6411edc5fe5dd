import type { Instrument } from '../catalogue/index.ts';
import type { HallResponse } from '../dsp/index.ts';
import {
  Players,
  prepareInstrument,
  TRACK_VOICES,
  type EngineEvent,
  type SampleAudio,
  type SoundMemory,
} from '../engine/index.ts';
import type { HallMix, TrackMix } from '../mixing/index.ts';
import { ENGINE_RATE } from '../units/index.ts';

/** Everything a bounce needs; nothing in it is changed. */
export interface BounceOrder {
  instruments: { instrument: Instrument; audio: ReadonlyMap<string, SampleAudio> }[];
  tracks: { instrumentId: string | null; mix: TrackMix }[];
  /** The shared hall; null for a bounce without one. */
  hall: HallResponse | null;
  hallMix: HallMix;
  /** In order; frame 0 is the first frame written. */
  events: EngineEvent[];
  /** Frames after which the bounce may end as soon as it is silent. */
  endFrame: number;
}

/** Gives players the tracks of an order, or some of them, in the order in which they are named, and their events. */
export function seat(
  players: Players,
  order: BounceOrder,
  chosen: readonly number[],
  sound: SoundMemory,
): void {
  const used = new Set(chosen.map((track) => order.tracks[track].instrumentId));
  const prepared = new Map(
    order.instruments
      .filter(({ instrument }) => used.has(instrument.id))
      .map(({ instrument, audio }) => [instrument.id, prepareInstrument(instrument, audio, sound)]),
  );
  players.ensureTracks(chosen.length);
  chosen.forEach((track, i) => {
    const { instrumentId, mix } = order.tracks[track];
    players.tracks[i].setInstrument(instrumentId === null ? null : (prepared.get(instrumentId) ?? null));
    players.tracks[i].setMix(mix, ENGINE_RATE);
  });
  players.reset();
  const place = new Map(chosen.map((track, i) => [track, i]));
  const events: EngineEvent[] = [];
  for (const event of order.events) {
    const own = place.get(event.track);
    if (own !== undefined) events.push(own === event.track ? event : { ...event, track: own });
  }
  players.setEvents(events);
}

/** Players for some tracks of an order. @param sound the memory they work in */
export function playersFor(order: BounceOrder, chosen: readonly number[], sound: SoundMemory): Players {
  const players = new Players(TRACK_VOICES, sound);
  seat(players, order, chosen, sound);
  return players;
}
