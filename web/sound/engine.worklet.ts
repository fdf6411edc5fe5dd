import {
  attachAudio,
  BLOCK,
  Engine,
  prepareInstrument,
  SoundMemory,
  Switcher,
  type EngineEvent,
  type PreparedInstrument,
  type Rendering,
  type Stretch,
  type WebAssemblyMemory,
} from '#core/engine/index.ts';

import { LiveQueue } from '#core/performance/index.ts';
import type { EngineTrackSetup, FromEngine, SoundingVoice, ToEngine, TrackMeter } from './messages.ts';

const REPORT_FRAMES = 1600;
/** Voices that may be fading beside those that sound. */
const FADING_VOICES = 96;
/** What still sounds at a stop fades this fast. */
const LET_GO_SECONDS = 0.12;

/** The engine inside the audio thread. Messages are taken between blocks; `process` allocates nothing. */
class EngineProcessor extends AudioWorkletProcessor {
  private readonly sound: SoundMemory;
  private readonly engine: Engine;
  private readonly instruments = new Map<string, PreparedInstrument>();
  private setup: EngineTrackSetup[] = [];
  private playing = false;
  private sinceReport = 0;
  private stolenBefore = 0;
  private meters: TrackMeter[] = [];
  private readonly renderings = new Map<string, Rendering>();
  private readonly switcher = new Switcher();
  private readonly played = new LiveQueue();
  private readonly apply = (event: EngineEvent) => this.engine.apply(event);
  private clock = 0;
  private capture: { left: Float32Array; right: Float32Array; at: number } | undefined;
  private timing: { clock: Float64Array; milliseconds: Float32Array; at: number } | undefined;
  private readonly silentLeft = new Float32Array(BLOCK);
  private readonly silentRight = new Float32Array(BLOCK);

  constructor({ processorOptions }: { processorOptions: { memory: WebAssemblyMemory; room: Stretch } }) {
    super();
    this.sound = SoundMemory.within(processorOptions.memory, processorOptions.room);
    this.engine = new Engine(undefined, this.sound);
    this.engine.joining = this.switcher;
    this.port.onmessage = ({ data }: MessageEvent<ToEngine>) => this.take(data);
  }

  private take(message: ToEngine): void {
    switch (message.kind) {
      case 'instrument':
        this.instruments.set(
          message.instrument.id,
          prepareInstrument(message.instrument, new Map(), this.sound),
        );
        this.setTracks(this.setup);
        break;
      case 'audio': {
        const prepared = this.instruments.get(message.instrumentId);
        if (prepared) attachAudio(prepared, message.audio, this.sound);
        break;
      }
      case 'gone':
        this.forget(message.ids);
        this.tell({ kind: 'passed', number: message.number });
        break;
      case 'room':
        this.sound.add(message.room);
        break;
      case 'tracks':
        this.setTracks(message.tracks);
        break;
      case 'hall':
        this.engine.setHall(message.response);
        break;
      case 'hallMix':
        this.engine.setHallMix(message.mix);
        break;
      case 'play':
        this.engine.reset();
        this.engine.setEvents(message.events);
        this.playing = true;
        break;
      case 'feed':
        if (this.playing) this.engine.addEvents(message.events);
        break;
      case 'replan':
        if (!this.playing) break;
        for (const track of message.tracks) this.engine.dropEvents(track, message.frame);
        this.engine.addEvents(message.events);
        break;
      case 'limit':
        this.engine.voiceLimit = message.voices;
        this.engine.prepareVoices(message.voices + FADING_VOICES);
        break;
      case 'stop':
        this.playing = false;
        this.engine.setEvents([]);
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
    }
  }

  private tell(message: FromEngine, moved: Transferable[] = []): void {
    this.port.postMessage(message, moved);
  }

  private forget(ids: readonly string[]): void {
    const gone = ids.map((id) => [id, null] as const);
    for (const prepared of this.instruments.values()) attachAudio(prepared, gone, this.sound);
  }

  private setTracks(tracks: EngineTrackSetup[]): void {
    this.setup = tracks;
    this.engine.ensureTracks(tracks.length);
    tracks.forEach(({ instrumentId, mix }, i) => {
      const track = this.engine.tracks[i];
      const instrument = instrumentId === null ? null : (this.instruments.get(instrumentId) ?? null);
      const fresh = track.instrument !== instrument;
      if (fresh) track.setInstrument(instrument);
      track.setMix(mix, this.engine.rate);
      // A track that has never sounded takes its mix at once instead of gliding from unity.
      if (fresh && !this.playing) track.reset();
    });
    this.meters = tracks.map(({ instrumentId }) => ({
      peak: 0,
      positions: new Array<number>(
        instrumentId === null ? 0 : (this.instruments.get(instrumentId)?.positions.length ?? 0),
      ).fill(0),
    }));
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const output = outputs[0];
    const left = output[0] ?? this.silentLeft;
    const right = output[1] ?? this.silentRight;
    this.played.release(this.clock, this.apply);
    const before = this.timing?.clock[0] ?? 0;
    this.engine.renderMix(left, right);
    if (this.timing) this.timeBlock(before);
    this.clock += BLOCK;
    if (this.capture && (this.playing || this.switcher.isPlaying)) this.captureBlock(left, right);
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

  private report(): void {
    this.sinceReport = 0;
    const { engine } = this;
    this.meters.forEach((meter, i) => {
      const track = engine.tracks[i];
      meter.peak = track.peak;
      track.peak = 0;
      meter.positions.forEach((_, p) => {
        const bus = track.buses[p];
        if (!bus) return;
        meter.positions[p] = bus.peak;
        bus.peak = 0;
      });
    });
    this.tell({
      kind: 'state',
      playing: this.playing,
      frame: engine.frame,
      tracks: this.meters,
      momentary: engine.meter.momentary,
      voices: engine.voiceCount,
      stolen: Math.max(0, engine.stolen - this.stolenBefore),
      givenUp: engine.takeGivenUp(),
      sounding: this.soundingVoices(),
      hearing: this.switcher.isPlaying,
      place: this.switcher.place,
    });
    this.stolenBefore = engine.stolen;
  }

  private soundingVoices(): SoundingVoice[] {
    const voices: SoundingVoice[] = [];
    this.engine.eachVoice(this.setup.length - 1, (key, zone) => {
      const [first] = Object.values(zone.samples);
      voices.push({ key, take: zone.take, takes: zone.takes, sample: first?.sample ?? '' });
    });
    return voices;
  }
}

registerProcessor('farlo-engine', EngineProcessor);
