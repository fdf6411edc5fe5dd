import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { FILTER_KINDS } from '../catalogue/index.ts';
import {
  between,
  errorDb,
  filteredByDefinition,
  heardFrame,
  type Recorded,
} from '../testing/by-definition.ts';
import { plainZone, whiteNoise } from '../testing/fixtures.ts';
import { CurveTables } from './curves.ts';
import { FilterPoint } from './filter.ts';
import { Layer } from './layer.ts';
import { ownSoundMemory } from './memory/index.ts';
import type { PreparedZone, SampleAudio } from './prepared.ts';
import { attachAudio, prepareInstrument } from './prepared.ts';
import { instrumentOf } from '../testing/fixtures.ts';
import { BLOCK, FILTER_BYTES, FRAME_BYTES, VoiceRenderer } from './voice-renderer.ts';

const sound = ownSoundMemory();
const room = sound.roomOf(sound);
const renderer = new VoiceRenderer(sound, room);
const output = room((BLOCK + 2) * FRAME_BYTES);
const heard = sound.floats(output, 2 * BLOCK);
const place = { input: output, isHeard: true, power: 1 };

/** A recording of seeded noise in one of the kernel's formats. */
function recording(format: number, frames: number, seed: number): { audio: SampleAudio; recorded: Recorded } {
  const channels = format % 2 === 1 ? 2 : 1;
  const noise = whiteNoise(frames * channels, seed);
  const data = format < 2 ? Int16Array.from(noise, (v) => Math.round(v * 32767)) : noise;
  return {
    audio: { data, channels, frames, rate: 48_000 },
    recorded: { data, channels, frames, full: format < 2 ? 32_768 : 1 },
  };
}

function preparedZone(audio: SampleAudio, loop?: { start: number; end: number }): PreparedZone {
  const zone = plainZone({ samples: { mix: { sample: 'a' } }, ...(loop ? { loop } : {}) });
  const prepared = prepareInstrument(
    instrumentOf([{ id: 'long', name: 'long', zones: [zone] }], new Map()),
    new Map(),
  );
  attachAudio(prepared, [['a', audio]]);
  return prepared.articulations[0].attack[69][0];
}

interface Run {
  format: number;
  frames: number;
  seed: number;
  octaves: number;
  glide: number;
  phase: number;
  inLoop: boolean;
  loop: { start: number; length: number } | null;
  left: [number, number];
  right: [number, number];
  count: number;
}

/** Two ends of a gain, or of anything that goes straight over a run. */
const ends = fc.tuple(fc.float({ min: 0, max: 2, noNaN: true }), fc.float({ min: 0, max: 2, noNaN: true }));
const run: fc.Arbitrary<Run> = fc.record({
  format: fc.integer({ min: 0, max: 3 }),
  frames: fc.integer({ min: 1, max: 6000 }),
  seed: fc.integer({ min: 1, max: 1e6 }),
  octaves: fc.oneof(fc.constant(0), fc.double({ min: -6, max: 6, noNaN: true })),
  glide: fc.oneof(fc.constant(0), fc.double({ min: -0.2, max: 0.2, noNaN: true })),
  phase: fc.oneof(fc.integer({ min: 0, max: 5999 }), fc.double({ min: 0, max: 5999, noNaN: true })),
  inLoop: fc.boolean(),
  loop: fc.option(
    fc.record({ start: fc.integer({ min: 0, max: 5000 }), length: fc.integer({ min: 1, max: 3000 }) }),
  ),
  left: ends,
  right: ends,
  count: fc.integer({ min: 1, max: BLOCK }),
});

/** A layer set up for a run. */
function layerOf(one: Run, zone: PreparedZone): Layer {
  const layer = new Layer();
  layer.begin(zone);
  layer.phase = one.phase % Math.max(1, one.frames);
  layer.inLoop = one.inLoop && zone.loop !== null;
  layer.ratio = Math.min(64, 2 ** one.octaves);
  // What glides does so over a block; a run is a part of one.
  const share = one.count / BLOCK;
  layer.ratioAfter = Math.min(64, layer.ratio * (1 + one.glide * share));
  const glided = ([from, to]: readonly [number, number]) => from + (to - from) * share;
  layer.left = one.left[0];
  layer.leftAfter = glided(one.left);
  layer.right = one.right[0];
  layer.rightAfter = glided(one.right);
  return layer;
}

