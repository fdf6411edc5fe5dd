import { describe, expect, it } from 'vitest';
import { LoudnessMeter } from '../dsp/index.ts';
import { Switcher } from '../engine/index.ts';
import { THIRD_OCTAVES } from '../measure/index.ts';
import { eqResponseDb } from '../mixing/index.ts';
import { CONTROLLER, type Part } from '../music/index.ts';
import { onsetSeconds } from '../measure/index.ts';
import { mixOf, sineInstrument } from '../testing/fixtures.ts';
import { TICKS_PER_QUARTER } from '../units/index.ts';
import {
  articulationFor,
  articulationWalk,
  binomialTail,
  cutPhrase,
  distanceLevels,
  figuresOfPassage,
  intoRange,
  matchLoudness,
  mixOfLevels,
  phraseText,
  PHRASES,
  playedPhrase,
  positionWalk,
  PRE_ROLL_SECONDS,
  readPhrase,
  renderPhrase,
  sharedRange,
  shuffledOrder,
  tallyOf,
  toneDifference,
  weightedScore,
  writeHearing,
  writePhrase,
} from './index.ts';

const RATE = 48_000;
const tone = (hz: number, seconds: number, level = 0.3) =>
  Float32Array.from({ length: seconds * RATE }, (_, i) => level * Math.sin((2 * Math.PI * hz * i) / RATE));
const lufsOf = (left: Float32Array, right = left) => {
  const meter = new LoudnessMeter(RATE, true);
  meter.process(left, right, 0, left.length);
  return { lufs: meter.integrated, truePeakDb: meter.truePeakDb };
};

describe('phrases', () => {
  it.each(PHRASES.map(({ id }) => id))('“%s” stays within any range and ends after its last note', (id) => {
    for (const range of [
      { low: 28, high: 60 },
      { low: 67, high: 74 },
      { low: 60, high: 60 },
      { low: 0, high: 127 },
    ])
      for (const bpm of [40, 108, 208]) {
        const { part, endTick } = writePhrase(id, range, bpm);
        expect(part.notes.length).toBeGreaterThan(0);
        for (const note of part.notes) {
          expect(note.key).toBeGreaterThanOrEqual(range.low);
          expect(note.key).toBeLessThanOrEqual(range.high);
          expect(note.endTick).toBeGreaterThan(note.startTick);
          expect(note.endTick).toBeLessThanOrEqual(endTick);
        }
        for (const point of part.points) expect(point.value).toBeLessThanOrEqual(127);
      }
  });
  it('are what their names promise', () => {
    const range = { low: 55, high: 91 };
    const takes = writePhrase('takes', range, 108).part.notes;
    expect(takes).toHaveLength(16);
    expect(new Set(takes.map((note) => note.key)).size).toBe(1);
    const even = writePhrase('even', range, 108).part.notes.slice(0, 24);
    const gaps = even.slice(1).map((note, i) => note.startTick - even[i].startTick);
    expect(new Set(gaps)).toEqual(new Set([TICKS_PER_QUARTER / 4]));
    const rise = writePhrase('rise', range, 108).part.points.filter(
      (p) => p.controller === CONTROLLER.dynamics,
    );
    expect(rise.map((point) => point.value)).toEqual([2, 127, 2]);
    const walk = writePhrase('walk', range, 108).part.notes.map((note) => note.key);
    expect([walk[0], walk[walk.length - 1]]).toEqual([55, 91]);
    const wide = writePhrase('melody wide', range, 108).part.notes.map((note) => note.key);
    expect(Math.max(...wide.slice(1).map((key, i) => Math.abs(key - wide[i])))).toBe(12);
  });
  it('find the technique that suits them, and the range that all share', () => {
    const { instrument } = sineInstrument();
    expect(articulationFor(instrument, 'short')?.id).toBe('staccato');
    expect(articulationFor(instrument, 'connected')?.id).toBe('connected');
    expect(articulationFor(instrument, 'short', 'long')?.id).toBe('long');
    expect(articulationFor(instrument, 'short', 'none such')).toBeUndefined();
    const one = (low: number, high: number) => ({
      ...instrument.articulations[1],
      zones: instrument.articulations[1].zones.map((zone) => ({ ...zone, keyLow: low, keyHigh: high })),
    });
    expect(sharedRange([one(40, 80), one(60, 100)])).toEqual({ low: 60, high: 80 });
    expect(sharedRange([one(40, 60), one(58, 100)])).toBeUndefined();
  });
});

