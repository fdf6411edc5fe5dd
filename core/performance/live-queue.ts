import type { EngineEvent } from '../engine/index.ts';
import type { LiveEvent } from './live.ts';

/** Played events that are still to come, by the frame at which they are due. */
export class LiveQueue {
  private readonly pending: { frame: number; event: EngineEvent }[] = [];

  /**
   * Takes events: those of now are applied at once, the others wait. A stop of now also withdraws a start of the
   * same sound that is still to come, so that a tone let go before it began never begins.
   * @param frame the present frame
   * @param rate frames a second
   */
  add(events: readonly LiveEvent[], frame: number, rate: number, apply: (event: EngineEvent) => void): void {
    for (const { afterSeconds, event } of events) {
      if (afterSeconds > 0) {
        this.pending.push({ frame: frame + Math.round(afterSeconds * rate), event });
        continue;
      }
      if (event.kind === 'stop') this.drop((other) => other.kind === 'start' && other.sound === event.sound);
      apply(event);
    }
  }

  /** Applies what is due, in the order of its frames. Allocates only when something is. */
  release(frame: number, apply: (event: EngineEvent) => void): void {
    for (;;) {
      let next = -1;
      for (let i = 0; i < this.pending.length; i++)
        if (this.pending[i].frame <= frame && (next < 0 || this.pending[i].frame < this.pending[next].frame))
          next = i;
      if (next < 0) return;
      apply(this.pending.splice(next, 1)[0].event);
    }
  }

  /** Forgets what is still to come on a track. */
  dropTrack(track: number): void {
    this.drop((event) => event.kind !== 'stop' && event.track === track);
  }

  private drop(matches: (event: EngineEvent) => boolean): void {
    for (let i = this.pending.length - 1; i >= 0; i--)
      if (matches(this.pending[i].event)) this.pending.splice(i, 1);
  }
}
