import { FILTER_BYTES } from './voice-renderer.ts';
import { Voice } from './voice.ts';

/** Voices made at once when none is left. */
const MORE = 32;

/** Voices that do not sound. It makes more when none is left; what is needed in the audio thread is made before. */
export class VoicePool {
  private readonly free: Voice[] = [];

  /** @param room gives places filled with zeros */
  constructor(private readonly room: (bytes: number) => number) {}

  /** Sees to it that so many are free. Allocates. */
  prepare(count: number): void {
    const missing = count - this.free.length;
    if (missing <= 0) return;
    const filters = this.room(missing * FILTER_BYTES);
    for (let i = 0; i < missing; i++) this.free.push(new Voice(filters + i * FILTER_BYTES));
  }

  take(): Voice {
    if (this.free.length === 0) this.prepare(MORE);
    return this.free.pop() as Voice;
  }

  giveBack(voice: Voice): void {
    voice.cut();
    this.free.push(voice);
  }
}
