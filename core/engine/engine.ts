import type { HallResponse } from '../dsp/index.ts';
import type { HallMix } from '../mixing/index.ts';
import type { AheadReader } from './ahead/index.ts';
import { Desk } from './desk.ts';
import { ownSoundMemory, type SoundMemory } from './memory/index.ts';
import { Players, TRACK_VOICES, type TakeTrack } from './players.ts';
import { BLOCK } from './voice-renderer.ts';

/** Adds frames [from, to) to the output. */
export interface Joining {
  /** Whether it adds anything now. */
  readonly sounds: boolean;
  process(left: Float32Array, right: Float32Array, from: number, to: number): void;
}

/** The sampler in one piece: players and the desk that adds them. */
export class Engine extends Players {
  /** Sound from elsewhere that joins the output and its meter, for example renderings that are compared. */
  joining: Joining | null = null;
  /** What others render ahead; its tracks come before those that play here. */
  ahead: AheadReader | null = null;
  private readonly desk: Desk;
  private readonly take: TakeTrack = (_index, sound, hall) => this.desk.add(sound, hall);

  /**
   * @param trackVoices voices that one track may have at once
   * @param sound the memory it works in; its recordings must lie there too
   */
  constructor(trackVoices = TRACK_VOICES, sound: SoundMemory = ownSoundMemory()) {
    super(trackVoices, sound);
    this.desk = new Desk(sound);
  }

  get meter(): Desk['meter'] {
    return this.desk.meter;
  }

  setHall(response: HallResponse): void {
    this.desk.setHall(response);
  }

  setHallMix(mix: HallMix): void {
    this.desk.setHallMix(mix);
  }

  override reset(frame?: number): void {
    super.reset(frame);
    this.desk.reset();
  }

  /** Renders the next 128 frames into `outLeft` and `outRight`, overwriting them. */
  renderMix(outLeft: Float32Array, outRight: Float32Array): void {
    this.desk.begin();
    this.ahead?.addTo(this.desk);
    this.render(this.take);
    this.desk.addHall();
    this.desk.addLeaving();
    this.desk.write(outLeft, outRight);
    if (this.joining?.sounds) {
      this.joining.process(outLeft, outRight, 0, BLOCK);
      this.desk.measure(outLeft, outRight);
    } else this.desk.measure();
  }
}
