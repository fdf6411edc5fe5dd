import type { Sounding, Trigger } from '#core/keymap/index.ts';
import type { LivePlayer } from '#core/performance/index.ts';
import type { MidiBytes } from './midi.ts';

/** What was played last, what the keymap made of it, and what sounds for it. */
export interface LiveReading {
  bytes: MidiBytes;
  /** True when it selected something and did not sound itself. */
  taken: boolean;
  articulation: string;
  /** Conditions that led to it. */
  because: readonly Trigger[];
  sounding: readonly Sounding[];
}

/** What a player made of a message. */
export function readingOf(bytes: MidiBytes, player: LivePlayer): LiveReading {
  const { taken, articulation, because } = player.resolution;
  const isNote = (bytes[0] & 0xf0) === 0x90 && bytes[2] > 0 && !taken;
  return {
    bytes,
    taken,
    articulation,
    because,
    sounding: isNote ? player.answerTo(articulation, bytes[2]) : [],
  };
}