describe('phrases of one’s own', () => {
  const part: Part = {
    notes: [0, 960, 1920, 2880].map((startTick, i) => ({
      id: `n${i}`,
      startTick,
      endTick: startTick + 1500,
      key: 60 + i,
      velocity: 80,
    })),
    marks: [{ id: 'm', startTick: 0, endTick: 2000, articulation: 'staccato' }],
    points: [{ id: 'p', controller: 1, tick: 0, value: 50 }],
  };
  it('are cut from a part with what holds where they begin, and survive being kept', () => {
    const cut = cutPhrase(part, 960, 2880);
    expect(cut.part.notes.map(({ startTick, endTick, key }) => [startTick, endTick, key])).toEqual([
      [0, 1500, 61],
      [960, 1920, 62],
    ]);
    expect(cut.part.marks.map(({ startTick, endTick }) => [startTick, endTick])).toEqual([[0, 1040]]);
    expect(cut.part.points).toMatchObject([{ controller: 1, tick: 0, value: 50 }]);
    const again = readPhrase(phraseText(cut));
    expect(phraseText(again ?? cut)).toBe(phraseText(cut));
    expect(readPhrase('nonsense')).toBeUndefined();
    expect(readPhrase('{"endTick":1}')).toBeUndefined();
  });
  it('move by octaves to where they can be played', () => {
    const cut = cutPhrase(part, 0, 4000);
    expect(intoRange(cut, { low: 72, high: 90 }).part.notes.map((note) => note.key)).toEqual([
      72, 73, 74, 75,
    ]);
    expect(intoRange(cut, { low: 50, high: 70 })).toBe(cut);
  });
  it('are written down as they are played, from the first note on', () => {
    const messages: [number, number, number, number][] = [
      [0.5, 0xb0, 1, 30],
      [1, 0x90, 60, 100],
      [1.5, 0xb0, 1, 90],
      [2, 0x90, 60, 0],
      [2, 0x90, 64, 70],
    ];
    const phrase = playedPhrase(
      messages.map(([seconds, status, data1, data2]) => ({ seconds, status, data1, data2 })),
      60,
      3,
    );
    expect(
      phrase?.part.notes.map(({ startTick, endTick, key, velocity }) => [startTick, endTick, key, velocity]),
    ).toEqual([
      [0, 960, 60, 100],
      [960, 1920, 64, 70],
    ]);
    expect(phrase?.part.points.map(({ tick, value }) => [tick, value])).toEqual([
      [0, 30],
      // Held until it moved.
      [479, 30],
      [480, 90],
    ]);
    expect(playedPhrase([], 60, 1)).toBeUndefined();
  });
});

describe('rendering', () => {
  it('plays a phrase with the same silence in front, on its beats, and ends quietly', () => {
    const { instrument, audio } = sineInstrument();
    const { left, right, lufs } = renderPhrase({
      instrument,
      audio,
      articulation: 'staccato',
      phrase: writePhrase('takes', { low: 60, high: 72 }, 60),
      bpm: 60,
      mix: mixOf(['mix']),
      hall: null,
      hallMix: { earlyDb: 0, tailDb: 0 },
    });
    const mono = left.map((value, i) => (value + right[i]) / 2);
    expect(Math.abs(onsetSeconds([mono], RATE) - PRE_ROLL_SECONDS)).toBeLessThan(0.005);
    // Sixteen eighths at 60: the last one begins 7.5 s after the first.
    const last = mono.subarray(Math.round((PRE_ROLL_SECONDS + 7.45) * RATE));
    expect(Math.abs(onsetSeconds([last], RATE) - 0.05)).toBeLessThan(0.005);
    expect(Math.abs(left[left.length - 1])).toBeLessThan(1e-4);
    expect(lufs).toBeGreaterThan(-30);
    expect(Math.abs(lufs - lufsOf(left, right).lufs)).toBeLessThan(0.3);
  });
});