/** What a layer is to give in a run, frame by frame: each frame of the recording is scaled by the gain there is when it passes. */
function byDefinition(layer: Layer, recorded: Recorded, count: number): [Float64Array, Float64Array] {
  const { phase, ratio, ratioAfter } = layer;
  const { loop } = layer.zone;
  const { scale } = CurveTables.in(sound).readingFor(Math.max(ratio, ratioAfter));
  // At its own pitch and rate, frame by frame, nothing is between.
  const plain = ratio === 1 && ratioAfter === 1 && Number.isInteger(phase);
  const channels = ([0, 1] as const).map((channel) => {
    const [from, to] = channel === 0 ? [layer.left, layer.leftAfter] : [layer.right, layer.rightAfter];
    const frameAt = (frame: number) => {
      const passes = (2 * (frame - phase)) / (ratio + ratioAfter);
      const gain = from + ((to - from) * (passes + 1)) / count;
      return gain * heardFrame(recorded, frame, channel, loop, layer.inLoop);
    };
    return Float64Array.from({ length: count }, (_, i) => {
      const at = phase + i * (ratio + ((ratioAfter - ratio) * i) / (2 * count));
      return plain ? frameAt(at) : between(frameAt, at, scale);
    });
  });
  return [channels[0], channels[1]];
}

/** Renders layers at one position. */
function made(layers: Layer[], count: number): [Float32Array, Float32Array] {
  heard.fill(0);
  renderer.render(layers, layers.length, [place], false, 0, count, 1, 1, null);
  return [0, 1].map((c) => Float32Array.from({ length: count }, (_, i) => heard[2 * i + c])) as [
    Float32Array,
    Float32Array,
  ];
}

const loopFor = ({ loop, frames }: Run) =>
  loop && loop.start + 1 < frames
    ? { start: loop.start, end: Math.min(frames, loop.start + loop.length) }
    : undefined;

describe('reading a recording', () => {
  it('is what its definition says: every format, pitch, loop and edge', () => {
    fc.assert(
      fc.property(run, (one) => {
        const { audio, recorded } = recording(one.format, one.frames, one.seed);
        const layer = layerOf(one, preparedZone(audio, loopFor(one)));
        const right = byDefinition(layer, recorded, one.count);
        const got = made([layer], one.count);
        for (const c of [0, 1]) expect(errorDb(got[c], right[c])).toBeLessThan(-120);
      }),
      { numRuns: 300, seed: 12 },
    );
  });
});

describe('layers that keep pace', () => {
  it('give the sum of each alone, read together or apart', () => {
    fc.assert(
      fc.property(fc.array(run, { minLength: 2, maxLength: 5 }), fc.boolean(), (list, together) => {
        const { count } = list[0];
        const layers = list.map((one) => {
          const { audio } = recording(one.format, one.frames, one.seed);
          // The same place and pace for all, or for none.
          const shared = together
            ? { octaves: list[0].octaves, glide: list[0].glide, phase: list[0].phase }
            : {};
          return layerOf({ ...one, ...shared, frames: one.frames, count }, preparedZone(audio, loopFor(one)));
        });
        if (together) for (const layer of layers) layer.phase = layers[0].phase;
        const alone = layers.map((layer) => made([layer], count));
        const all = made(layers, count);
        for (const c of [0, 1]) {
          const sum = Float64Array.from({ length: count }, (_, i) =>
            alone.reduce((s, one) => s + one[c][i], 0),
          );
          expect(errorDb(all[c], sum)).toBeLessThan(-120);
        }
      }),
      { numRuns: 150, seed: 5 },
    );
  });
});

/** Layers at one pace, each recorded from up to eight positions, some of which nobody hears. */
const swept = fc.record({
  run,
  layers: fc.integer({ min: 1, max: 3 }),
  heard: fc.array(fc.boolean(), { minLength: 1, maxLength: 8 }),
  octaves: fc.double({ min: -3, max: 2, noNaN: true }),
  cutoffHz: fc.option(fc.double({ min: 40, max: 16_000, noNaN: true })),
  from: fc.double({ min: 0, max: 1, noNaN: true }),
  to: fc.double({ min: 0, max: 1, noNaN: true }),
  at: fc.integer({ min: 0, max: BLOCK - 1 }),
});

