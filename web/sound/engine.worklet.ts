import {
  AheadReader,
  AheadWords,
  BLOCK,
  Click,
  Engine,
  MAX_POSITIONS,
  Rings,
  SoundMemory,
  Switcher,
  type EngineEvent,
  type Rendering,
  type Stretch,
  type WebAssemblyMemory,
} from '#core/engine/index.ts';

import { LiveQueue } from '#core/performance/index.ts';
import type { FromEngine, SoundingVoice, ToEngine, TrackMeter } from './messages.ts';
import { Seats } from './seats.ts';

const REPORT_FRAMES = 1600;
/** What still sounds at a stop fades this fast. */
const LET_GO_SECONDS = 0.12;

interface Options {
  memory: WebAssemblyMemory;
  room: Stretch;
  words: Int32Array;
}

/**
 * The engine inside the audio thread: it plays what hands play, adds what workers render ahead, and runs the hall. Messages are taken
 * between blocks; `process` allocates nothing.
 */
class EngineProcessor extends AudioWorkletProcessor {
  private readonly engine: Engine;
  private readonly rings: Rings;
  private readonly ahead: AheadReader;
  private readonly seats: Seats;
  private sinceReport = 0;
  private stolenBefore = 0;
  private lateBefore = 0;
  private meters: TrackMeter[] = [];
  private readonly renderings = new Map<string, Rendering>();
  private readonly switcher = new Switcher();
  private readonly played = new LiveQueue();
  private readonly click = new Click();
  private readonly apply = (event: EngineEvent) => this.engine.apply(event);
  private clock = 0;
  private capture: { left: Float32Array; right: Float32Array; at: number } | undefined;
  private timing: { clock: Float64Array; milliseconds: Float32Array; at: number } | undefined;
  private readonly silentLeft = new Float32Array(BLOCK);
  private readonly silentRight = new Float32Array(BLOCK);

  constructor({ processorOptions: { memory, room, words } }: { processorOptions: Options }) {
    super();
    const sound = SoundMemory.within(memory, room);
    const engine = new Engine(undefined, sound);
    this.rings = new Rings(sound);
    this.ahead = new AheadReader(new AheadWords(words), this.rings, sound);
    engine.ahead = this.ahead;
    engine.joining = this.switcher;
    this.engine = engine;
    this.seats = new Seats(
      engine,
      sound,
      () => true,
      (voices) => (engine.voiceLimit = voices),
      (number) => this.tell({ kind: 'passed', number }),
    );
    this.port.onmessage = ({ data }: MessageEvent<ToEngine>) => this.take(data);
  }

  private take(message: ToEngine): void {
    switch (message.kind) {
      case 'ahead':
        for (const address of message.rings) this.rings.add(address);
        this.ahead.setOwners(message.owners);
        break;
      case 'hall':
        this.engine.setHall(message.response);
        break;
      case 'hallMix':
        this.engine.setHallMix(message.mix);
        break;
      case 'play':
        this.ahead.begin(message.epoch);
        this.click.begin();
        break;
      case 'clicks':
        this.click.gain = message.gain;
        this.click.add(message.clicks);
        break;
      case 'noClicks':
        this.click.clear();
        break;
      case 'stop':
        this.click.clear();
        this.ahead.stop();
        this.engine.stopAll(LET_GO_SECONDS);
        break;
      case 'live':
        this.played.add(message.events, this.clock, this.engine.rate, this.apply);
        break;
      case 'hush':
        this.played.dropTrack(message.track);
        this.engine.stopAll(LET_GO_SECONDS, message.track);
        break;
      case 'renderings':
        for (const [name, rendering] of message.renderings) this.renderings.set(name, rendering);
        break;
      case 'keepRenderings':
        for (const name of this.renderings.keys())
          if (!message.names.includes(name)) this.renderings.delete(name);
        break;
      case 'hear': {
        const rendering = this.renderings.get(message.name);
        this.switcher.repeat = message.repeat;
        if (rendering) this.switcher.start(rendering, message.place);
        break;
      }
      case 'change': {
        const rendering = this.renderings.get(message.name);
        if (rendering) this.switcher.change(rendering);
        break;
      }
      case 'quiet':
        this.switcher.stop();
        break;
      case 'clock':
        this.timing = { clock: message.clock, milliseconds: new Float32Array(message.blocks), at: 0 };
        break;
      case 'capture':
        this.capture = {
          left: new Float32Array(message.frames),
          right: new Float32Array(message.frames),
          at: 0,
        };
        break;
      case 'tracks':
        this.seats.take(message);
        this.meters = message.tracks.map(() => ({
          peak: 0,
          positions: new Array<number>(MAX_POSITIONS).fill(0),
        }));
        break;
      default:
        this.seats.take(message);
    }
  }

