import type { FilterKind } from '../catalogue/index.ts';
import { TAPS_BEFORE } from '../dsp/index.ts';
import { CurveTables, mostTaps, type Reading } from './curves.ts';
import { filterPair, lowPassFour, type FilterPoint } from './filter.ts';
import { kernelIn, type Kernel } from './kernel/index.ts';
import { HIGHEST_RATIO, MAX_LAYERS, type Layer } from './layer.ts';
import type { SoundMemory } from './memory/index.ts';
import { FORMAT_SCALE, type Source } from './prepared.ts';

/** Microphone positions one voice can sound from. */
export const MAX_POSITIONS = 8;
/** Longest run of frames rendered at once. */
export const BLOCK = 128;
/** Bytes of a stereo frame of 32-bit floats. */
export const FRAME_BYTES = 8;
/** Bytes that the filters of one voice remember. */
export const FILTER_BYTES = (MAX_POSITIONS / 2) * 32;

/** A position that is swept with others is laid out within so many bytes: a run at a ratio of up to two octaves. */
const LAID_BYTES = (BLOCK * 5 + 64) * FRAME_BYTES;
const SWEPT_RATIO = 4;
/** Positions of one sweep, and the words and floats it is told and tells. */
const SWEPT = 4;

/** Most taps of all frames that are planned at once. */
const TAP_ROOM = BLOCK * 26;
const LEAST_RATIO = 1e-6;

/** The filter of a voice in a run: from one setting to another. */
export interface VoiceFilter {
  kind: FilterKind;
  before: FilterPoint;
  after: FilterPoint;
  /** Address of the `FILTER_BYTES` that it remembers. */
  state: number;
}

/** No layer leads: nothing is heard, or not all of it at one pace. */
const NONE = -1;
const APART = -2;

/** Whether a position is heard, and where its sound is added. */
export interface PositionPlace {
  readonly input: number;
  readonly isHeard: boolean;
  /** Power with which it is heard, for telling how much of a voice is. */
  readonly power: number;
}

/**
 * What voices share for being rendered: tables and scratch in the sound's memory. One voice at a time: its layers are laid out and
 * read position by position into `mix`, filtered there, and added to the positions' buses.
 */
export class VoiceRenderer {
  private readonly kernel: Kernel;
  private readonly tables: CurveTables;
  private readonly places: number;
  private readonly weights: number;
  private readonly laid: number;
  private readonly mixes: number[] = [];
  /** What a sweep is told of its positions, and the powers it tells. */
  private readonly slotsAt: number;
  private readonly slots: Int32Array;
  private readonly powersAt: number;
  private readonly powers: Float32Array;
  /** Silence to be read, and places for what nobody hears, where a sweep has fewer positions. */
  private readonly silence: number;
  private readonly nowhere: number;
  /** Positions of the run that are heard. */
  private readonly heard = new Int32Array(MAX_POSITIONS);
  private heardCount = 0;
  /** Bits of the positions that hold something in `mixes`. */
  private touched = 0;
  /** Bits of the positions of each layer that are mixed already. */
  private readonly done = new Int32Array(MAX_LAYERS);
  // The run that is mixed.
  private layers: readonly Layer[] = [];
  private count = 0;
  private ending = false;
  private frames = 0;
  // The position and the pace that are mixed: frames of the recording, and how many pass per frame of the run.
  private lead = 0;
  private position = 0;
  private begin = 0;
  private ratio = 1;
  private factor = 1;
  private growth = 0;
  private mean = 1;
  private reading: Readonly<Reading>;
  // What is planned at present.
  private plannedPlace = -1;
  private plannedRatio = -1;
  private plannedGrowth = -1;
  private plannedCount = -1;

  /** @param room gives places filled with zeros */
  constructor(sound: SoundMemory, room: (bytes: number) => number) {
    this.kernel = kernelIn(sound.memory);
    this.tables = CurveTables.in(sound);
    this.reading = this.tables.readingFor(1);
    this.places = room((BLOCK + 2) * 4);
    this.weights = room((TAP_ROOM + 2 * mostTaps(HIGHEST_RATIO)) * FRAME_BYTES);
    this.laid = room((BLOCK * HIGHEST_RATIO + 2 * mostTaps(HIGHEST_RATIO)) * FRAME_BYTES);
    this.silence = room(LAID_BYTES);
    this.nowhere = room((BLOCK + 2) * FRAME_BYTES + 64);
    this.slotsAt = room(SWEPT * 12);
    this.slots = new Int32Array(sound.memory.buffer, this.slotsAt, SWEPT * 3);
    this.powersAt = room(SWEPT * 8);
    this.powers = sound.floats(this.powersAt, SWEPT * 2);
    for (let p = 0; p < MAX_POSITIONS; p++) this.mixes.push(room((BLOCK + 2) * FRAME_BYTES));
  }

