import type { Apart } from '../balance/index.ts';
import type { Instrument } from '../catalogue/index.ts';
import {
  BLOCK,
  FRAME_BYTES,
  Players,
  TRACK_VOICES,
  type EngineEvent,
  type SampleAudio,
} from '../engine/index.ts';
import type { SoundMemory } from '../engine/index.ts';
import { PLAIN_POSITION, type TrackMix } from '../mixing/index.ts';
import { seat } from './order.ts';

/** What one section plays, to be rendered position by position. */
export interface ApartOrder {
  instrument: Instrument;
  audio: ReadonlyMap<string, SampleAudio>;
  /** Of track 0. */
  events: readonly EngineEvent[];
  frames: number;
  /** Positions wanted. */
  positions: readonly string[];
}

/**
 * Renders a section by the engine with each position alone, as recorded and at 0 dB, without the hall: what any mix of them adds up.
 * Slow: for workers. Allocates.
 * @param sound the memory it works in
 */
export function renderApart(order: ApartOrder, sound: SoundMemory): Apart {
  const { instrument, audio, frames, positions } = order;
  const alone = (id: string): TrackMix => ({
    gainDb: 0,
    pan: 0,
    muted: false,
    hallSendDb: -60,
    positions: { [id]: PLAIN_POSITION },
  });
  const players = new Players(TRACK_VOICES, sound);
  const chosen = positions.map((_, i) => i);
  seat(
    players,
    {
      instruments: [{ instrument, audio }],
      tracks: positions.map((id) => ({ instrumentId: instrument.id, mix: alone(id) })),
      hall: null,
      hallMix: { earlyDb: 0, tailDb: 0 },
      events: positions.flatMap((_, track) => order.events.map((event) => ({ ...event, track }))),
      endFrame: frames,
    },
    chosen,
    sound,
  );
  const blocks = Math.ceil(frames / BLOCK);
  const apart = positions.map((id) => ({
    id,
    left: new Float32Array(blocks * BLOCK),
    right: new Float32Array(blocks * BLOCK),
  }));
  let at = 0;
  const take = (index: number, address: number) => {
    const heard = sound.floats(address, (BLOCK * FRAME_BYTES) / 4);
    const { left, right } = apart[index];
    for (let i = 0; i < BLOCK; i++) {
      left[at + i] = heard[2 * i];
      right[at + i] = heard[2 * i + 1];
    }
  };
  for (let block = 0; block < blocks; block++) {
    players.render(take);
    at += BLOCK;
  }
  return apart.map(({ id, left, right }) => ({
    id,
    left: left.subarray(0, frames),
    right: right.subarray(0, frames),
  }));
}