describe('matched loudness', () => {
  it('brings renderings within 0.1 LU of each other and keeps peaks under −1 dBTP', () => {
    const sounds = [tone(440, 3, 0.05), tone(3000, 3, 0.2), tone(90, 3, 0.9)];
    const { matched, offsetsDb, plain } = matchLoudness(sounds.map((one) => lufsOf(one)));
    const heard = sounds.map((one, i) => lufsOf(one.map((value) => value * matched[i])));
    for (const one of heard) {
      expect(Math.abs(one.lufs - heard[0].lufs)).toBeLessThan(0.1);
      expect(one.truePeakDb).toBeLessThan(-0.95);
    }
    expect(offsetsDb[0]).toBe(0);
    expect(offsetsDb[1]).toBeLessThan(-6);
    expect(plain).toBeCloseTo(10 ** (-0.085 / 20), 1);
  });
  it('does not move what sounds when more comes', () => {
    const [a, b] = [lufsOf(tone(440, 3, 0.05)), lufsOf(tone(880, 3, 0.1))];
    expect(matchLoudness([a, b]).matched[0]).toBeCloseTo(matchLoudness([a]).matched[0], 6);
  });
  it('leaves silence silent', () => {
    const { matched, offsetsDb } = matchLoudness([
      { lufs: -Infinity, truePeakDb: -Infinity },
      lufsOf(tone(440, 2)),
    ]);
    expect(Number.isFinite(matched[0])).toBe(true);
    expect(offsetsDb).toEqual([0, 0]);
  });
});

describe('switching', () => {
  const played = (switcher: Switcher, frames: number, at: Record<number, () => void> = {}) => {
    const left = new Float32Array(frames);
    const right = new Float32Array(frames);
    for (let from = 0; from < frames; from += 128) {
      at[from]?.();
      switcher.process(left, right, from, Math.min(frames, from + 128));
    }
    return left;
  };
  const rendering = (signal: Float32Array) => ({ left: signal, right: signal, gain: 1 });
  const jump = (signal: Float32Array) =>
    signal.reduce((most, value, i) => (i === 0 ? 0 : Math.max(most, Math.abs(value - signal[i - 1]))), 0);

  it('goes over within one block, without gap or click, at the same place', () => {
    const [a, b] = [tone(440, 2), tone(660, 2)];
    const switcher = new Switcher();
    switcher.start(rendering(a), 0);
    const out = played(switcher, RATE, { [24_064]: () => switcher.change(rendering(b)) });
    // No jump greater than the tones themselves make.
    expect(jump(out)).toBeLessThan(1.3 * Math.max(jump(a), jump(b)));
    // One block later nothing but the other is heard, at the same place of it.
    for (let i = 24_064 + 128; i < 30_000; i++) expect(Math.abs(out[i] - b[i])).toBeLessThan(1e-6);
    const rms = Math.sqrt(out.subarray(24_000, 24_256).reduce((sum, v) => sum + v * v, 0) / 256);
    expect(rms).toBeGreaterThan(0.15);
  });
  it('begins and ends without a click, and keeps its place while silent', () => {
    const switcher = new Switcher();
    switcher.start(rendering(tone(440, 2)), 12_000);
    const out = played(switcher, RATE / 2, { [12_032]: () => switcher.stop() });
    expect(jump(out)).toBeLessThan(1.2 * jump(tone(440, 1)));
    expect(Math.abs(out[13_000])).toBe(0);
    expect(switcher.place).toBeGreaterThan(24_000);
    expect(switcher.place).toBeLessThan(25_000);
    expect(switcher.sounds).toBe(false);
  });
  it('repeats where it is told to and ends otherwise', () => {
    const once = new Switcher();
    once.start(rendering(tone(440, 0.25)), 0);
    played(once, RATE);
    expect(once.isPlaying).toBe(false);
    const again = new Switcher();
    again.repeat = true;
    again.start(rendering(tone(440, 0.25)), 0);
    played(again, RATE);
    expect(again.isPlaying).toBe(true);
  });
});

describe('blind listening', () => {
  it('shuffles evenly and repeatably', () => {
    expect(shuffledOrder(4, 7)).toEqual(shuffledOrder(4, 7));
    const firsts = [0, 0, 0];
    for (let seed = 0; seed < 6000; seed++) firsts[shuffledOrder(3, seed)[0]]++;
    for (const count of firsts) expect(Math.abs(count - 2000)).toBeLessThan(200);
  });
  it('knows the binomial tail', () => {
    expect(binomialTail(8, 10, 0.5)).toBeCloseTo(56 / 1024, 8);
    expect(binomialTail(0, 10, 0.5)).toBe(1);
    expect(binomialTail(3, 3, 1 / 3)).toBeCloseTo(1 / 27, 8);
  });
  it('tallies rounds and says when they beat guessing', () => {
    const rounds = Array.from({ length: 9 }, () => ({ ranking: ['a', 'b', 'c'] }));
    const tally = tallyOf(['a', 'b', 'c'], [...rounds, { ranking: ['c'] }]);
    expect(tally.lines[0]).toEqual({ contender: 'a', firsts: 9, meanPlace: 1 });
    expect(tally.lines[2]).toEqual({ contender: 'c', firsts: 1, meanPlace: 3 });
    expect(tally.beatsGuessing).toBe(true);
    expect(tallyOf(['a', 'b'], [{ ranking: ['a'] }, { ranking: ['a'] }]).beatsGuessing).toBe(false);
    expect(tallyOf(['a', 'b'], []).chance).toBe(1);
  });
});