  /**
   * Renders a run of a voice: its layers, filtered, added to the positions' buses.
   * @param layers the first `count` of them; @param ending whether loops that end with the key are over
   * @param at frame of the block at which the run begins, `frames` long; @param from, to level before and after it
   * @param filter null for none
   * @returns power heard of it
   */
  render(
    layers: readonly Layer[],
    count: number,
    positions: readonly PositionPlace[],
    ending: boolean,
    at: number,
    frames: number,
    from: number,
    to: number,
    filter: VoiceFilter | null,
  ): number {
    this.layers = layers;
    this.count = count;
    this.ending = ending;
    this.frames = frames;
    if (filter === null || filter.kind === 'lowpass2') {
      const lead = this.leadOf(positions);
      if (lead === NONE) return 0;
      if (lead !== APART) return this.sweep(lead, positions, at, from, to, filter);
    }
    this.mix(positions);
    if (filter) this.filter(filter, positions.length, frames);
    return this.add(positions, from, to, at, frames);
  }

  /**
   * The layer by which all others are read, where all that is heard keeps one pace: `NONE` where nothing is, `APART` where it does not,
   * or lies between no frames, or goes too fast.
   */
  private leadOf(positions: readonly PositionPlace[]): number {
    const { layers, count, heard } = this;
    let lead = NONE;
    let factor = 0;
    let some = 0;
    for (let s = 0; s < count; s++) {
      const layer = layers[s];
      if (layer.isOver) continue;
      const { sources, factors } = layer.zone;
      const keeps = lead === NONE || sharePace(layers[lead], layer);
      for (let p = 0; p < positions.length; p++) {
        if (!sources[p] || !positions[p].isHeard) continue;
        if (lead === NONE) {
          lead = s;
          factor = factors[p];
        }
        if (factors[p] !== factor || !keeps) return APART;
        some |= 1 << p;
      }
    }
    if (lead === NONE) return NONE;
    const layer = layers[lead];
    const [ratio, after] = [layer.ratio * factor, layer.ratioAfter * factor];
    const plain = ratio === 1 && after === 1 && Number.isInteger(layer.phase * factor);
    if (plain || Math.max(ratio, after) > SWEPT_RATIO) return APART;
    this.reading = this.tables.readingFor(Math.max(ratio, after));
    if (this.reading.scale !== 1 && this.reading.table === 0) return APART;
    this.ratio = ratio;
    this.growth = (after - ratio) / this.frames;
    this.mean = Math.max(LEAST_RATIO, (ratio + after) / 2);
    this.begin = layer.phase * factor;
    this.factor = factor;
    let found = 0;
    for (let p = 0; p < positions.length; p++) if ((some & (1 << p)) !== 0) heard[found++] = p;
    this.heardCount = found;
    return lead;
  }

  /** Reads all positions by one layer's pace, filters them and adds them. */
  private sweep(
    lead: number,
    positions: readonly PositionPlace[],
    at: number,
    from: number,
    to: number,
    filter: VoiceFilter | null,
  ): number {
    const { kernel, heard, heardCount, slots, frames, growth, ratio, tables, powers } = this;
    const { taps, scale, table } = this.reading;
    this.lead = lead;
    const before = scale === 1 ? TAPS_BEFORE : taps / 2 - 1;
    const reach = Math.ceil(frames * (ratio + (growth * frames) / 2)) + taps + 2;
    const first = Math.floor(this.begin);
    const step = (to - from) / frames;
    const rows = scale === 1 ? tables.plain : table;
    const wide = scale !== 1;
    let power = 0;
    for (let next = 0; next < heardCount; next += SWEPT) {
      const some = Math.min(SWEPT, heardCount - next);
      this.layOutSome(next, some, first - before, reach);
      for (let k = 0; k < SWEPT; k++) {
        const used = k < some;
        const p = used ? heard[next + k] : 0;
        const laid = this.laid + k * LAID_BYTES;
        slots[k] = used ? laid : this.silence;
        slots[SWEPT + k] = used ? positions[p].input + at * FRAME_BYTES : this.nowhere;
        slots[2 * SWEPT + k] = used && filter ? filter.state + (p >> 1) * 32 + (p & 1) * 8 : this.nowhere;
      }
      const sweep =
        some > 2
          ? wide
            ? kernel.sweepFourWide
            : kernel.sweepFour
          : wide
            ? kernel.sweepTwoWide
            : kernel.sweepTwo;
      sweep(
        this.slotsAt,
        this.begin - first,
        ratio,
        growth / 2,
        frames,
        rows,
        taps,
        this.weights,
        from,
        step,
        filter ? 1 : 0,
        filter ? filter.before.less : 0,
        filter ? filter.before.a2 : 0,
        filter ? filter.before.a3 : 0,
        filter ? (filter.after.less - filter.before.less) / frames : 0,
        filter ? (filter.after.a2 - filter.before.a2) / frames : 0,
        filter ? (filter.after.a3 - filter.before.a3) / frames : 0,
        this.powersAt,
      );
      for (let k = 0; k < some; k++)
        power += positions[heard[next + k]].power * (powers[2 * k] + powers[2 * k + 1]);
    }
    return power;
  }