  private tell(message: FromEngine, moved: Transferable[] = []): void {
    this.port.postMessage(message, moved);
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const output = outputs[0];
    const left = output[0] ?? this.silentLeft;
    const right = output[1] ?? this.silentRight;
    this.played.release(this.clock, this.apply);
    const before = this.timing?.clock[0] ?? 0;
    this.engine.renderMix(left, right);
    if (this.ahead.runs) this.click.render(left, right, this.ahead.frame - BLOCK);
    if (this.timing) this.timeBlock(before);
    this.clock += BLOCK;
    if (this.capture && (this.ahead.runs || this.switcher.isPlaying)) this.captureBlock(left, right);
    this.sinceReport += BLOCK;
    if (this.sinceReport >= REPORT_FRAMES) this.report();
    return true;
  }

  private timeBlock(before: number): void {
    const { timing } = this;
    if (!timing) return;
    timing.milliseconds[timing.at++] = timing.clock[0] - before;
    if (timing.at < timing.milliseconds.length) return;
    this.tell({ kind: 'timed', milliseconds: timing.milliseconds });
    this.timing = undefined;
  }

  private captureBlock(left: Float32Array, right: Float32Array): void {
    const { capture } = this;
    if (!capture) return;
    const count = Math.min(BLOCK, capture.left.length - capture.at);
    capture.left.set(left.subarray(0, count), capture.at);
    capture.right.set(right.subarray(0, count), capture.at);
    capture.at += count;
    if (capture.at < capture.left.length) return;
    this.tell({ kind: 'captured', left: capture.left, right: capture.right }, [
      capture.left.buffer as ArrayBuffer,
      capture.right.buffer as ArrayBuffer,
    ]);
    this.capture = undefined;
  }

  /** Levels since the last report: of what workers render and of what hands play, whichever is louder. */
  private readMeters(): void {
    const { engine, ahead } = this;
    this.meters.forEach((meter, i) => {
      const track = engine.tracks[i];
      meter.peak = Math.max(track.peak, ahead.takeLevel(i, 0));
      track.peak = 0;
      for (let p = 0; p < meter.positions.length; p++) {
        const bus = track.buses[p];
        meter.positions[p] = Math.max(bus?.peak ?? 0, ahead.takeLevel(i, 1 + p));
        if (bus) bus.peak = 0;
      }
    });
  }

  private report(): void {
    this.sinceReport = 0;
    const { engine, ahead } = this;
    this.readMeters();
    const stolen = engine.stolen + ahead.stolen;
    this.tell({
      kind: 'state',
      playing: ahead.plays,
      frame: ahead.frame,
      seconds: currentTime + BLOCK / engine.rate,
      tracks: this.meters,
      momentary: engine.meter.momentary,
      voices: engine.voiceCount + ahead.voiceCount,
      stolen: Math.max(0, stolen - this.stolenBefore),
      givenUp: engine.takeGivenUp(),
      late: ahead.lateBlocks - this.lateBefore,
      sounding: this.soundingVoices(),
      hearing: this.switcher.isPlaying,
      place: this.switcher.place,
    });
    this.stolenBefore = stolen;
    this.lateBefore = ahead.lateBlocks;
  }

  private soundingVoices(): SoundingVoice[] {
    const voices: SoundingVoice[] = [];
    this.engine.eachVoice(this.seats.setup.length - 1, (key, zone) => {
      const [first] = Object.values(zone.samples);
      voices.push({ key, take: zone.take, takes: zone.takes, sample: first?.sample ?? '' });
    });
    return voices;
  }
}

registerProcessor('farlo-engine', EngineProcessor);