describe('walks', () => {
  const { instrument } = sineInstrument();
  const many = { ...instrument, positions: ['far', 'close', 'tree'].map((id) => ({ id, name: id })) };
  it('go through every articulation with a phrase of its kind', () => {
    const steps = articulationWalk(instrument);
    expect(steps.map((step) => step.articulation)).toEqual(['connected', 'long', 'staccato']);
    for (const step of steps) expect(step.phrase.part.notes.length).toBeGreaterThan(0);
  });
  it('go through positions alone, added, near to far, and the artificial hall against the room', () => {
    const steps = positionWalk(many, 'long');
    const heard = steps.map((step) => Object.keys(step.levels).join('+'));
    expect(heard.slice(0, 5)).toEqual(['close', 'tree', 'far', 'close+tree', 'close+tree+far']);
    expect(steps.filter((step) => step.about === 'near to far')).toHaveLength(5);
    expect(steps.filter((step) => step.hall)).toHaveLength(3);
    expect(steps[steps.length - 1].levels).toHaveProperty('far');
  });
  it('keep the power while the distance changes', () => {
    for (const distance of [0, 0.2, 0.5, 0.77, 1]) {
      const power = Object.values(distanceLevels(['a', 'b', 'c'], distance)).reduce(
        (sum, db) => sum + 10 ** ((db + 4) / 10),
        0,
      );
      expect(power).toBeCloseTo(1, 5);
    }
    expect(mixOfLevels({ a: -3 }).positions.a.levelDb).toBe(-3);
  });
});