describe('positions that keep pace', () => {
  it('are read, filtered and added as each alone by its definition', () => {
    const buses = Array.from({ length: 8 }, () => room((BLOCK + 2) * FRAME_BYTES));
    fc.assert(
      fc.property(swept, ({ run: one, layers: count, heard: which, octaves, cutoffHz, from, to, at }) => {
        const frames = Math.min(one.count, BLOCK - at);
        const ids = which.map((_, p) => `p${p}`);
        const recordings = Array.from({ length: count }, (_, l) =>
          which.map((_v, p) => recording((one.format + l) % 4, one.frames, one.seed + 10 * l + p)),
        );
        const layers = recordings.map((list) => {
          const zone = plainZone({
            samples: Object.fromEntries(ids.map((id) => [id, { sample: id }])),
            ...(loopFor(one) ? { loop: loopFor(one) } : {}),
          });
          const ready = prepareInstrument(
            instrumentOf([{ id: 'long', name: 'long', zones: [zone] }], new Map(), ids),
            new Map(),
          );
          attachAudio(
            ready,
            list.map(({ audio }, p) => [ids[p], audio] as const),
          );
          return layerOf({ ...one, octaves, count: frames }, ready.articulations[0].attack[69][0]);
        });
        const positions = which.map((isHeard, p) => ({ input: buses[p], isHeard, power: p + 1 }));
        for (const bus of buses) sound.floats(bus, 2 * BLOCK).fill(0.25);
        const state = room(FILTER_BYTES);
        const point = cutoffHz === null ? null : pointAt(cutoffHz, 0);
        const filter = point && { kind: 'lowpass2' as const, before: point, after: point, state };
        const power = renderer.render(layers, count, positions, false, at, frames, from, to, filter);
        let expectedPower = 0;
        which.forEach((isHeard, p) => {
          const got = sound.floats(buses[p], 2 * BLOCK);
          const right = [0, 1].map((c) => {
            let wave = new Float64Array(frames);
            layers.forEach((layer, l) => {
              const own = byDefinition(layer, recordings[l][p].recorded, frames)[c];
              wave = wave.map((value, i) => value + own[i]);
            });
            if (cutoffHz !== null) {
              const g = Math.tan((Math.PI * cutoffHz) / 48_000);
              wave = Float64Array.from(
                filteredByDefinition('lowpass2', Float32Array.from(wave), () => ({ g, k: Math.SQRT2 })),
              );
            }
            return wave.map((value, i) => value * (from + ((to - from) * (i + 1)) / frames));
          });
          for (let i = 0; i < BLOCK; i++)
            for (const c of [0, 1]) {
              const added = isHeard && i >= at && i < at + frames ? right[c][i - at] : 0;
              expect(Math.abs(got[2 * i + c] - 0.25 - added)).toBeLessThan(4e-6);
              if (isHeard) expectedPower += (p + 1) * added ** 2;
            }
        });
        expect(power).toBeCloseTo(expectedPower, 2);
      }),
      { numRuns: 150, seed: 8 },
    );
  });
  it('go on filtering what they remember, whichever positions were heard before', () => {
    // Two of three positions from the start, the third later: the filters of the first two do not notice.
    const runs = [128, 128, 128];
    const play = (second: boolean[]) => {
      const buses = [0, 1, 2].map(() => room((BLOCK + 2) * FRAME_BYTES));
      const audio = [1, 2, 3].map((seed) => recording(3, 2000, seed).audio);
      const zone = plainZone({
        samples: Object.fromEntries(audio.map((_, p) => [`p${p}`, { sample: `p${p}` }])),
      });
      const ready = prepareInstrument(
        instrumentOf([{ id: 'long', name: 'long', zones: [zone] }], new Map(), ['p0', 'p1', 'p2']),
        new Map(),
      );
      attachAudio(
        ready,
        audio.map((one, p) => [`p${p}`, one] as const),
      );
      const layer = new Layer();
      layer.begin(ready.articulations[0].attack[69][0]);
      layer.left = layer.right = layer.leftAfter = layer.rightAfter = 1;
      layer.ratio = layer.ratioAfter = 0.9;
      const point = pointAt(200, 12);
      const filter = { kind: 'lowpass2' as const, before: point, after: point, state: room(FILTER_BYTES) };
      return runs.flatMap((frames, n) => {
        for (const bus of buses) sound.floats(bus, 2 * BLOCK).fill(0);
        const positions = buses.map((input, p) => ({ input, isHeard: p !== 1 || second[n], power: 1 }));
        renderer.render([layer], 1, positions, false, 0, frames, 1, 1, filter);
        layer.phase += frames * 0.9;
        return [...sound.floats(buses[0], 2 * BLOCK), ...sound.floats(buses[2], 2 * BLOCK)];
      });
    };
    const alone = play([false, false, false]);
    expect(Math.max(...alone.map(Math.abs))).toBeGreaterThan(0.05);
    expect(errorDb(Float32Array.from(play([false, true, true])), Float64Array.from(alone))).toBeLessThan(
      -120,
    );
  });
});