  /** Mixes all layers of a voice, position by position. */
  private mix(positions: readonly PositionPlace[]): void {
    const { layers, count } = this;
    this.touched = 0;
    this.plannedCount = -1;
    for (let s = 0; s < count; s++) this.done[s] = 0;
    for (let s = 0; s < count; s++) {
      if (layers[s].isOver) continue;
      for (let p = 0; p < positions.length; p++)
        if ((this.done[s] & (1 << p)) === 0 && positions[p].isHeard && layers[s].zone.sources[p])
          this.mixTogether(s, p);
    }
  }

  /** Mixes one position of a layer and of all later ones that keep pace with it: they are added first and read once. */
  private mixTogether(lead: number, p: number): void {
    const { frames } = this;
    const layer = this.layers[lead];
    const factor = layer.zone.factors[p];
    const after = layer.ratioAfter * factor;
    this.lead = lead;
    this.position = p;
    this.begin = layer.phase * factor;
    this.ratio = layer.ratio * factor;
    this.growth = (after - this.ratio) / frames;
    this.mean = Math.max(LEAST_RATIO, (this.ratio + after) / 2);
    if (this.ratio === 1 && after === 1 && Number.isInteger(this.begin)) {
      // At its own pitch and rate nothing lies between frames.
      this.layOut(this.begin, frames, this.mixes[p], (this.touched >> p) & 1);
    } else {
      this.reading = this.tables.readingFor(Math.max(this.ratio, after));
      const chunk = Math.max(2, Math.floor(TAP_ROOM / this.reading.taps));
      for (let at = 0; at < frames; at += chunk) this.read(at, Math.min(chunk, frames - at));
    }
    this.touched |= 1 << p;
    for (let s = lead; s < this.count; s++) if (keepPace(layer, this.layers[s], p)) this.done[s] |= 1 << p;
  }

  /** Reads frames [at, at + length) of the run between the frames of the recording. */
  private read(at: number, length: number): void {
    const { kernel, growth } = this;
    const { taps, scale } = this.reading;
    const place = this.begin + at * (this.ratio + (growth * at) / 2);
    const ratio = this.ratio + growth * at;
    this.plan(place, ratio, length);
    const before = scale === 1 ? TAPS_BEFORE : taps / 2 - 1;
    const reach = Math.ceil(length * (ratio + (growth * length) / 2)) + taps + 2;
    this.layOut(Math.floor(place) - before, reach, this.laid, 0);
    const out = this.mixes[this.position] + at * FRAME_BYTES;
    const add = (this.touched >> this.position) & 1;
    if (scale === 1) kernel.interpolate(this.laid, this.places, this.weights, out, length, add);
    else kernel.interpolateWide(this.laid, this.places, this.weights, taps, out, length, add);
  }

  /** Works out places and weights, unless those of the position before are the same. */
  private plan(place: number, ratio: number, length: number): void {
    const { kernel, growth, tables, places, weights } = this;
    if (
      this.plannedPlace === place &&
      this.plannedRatio === ratio &&
      this.plannedGrowth === growth &&
      this.plannedCount === length
    )
      return;
    this.plannedPlace = place;
    this.plannedRatio = ratio;
    this.plannedGrowth = growth;
    this.plannedCount = length;
    const { table, taps, scale } = this.reading;
    const base = place - Math.floor(place);
    // One more than is read: frames are read in pairs.
    const count = length + 1;
    if (scale === 1) kernel.plan(base, ratio, growth / 2, count, tables.plain, places, weights);
    else if (table !== 0) kernel.planRows(base, ratio, growth / 2, count, table, taps, places, weights);
    else kernel.planWide(base, ratio, growth / 2, count, scale, taps, tables.curve, places, weights);
  }