describe('against a recording', () => {
  /** Noise through a gentle tilt, by summing sines spaced like its bands. */
  const broad = (tilt: (hz: number) => number) => {
    const out = new Float32Array(4 * RATE);
    for (let hz = 60; hz < 15_000; hz *= 1.03) {
      const gain = (0.02 * 10 ** (tilt(hz) / 20)) / Math.sqrt(1);
      const phase = hz * 12.9898;
      for (let i = 0; i < out.length; i++) out[i] += gain * Math.sin((2 * Math.PI * hz * i) / RATE + phase);
    }
    return out;
  };
  it('finds a planted tilt, level matched, and suggests bands that undo it', () => {
    const plain = broad(() => 0);
    const dull = broad((hz) =>
      eqResponseDb({ shape: 'high shelf', hertz: 4000, gainDb: -5, q: 0.6 }, hz, RATE),
    );
    const [a, b] = [plain, dull.map((value) => value * 0.3)].map((one) => figuresOfPassage(one, one));
    const { differenceDb, bands } = toneDifference(a, b);
    const at = (hz: number) => differenceDb[THIRD_OCTAVES.findIndex((middle) => middle > hz * 0.95)];
    expect(Math.abs(at(10_000) - at(400) - 5)).toBeLessThan(0.8);
    const made = (hz: number) => bands.reduce((sum, band) => sum + eqResponseDb(band, hz, RATE), 0);
    expect(Math.abs(made(10_000) - made(400) - 5)).toBeLessThan(1);
  });
  it.each([
    ['treble', (hz: number) => (hz > 1000 && hz < 5000 ? 4 : 0), (hz: number) => (hz > 5500 ? -90 : 0), 8000],
    ['bass', (hz: number) => (hz > 150 && hz < 500 ? -4 : 0), (hz: number) => (hz < 140 ? -90 : 0), 80],
  ])('leaves alone what neither of two holds: %s', (_name, shape, hole, silent) => {
    const levels = (of: (hz: number) => number) => ({
      ...figuresOfPassage(tone(500, 1), tone(500, 1)),
      lufs: -20,
      thirds: THIRD_OCTAVES.map((hz) => -30 + of(hz) + hole(hz)),
    });
    const { bands, differenceDb } = toneDifference(
      levels(shape),
      levels(() => 0),
    );
    expect(bands.length).toBeGreaterThan(0);
    const made = (hz: number) => bands.reduce((sum, band) => sum + eqResponseDb(band, hz, RATE), 0);
    const of = (test: (hz: number) => boolean) => THIRD_OCTAVES.filter(test);
    // Where nothing was heard the chart shows nothing, and no more is done there than broad bands must.
    const unheard = of((hz) => (silent > 1000 ? hz > silent : hz < silent));
    for (const hz of unheard) {
      expect(differenceDb[THIRD_OCTAVES.indexOf(hz)]).toBe(0);
      expect(Math.abs(made(hz))).toBeLessThan(2.5);
    }
    // Where there is a difference, most of it is made good.
    const [from, to] = silent > 1000 ? [1500, 4000] : [200, 400];
    for (const hz of of((one) => one > from && one < to))
      expect(Math.sign(made(hz))).toBe(Math.sign(shape(hz)));
  });
  it('suggests nothing where nothing is heard of both', () => {
    const only = (from: number, to: number) => ({
      ...figuresOfPassage(tone(500, 1), tone(500, 1)),
      thirds: THIRD_OCTAVES.map((hz) => (hz >= from && hz < to ? -20 : -120)),
    });
    expect(toneDifference(only(50, 200), only(4000, 9000)).bands).toEqual([]);
  });
  it('suggests nothing where tones agree', () => {
    const one = figuresOfPassage(
      broad(() => 0),
      broad(() => 0),
    );
    expect(toneDifference(one, one).bands).toEqual([]);
  });
  it('tells the decay of the place that dies away furthest, wherever it stands', () => {
    // Noise that falls by 60 dB in so many seconds, and is cut off after so many decibels.
    const falling = (t60: number, db: number, seed: number) => {
      const out = new Float32Array(Math.round(((t60 * db) / 60) * RATE));
      let state = seed;
      for (let i = 0; i < out.length; i++) {
        state = (state * 1_664_525 + 1_013_904_223) >>> 0;
        out[i] = (state / 2 ** 31 - 1) * 0.5 * 10 ** ((-3 * i) / RATE / t60);
      }
      return out;
    };
    const joined = (...parts: readonly Float32Array[]) => {
      const out = new Float32Array(parts.reduce((sum, { length }) => sum + length, RATE / 2));
      parts.reduce((at, part) => (out.set(part, at), at + part.length), RATE / 4);
      return figuresOfPassage(out, out).decay;
    };
    const [far, near] = [falling(1.2, 50, 1), falling(0.6, 22, 2)];
    for (const order of [joined(near, far), joined(far, near), joined(near, far, near)]) {
      expect(Math.abs((order?.seconds ?? 0) - 1.2)).toBeLessThan(0.12);
      expect(order?.rangeDb).toBeGreaterThan(20);
    }
    // A passage that never dies away has none.
    expect(figuresOfPassage(tone(440, 3), tone(440, 3)).decay).toBeNull();
  });
  it('measures silence without NaN', () => {
    const silent = figuresOfPassage(new Float32Array(RATE), new Float32Array(RATE));
    expect(silent.width).toBeNull();
    expect(silent.decay).toBeNull();
    expect(silent.thirds.every(Number.isFinite)).toBe(true);
  });
});

describe('score card', () => {
  it('weighs what was scored and leaves out what was not', () => {
    const criteria = [
      { id: 'a', weight: 2 },
      { id: 'b', weight: 1 },
      { id: 'c', weight: 0 },
    ];
    const scores: Record<string, number> = { a: 8, b: 5, c: 0 };
    expect(weightedScore(criteria, (id) => scores[id])).toBe(7);
    expect(weightedScore(criteria, (id) => (id === 'b' ? 5 : undefined))).toBe(5);
    expect(weightedScore(criteria, () => undefined)).toBeUndefined();
  });
});

describe('hearing a finding', () => {
  it('plays every shape within the range', () => {
    for (const shape of ['note', 'repeat', 'rise', 'chord', 'move', 'pair'] as const) {
      const { part, endTick } = writeHearing(
        { articulation: 'long', shape, keys: [58, 60, 64], against: 'staccato' },
        { low: 60, high: 72 },
      );
      expect(part.notes.length).toBeGreaterThan(0);
      for (const note of part.notes) {
        expect(note.key).toBeGreaterThanOrEqual(60);
        expect(note.endTick).toBeLessThanOrEqual(endTick);
      }
    }
  });
});
