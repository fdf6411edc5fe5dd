import { PLAIN_POSITION, positionMatrix, type PositionMix } from '../mixing/index.ts';
import { BLOCK } from './voice.ts';

/** Longest delay of a position: 100 ms at 48 kHz, rounded up to a power of two. */
const DELAY_FRAMES = 8192;

/** One microphone position of one track: level, balance, width, polarity and delay of the summed voices. */
export class PositionBus {
  readonly left = new Float64Array(BLOCK);
  readonly right = new Float64Array(BLOCK);
  /** Highest absolute output since the last read. */
  peak = 0;

  private readonly target = new Float64Array(4);
  private readonly now = new Float64Array(4);
  private readonly delayLeft = new Float64Array(DELAY_FRAMES);
  private readonly delayRight = new Float64Array(DELAY_FRAMES);
  private write = 0;
  private delay = 0;
  private delayTarget = 0;

  constructor() {
    this.setMix(PLAIN_POSITION, 48000);
    this.reset();
  }

  setMix(mix: PositionMix, rate: number): void {
    positionMatrix(mix, this.target);
    this.delayTarget = Math.round((Math.min(100, Math.max(0, mix.delayMs)) * rate) / 1000);
  }

  /** Gain with which it is heard as one channel, for comparing sounds. */
  get loudness(): number {
    return Math.abs(this.target[0] + this.target[1]) + Math.abs(this.target[2] + this.target[3]);
  }

  /** Forgets all sound and takes the wanted mix at once. */
  reset(): void {
    this.now.set(this.target);
    this.delay = this.delayTarget;
    this.delayLeft.fill(0);
    this.delayRight.fill(0);
    this.left.fill(0);
    this.right.fill(0);
    this.peak = 0;
  }

  /** Adds the block to the track's output and clears the input. Changes glide over the block. */
  mixInto(outLeft: Float64Array, outRight: Float64Array): void {
    const { left, right, now, target, delayLeft, delayRight } = this;
    let ll = now[0];
    let lr = now[1];
    let rl = now[2];
    let rr = now[3];
    // A quarter of the way a block: about 10 ms, too slow to click and quick enough to follow a hand.
    const share = 0.25 / BLOCK;
    const stepLL = (target[0] - ll) * share;
    const stepLR = (target[1] - lr) * share;
    const stepRL = (target[2] - rl) * share;
    const stepRR = (target[3] - rr) * share;
    const from = this.delay;
    const to = this.delayTarget;
    let write = this.write;
    let peak = this.peak;
    for (let i = 0; i < BLOCK; i++) {
      delayLeft[write] = left[i];
      delayRight[write] = right[i];
      const a = (write - from) & (DELAY_FRAMES - 1);
      let l = delayLeft[a];
      let r = delayRight[a];
      if (to !== from) {
        const b = (write - to) & (DELAY_FRAMES - 1);
        const x = (i + 1) / BLOCK;
        l += x * (delayLeft[b] - l);
        r += x * (delayRight[b] - r);
      }
      write = (write + 1) & (DELAY_FRAMES - 1);
      ll += stepLL;
      lr += stepLR;
      rl += stepRL;
      rr += stepRR;
      const outL = ll * l + lr * r;
      const outR = rl * l + rr * r;
      outLeft[i] += outL;
      outRight[i] += outR;
      const loud = Math.max(outL, -outL, outR, -outR);
      if (loud > peak) peak = loud;
      left[i] = 0;
      right[i] = 0;
    }
    this.write = write;
    this.delay = to;
    this.peak = peak;
    now[0] = settle(ll, target[0]);
    now[1] = settle(lr, target[1]);
    now[2] = settle(rl, target[2]);
    now[3] = settle(rr, target[3]);
  }
}

/** The target itself once a glide is closer than −120 dB, so that silence becomes exact. */
function settle(value: number, target: number): number {
  return Math.abs(value - target) < 1e-6 ? target : value;
}
