import type { Articulation, PackInfo, SampleInfo, Zone } from '#core/catalogue/index.ts';
import { encodeFrames, type WavAudio } from '#core/formats/index.ts';
import { conversionErrorDb } from '#core/measure/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import type { Heard } from './measure-zones.ts';
import { sampleId, writePack, type StoredAudio, type WrittenPack } from './pack-writer.ts';
import { resample } from './resample.ts';

interface Kept extends Heard {
  stored: StoredAudio;
  /** Frames kept per frame of the file. */
  ratio: number;
}

/** So many conversions from each rate are turned back to see what they cost. */
const TRIED = 3;
const TRIED_SECONDS = 2;

/** Recordings of one library while it is taken in: each read once, converted, packed once. */
export class SampleStore {
  private readonly kept = new Map<string, Kept>();
  private readonly written: Record<string, SampleInfo> = {};
  private readonly converted = new Map<string, { count: number; from: number }>();
  /** How far conversions turned back are from what they began with, dB, by the rate they came from. */
  private readonly errors = new Map<number, number[]>();
  /** Packs written. */
  readonly packsWritten: WrittenPack[] = [];
  /** Bytes of recordings that were not stored before. */
  bytes = 0;

  /** @param known ids of samples that are stored already, by an earlier import */
  constructor(
    private readonly dataFolder: string,
    private readonly known: ReadonlySet<string>,
  ) {}

  /** Recordings read. */
  get count(): number {
    return this.kept.size;
  }

  get conversions(): { reason: string; count: number }[] {
    return [...this.converted].map(([reason, { count, from }]) => ({
      reason: reason + this.errorOf(from),
      count,
    }));
  }

  get(name: string): Heard | undefined {
    return this.kept.get(name);
  }

  /** Reads a recording under a name, once. @param keepsRate for the sake of a short loop */
  async read(name: string, open: () => Promise<WavAudio>, keepsRate: boolean): Promise<void> {
    if (this.kept.has(name)) return;
    const audio = await open();
    const convert = audio.rate !== ENGINE_RATE && !keepsRate;
    const rate = convert ? ENGINE_RATE : audio.rate;
    const channels = convert
      ? await Promise.all(audio.channels.map((channel) => resample(channel, audio.rate, rate)))
      : audio.channels;
    if (convert) {
      this.tell(`from ${audio.rate.toLocaleString('en')} Hz to ${rate.toLocaleString('en')} Hz`, audio.rate);
      await this.tryBack(audio, channels[0]);
    } else if (audio.rate !== ENGINE_RATE)
      this.tell(`kept at ${audio.rate.toLocaleString('en')} Hz, so that short loops stay in tune`);
    if (audio.format === 'i24' || audio.format === 'i32')
      this.tell(`${audio.format === 'i24' ? 24 : 32} bits kept as 32-bit floats`);
    // 16-bit files stay 16 bits; anything finer is kept as 32-bit floats.
    const format = audio.format === 'i16' ? 'i16' : 'f32';
    const count = channels[0].length;
    const bytes = encodeFrames(channels, format, 0, count);
    const width = channels.length === 1 ? 1 : 2;
    this.kept.set(name, {
      channels,
      rate,
      ratio: rate / audio.rate,
      stored: {
        id: sampleId(bytes, format, width, rate),
        bytes,
        frames: count,
        channels: width,
        rate,
        format,
      },
    });
  }

  /** Moves places in zones along with recordings whose rate was converted. */
  scaleZones(zones: readonly Zone[], nameIn: (sample: string) => string): void {
    for (const zone of zones) {
      const finest = Object.values(zone.samples)
        .map((ref) => this.kept.get(nameIn(ref.sample)))
        .reduce((best, one) => ((one?.rate ?? 0) > (best?.rate ?? 0) ? one : best), undefined);
      if (!finest || finest.ratio === 1) continue;
      const scaled = (frame: number) => Math.round(frame * finest.ratio);
      const last = finest.channels[0].length;
      zone.startFrame = Math.min(last - 1, scaled(zone.startFrame));
      if (zone.endFrame !== undefined) zone.endFrame = Math.min(last, scaled(zone.endFrame));
      if (zone.loop)
        zone.loop = {
          ...zone.loop,
          start: Math.min(last - 1, scaled(zone.loop.start)),
          end: Math.min(last, scaled(zone.loop.end)),
        };
    }
  }

  /**
   * Writes one pack per articulation and position, names samples by id, and leaves out what an earlier pack holds.
   * @returns infos of the samples and packs written now
   */
  pack(
    articulations: readonly Articulation[],
    positions: readonly string[],
    nameIn: (sample: string) => string,
  ): { samples: Record<string, SampleInfo>; packs: Record<string, PackInfo> } {
    const samples: Record<string, SampleInfo> = {};
    const packs: Record<string, PackInfo> = {};
    // The techniques played most are packed first, so that what they share with others lies with them.
    const order = [...articulations].sort((a, b) => Number(a.id !== 'long') - Number(b.id !== 'long'));
    for (const articulation of order)
      for (const position of positions) {
        const audio = new Map<string, StoredAudio>();
        for (const zone of articulation.zones) {
          const ref = zone.samples[position];
          const kept = ref && this.kept.get(nameIn(ref.sample));
          if (!kept) continue;
          const { id } = kept.stored;
          ref.sample = id;
          if (id in this.written) samples[id] = this.written[id];
          else if (!this.known.has(id)) audio.set(id, kept.stored);
        }
        if (audio.size === 0) continue;
        const written = writePack(this.dataFolder, articulation.id, position, [...audio.values()]);
        packs[written.pack.id] = written.pack;
        if (written.written) this.packsWritten.push(written.written);
        for (const sample of written.samples) {
          samples[sample.id] = this.written[sample.id] = sample;
          this.bytes += audio.get(sample.id)?.bytes.length ?? 0;
        }
      }
    return { samples, packs };
  }

  /** @param from the rate it came from, where one was converted */
  private tell(reason: string, from = 0): void {
    this.converted.set(reason, { count: (this.converted.get(reason)?.count ?? 0) + 1, from });
  }

  /** Turns the beginning of a converted recording back, for the first few of each rate. */
  private async tryBack(audio: WavAudio, converted: Float32Array): Promise<void> {
    const known = this.errors.get(audio.rate) ?? [];
    if (known.length >= TRIED) return;
    const back = await resample(converted.subarray(0, TRIED_SECONDS * ENGINE_RATE), ENGINE_RATE, audio.rate);
    // The cut at the end is no part of it.
    const error = conversionErrorDb(
      audio.channels[0],
      back.subarray(0, Math.max(0, back.length - 1024)),
      audio.rate,
      ENGINE_RATE,
    );
    if (error !== undefined) this.errors.set(audio.rate, [...known, error]);
  }

  private errorOf(rate: number): string {
    const known = this.errors.get(rate) ?? [];
    if (known.length === 0) return '';
    const heardTo = Math.round((0.9 * Math.min(rate, ENGINE_RATE)) / 2000);
    const worst = Math.round(Math.max(...known))
      .toString()
      .replace('-', '−');
    return `; ${known.length} of them turned back differ by at most ${worst} dB below ${heardTo} kHz`;
  }
}