  /** Lays out the positions of a sweep, each of all layers. */
  private layOutSome(next: number, some: number, first: number, reach: number): void {
    const { layers, heard, factor } = this;
    let begun = 0;
    for (let s = this.lead; s < this.count; s++) {
      const layer = layers[s];
      if (layer.isOver) continue;
      const { sources } = layer.zone;
      for (let k = 0; k < some; k++) {
        const source = sources[heard[next + k]];
        if (!source) continue;
        this.layOutLayer(layer, source, factor, first, reach, this.laid + k * LAID_BYTES, (begun >> k) & 1);
        begun |= 1 << k;
      }
    }
  }

  /**
   * Lays out `reach` frames of the recording from `first` on, of all layers that keep pace.
   * @param add whether `out` is added to
   */
  private layOut(first: number, reach: number, out: number, add: number): void {
    const { layers, position } = this;
    const lead = layers[this.lead];
    let added = add;
    for (let s = this.lead; s < this.count; s++) {
      const layer = layers[s];
      const source = layer.zone.sources[position];
      if (!source || layer.isOver || !keepPace(lead, layer, position)) continue;
      this.layOutLayer(layer, source, layer.zone.factors[position], first, reach, out, added);
      added = 1;
    }
  }

  /** Lays out one layer, scaled by the gain it has when each frame passes. */
  private layOutLayer(
    layer: Layer,
    source: Source,
    factor: number,
    first: number,
    reach: number,
    out: number,
    add: number,
  ): void {
    const { mean, frames } = this;
    // The frame of the run at which the first passes; gains are meant for the end of each.
    const passes = 1 + (first - this.begin) / mean;
    const scale = FORMAT_SCALE[source.format];
    const left = ((layer.leftAfter - layer.left) / frames) * scale;
    const right = ((layer.rightAfter - layer.right) / frames) * scale;
    const end = Math.min(source.frames, Math.round(layer.zone.lengthFrames * factor));
    const loop = layer.loopNow(this.ending);
    this.kernel.gather(
      out,
      source.address,
      source.format,
      first,
      reach,
      end,
      loop ? Math.round(loop.start * factor) : 0,
      loop ? Math.min(Math.round(loop.end * factor), end) : 0,
      layer.inLoop ? 1 : 0,
      layer.left * scale + passes * left,
      layer.right * scale + passes * right,
      left / mean,
      right / mean,
      add,
    );
  }

  /** Forgets what the filters of a voice remember. */
  clearFilter(state: number): void {
    this.kernel.clear(state, FILTER_BYTES);
  }

  /** Filters what was mixed, from one setting to another over the run. */
  private filter({ kind, before, after, state }: VoiceFilter, positions: number, frames: number): void {
    const { kernel, mixes, touched } = this;
    for (let p = 0; p < positions; p += 2) {
      const pair = (touched >> p) & 3;
      if (pair === 0) continue;
      const next = (touched >> (p + 2)) & 3;
      const four = kind === 'lowpass2' && next !== 0;
      // What holds nothing is filtered as silence, so that its filter rings out.
      for (let k = p; k < p + (four ? 4 : 2); k++)
        if (((touched >> k) & 1) === 0) kernel.clear(mixes[k], frames * FRAME_BYTES);
      const at = state + p * 16;
      if (four) {
        lowPassFour(kernel, mixes[p], mixes[p + 1], mixes[p + 2], mixes[p + 3], at, before, after, frames);
        p += 2;
      } else filterPair(kernel, kind, mixes[p], mixes[p + 1], at, before, after, frames);
    }
  }

  /** Adds what was mixed to the positions' buses, from one level to another over the run. */
  private add(
    positions: readonly PositionPlace[],
    from: number,
    to: number,
    at: number,
    frames: number,
  ): number {
    let power = 0;
    const step = (to - from) / frames;
    for (let p = 0; p < positions.length; p++) {
      if (((this.touched >> p) & 1) === 0) continue;
      const place = positions[p];
      power +=
        place.power *
        this.kernel.addRamped(this.mixes[p], place.input + at * FRAME_BYTES, from, step, frames);
    }
    return power;
  }
}

/** Whether two layers read the same places at the same pace at a position. */
function keepPace(a: Layer, b: Layer, p: number): boolean {
  return a === b || (sharePace(a, b) && a.zone.factors[p] === b.zone.factors[p]);
}

/** Whether two layers are at the same place of their zones and go on alike. */
function sharePace(a: Layer, b: Layer): boolean {
  return a.phase === b.phase && a.ratio === b.ratio && a.ratioAfter === b.ratioAfter;
}