/** Noise at one position of a voice, filtered over runs of the given lengths. */
function filtered(
  kind: (typeof FILTER_KINDS)[number],
  noise: Float32Array,
  points: FilterPoint[],
  runs: number[],
): Float32Array {
  const zone = preparedZone({ data: noise, channels: 1, frames: noise.length, rate: 48_000 });
  const layer = new Layer();
  layer.begin(zone);
  layer.left = layer.right = layer.leftAfter = layer.rightAfter = 1;
  const state = room(FILTER_BYTES);
  const out: number[] = [];
  runs.forEach((count, i) => {
    heard.fill(0);
    const filter = { kind, before: points[i], after: points[i + 1], state };
    renderer.render([layer], 1, [place], false, 0, count, 1, 1, filter);
    for (let k = 0; k < count; k++) out.push(heard[2 * k]);
    layer.phase += count;
  });
  return Float32Array.from(out);
}

const pointAt = (cutoffHz: number, resonanceDb: number) => {
  const point = new FilterPoint();
  point.set(cutoffHz, resonanceDb, 48_000);
  return point;
};

describe('filters', () => {
  it.each(FILTER_KINDS)('%s: as theory says, whatever the cutoff, resonance and lengths of runs', (kind) => {
    const runs = [128, 1, 17, 128, 128, 63, 128];
    const noise = whiteNoise(593, 3);
    for (const cutoffHz of [30, 120, 700, 4000, 15_000])
      for (const resonanceDb of kind.endsWith('1') ? [0] : [0, 12, 30]) {
        const point = pointAt(cutoffHz, resonanceDb);
        const g = Math.tan((Math.PI * cutoffHz) / 48_000);
        const k = Math.SQRT2 / 10 ** (resonanceDb / 20);
        const right = filteredByDefinition(kind, noise, () => ({ g, k }));
        const got = filtered(
          kind,
          noise,
          Array.from({ length: 8 }, () => point),
          runs,
        );
        const most = right.reduce((peak, v) => Math.max(peak, Math.abs(v)), 1);
        expect(errorDb(got, right) - 20 * Math.log10(most), `${cutoffHz} Hz ${resonanceDb} dB`).toBeLessThan(
          -118,
        );
      }
  });
  it('glide from one setting to another: between both all the way, and without a step', () => {
    const noise = Float32Array.from({ length: 512 }, (_, i) => Math.sin((2 * Math.PI * 3000 * i) / 48_000));
    const [dark, bright] = [pointAt(300, 0), pointAt(12_000, 0)];
    const got = filtered('lowpass2', noise, [dark, dark, dark, bright, bright], [128, 128, 128, 128]);
    const peak = (from: number) => Math.max(...got.subarray(from, from + 32).map(Math.abs));
    expect(peak(200)).toBeLessThan(0.03);
    expect(peak(480)).toBeGreaterThan(0.9);
    const rises = [256, 288, 320, 352].map(peak);
    for (let i = 1; i < rises.length; i++) expect(rises[i]).toBeGreaterThan(rises[i - 1]);
    expect(rises[0]).toBeLessThan(0.6);
  });
});
