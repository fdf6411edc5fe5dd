import { ENGINE_RATE } from '../units/index.ts';
import { BLOCK } from './voice-renderer.ts';

/** A click at a frame of a performance. */
export interface ClickAt {
  frame: number;
  /** The first of a bar. */
  strong: boolean;
}

const SECONDS = 0.05;
const FRAMES = Math.round(SECONDS * ENGINE_RATE);
/** Of the first of a bar, and of the others: a fourth apart, above most of what is played. */
const STRONG_HERTZ = 2000;
const HERTZ = 1500;
const DECAY_SECONDS = 0.01;

/**
 * Sounds clicks over a mix: tones that begin at a crossing of zero, fall at once and end in silence. It belongs to no track, is heard
 * by whoever plays and is in no bounce. `render` allocates nothing.
 */
export class Click {
  /** Linear. */
  gain = 0.25;
  private waiting: ClickAt[] = [];
  private at = 0;
  private from = -FRAMES;
  private step = 0;

  /** Forgets what is to come and lets what sounds end. */
  clear(): void {
    this.waiting = [];
    this.at = 0;
  }

  /** What has sounded is over: frames are counted anew. */
  begin(): void {
    this.clear();
    this.from = -FRAMES;
  }

  /** @param clicks in the order of their frames, behind those that were added before */
  add(clicks: readonly ClickAt[]): void {
    this.waiting = [...this.waiting.slice(this.at), ...clicks];
    this.at = 0;
  }

  /** Adds to a block. @param frame the first of the block; blocks follow one another */
  render(left: Float32Array, right: Float32Array, frame: number): void {
    for (let i = 0; i < BLOCK; i++) {
      const now = frame + i;
      while (this.at < this.waiting.length && this.waiting[this.at].frame <= now) {
        const click = this.waiting[this.at++];
        this.from = click.frame;
        this.step = (2 * Math.PI * (click.strong ? STRONG_HERTZ : HERTZ)) / ENGINE_RATE;
      }
      const past = now - this.from;
      if (past < 0 || past >= FRAMES) continue;
      const level = Math.exp(-past / (DECAY_SECONDS * ENGINE_RATE)) * (1 - past / FRAMES);
      const value = this.gain * level * Math.sin(this.step * past);
      left[i] += value;
      right[i] += value;
    }
  }
}
