import { describe, expect, it } from 'vitest';
import { markedSeconds } from '../catalogue/index.ts';
import { readSfz } from '../formats/index.ts';
import { ENGINE_RATE, midiToHertz } from '../units/index.ts';
import {
  DEMO_LIBRARIES,
  FAULTS,
  instrumentSfz,
  loopFrames,
  recordTake,
  type InstrumentPlan,
  type LibraryPlan,
  type RecordedPosition,
  type TakeOrder,
} from './index.ts';

/** The planted faults are really in the recordings, told by plain code of its own, and their neighbours are free of them. */

function planOf(libraryName: string, name: string): { library: LibraryPlan; plan: InstrumentPlan } {
  const library = DEMO_LIBRARIES.find((one) => one.name === libraryName);
  const plan = library?.instruments.find((one) => one.name === name);
  if (!library || !plan) throw new Error(`no ${name} in ${libraryName}`);
  return { library, plan };
}

function record(libraryName: string, name: string, technique: string, more: Partial<TakeOrder> = {}) {
  const { library, plan } = planOf(libraryName, name);
  return recordTake(plan, library.hall, {
    technique,
    slot: 'note',
    root: 60,
    layer: 0,
    take: 0,
    vibrato: false,
    interval: 0,
    ...more,
  });
}

const rootsOf = (libraryName: string, name: string, technique: string) =>
  planOf(libraryName, name).plan.techniques.find(({ id }) => id === technique)?.notes?.roots ?? [];
const position = (take: Map<string, RecordedPosition>, id = 'close') => {
  const found = take.get(id);
  if (!found) throw new Error(`no ${id}`);
  return found;
};
const rmsDb = (sound: Float32Array, from: number, to: number) => {
  let sum = 0;
  for (let i = from; i < to; i++) sum += sound[i] ** 2;
  return 10 * Math.log10(sum / (to - from) + 1e-20);
};
/** First moment at which the sound comes within 14 dB of its peak. */
const speaks = ({ left }: RecordedPosition) => {
  const peak = left.reduce((most, v) => Math.max(most, Math.abs(v)), 0);
  return left.findIndex((v) => Math.abs(v) > peak * 0.2) / ENGINE_RATE;
};
/** Amplitude of one frequency. */
const partial = ({ left }: RecordedPosition, hertz: number, from: number, to: number) => {
  let re = 0;
  let im = 0;
  for (let i = Math.round(from * ENGINE_RATE); i < to * ENGINE_RATE; i++) {
    re += left[i] * Math.cos((2 * Math.PI * hertz * i) / ENGINE_RATE);
    im += left[i] * Math.sin((2 * Math.PI * hertz * i) / ENGINE_RATE);
  }
  return Math.hypot(re, im);
};
/** Volume the SFZ gives a take's region, dB. */
const volumeOf = (libraryName: string, name: string, part: string) => {
  const { library, plan } = planOf(libraryName, name);
  const regions = readSfz('a.sfz', () => instrumentSfz(plan, library.hall)).regions;
  const region = regions.find((one) => one.opcodes.get('sample')?.value.includes(part));
  return Number(region?.opcodes.get('volume')?.value);
};
const sampleOf = (libraryName: string, name: string, technique: string, root: number, take: number) => {
  const { library, plan } = planOf(libraryName, name);
  return readSfz('a.sfz', () => instrumentSfz(plan, library.hall))
    .regions.find(
      ({ opcodes }) =>
        opcodes.get('sw_label')?.value === technique &&
        opcodes.get('seq_position')?.value === String(take + 1) &&
        Number(opcodes.get('lokey')?.value) <= root &&
        Number(opcodes.get('hikey')?.value) >= root,
    )
    ?.opcodes.get('sample')?.value;
};

describe('faults planted in the demo libraries', () => {
  it('layer step: the trumpets’ loudest layer jumps, the trombones’ does not', () => {
    const { library, layer } = FAULTS.layerStep;
    const step = (name: string) => {
      const root = rootsOf(library, name, 'long')[1];
      const level = (at: number) =>
        rmsDb(position(record(library, name, 'long', { root, layer: at })).left, 14_400, 40_000) +
        volumeOf(library, name, `note-${root}-l${at + 1}-`);
      return level(layer) - level(layer - 1);
    };
    expect(step('Trumpets') - step('Trombones')).toBeGreaterThan(3.5);
  });
  it('late and uneven short: the bassoon speaks late by what the table says, the oboe on time', () => {
    const { library, instrument, articulation, lateSeconds } = FAULTS.lateShort;
    const speech = (name: string, take: number) =>
      speaks(
        position(
          record(library, name, articulation, {
            root: rootsOf(library, name, articulation)[1],
            layer: 1,
            take,
          }),
        ),
      );
    const onTime = speech('Oboe', 0);
    expect(onTime).toBeLessThan(0.025);
    lateSeconds.forEach((late, take) =>
      expect(Math.abs(speech(instrument, take) - onTime - late), `take ${take}`).toBeLessThan(0.009),
    );
  });
  it('borrowed and repeated takes: other takes stand in for them', () => {
    const borrowed = FAULTS.borrowedTakes;
    const [low, high] = rootsOf(borrowed.library, borrowed.instrument, borrowed.articulation);
    const of = (root: number, take: number) =>
      sampleOf(borrowed.library, borrowed.instrument, borrowed.articulation, root, take);
    expect(of(high, borrowed.take)).toBe(of(low, 0));
    expect(of(high, 1)).not.toBe(of(low, 1));
    const repeated = FAULTS.repeatedTake;
    const [root] = rootsOf(repeated.library, repeated.instrument, repeated.articulation);
    const small = (name: string, take: number) =>
      sampleOf(repeated.library, name, repeated.articulation, root, take);
    expect(small(repeated.instrument, repeated.take)).toBe(small(repeated.instrument, repeated.same));
    expect(small('Violas', 2)).not.toBe(small('Violas', 0));
  });
  it('mistuned zone: one root of the piano is sharp, its neighbours are not', () => {
    const { library, instrument, root, cents } = FAULTS.mistunedZone;
    const sharp = (key: number) => {
      const take = position(record(library, instrument, 'hit', { root: key, layer: 1 }));
      let best = -50;
      let most = 0;
      for (let c = -45; c <= 45; c++) {
        const power = partial(take, midiToHertz(key) * 2 ** (c / 1200), 0.1, 1.3);
        if (power > most) [best, most] = [c, power];
      }
      return best;
    };
    expect(Math.abs(sharp(root) - cents)).toBeLessThan(5);
    expect(Math.abs(sharp(root - 8))).toBeLessThan(6);
  });
  it('static loop: the tuba repeats far less than the trombones', () => {
    const length = (name: string) => {
      const { plan } = planOf(FAULTS.staticLoop.library, name);
      const loop = loopFrames(plan.techniques[0]);
      return loop ? (loop.end - loop.start) / 48_000 : 0;
    };
    expect(length('Tuba')).toBeCloseTo(0.08, 2);
    expect(length('Trombones')).toBeGreaterThan(0.4);
  });
  it('articulation out of level: the clarinet’s staccato stands out as no neighbour’s does', () => {
    const { library, instrument, articulation, gainDb } = FAULTS.loudArticulation;
    const gain = (name: string) =>
      volumeOf(library, name, `samples/${articulation}/`) - volumeOf(library, name, 'samples/long/');
    expect(gain(instrument) - gain('Oboe')).toBeCloseTo(gainDb, 6);
  });
  it('noisy position: the winds’ far microphones hiss before anything has arrived', () => {
    const { library, noiseDb } = FAULTS.noisyPosition;
    const take = record(library, 'Flute 1', 'staccato', {
      root: rootsOf(library, 'Flute 1', 'staccato')[1],
      layer: 1,
    });
    const floor = (id: string) => rmsDb(position(take, id).left, 0, id === 'far' ? 700 : 150);
    expect(Math.abs(floor('far') - noiseDb)).toBeLessThan(1.5);
    expect(floor('close')).toBeLessThan(noiseDb - 20);
  });
  it('narrow close position: left and right are nearly one in the brass, not in the strings', () => {
    const likeness = (libraryName: string, name: string) => {
      const { left, right } = position(
        record(libraryName, name, 'long', { root: rootsOf(libraryName, name, 'long')[1], layer: 1 }),
      );
      let [lr, ll, rr] = [0, 0, 0];
      for (let i = 0; i < left.length; i++) {
        lr += left[i] * right[i];
        ll += left[i] ** 2;
        rr += right[i] ** 2;
      }
      return lr / Math.sqrt(ll * rr);
    };
    expect(likeness(FAULTS.narrowClose.library, 'Horns A')).toBeGreaterThan(0.95);
    expect(likeness('Wrenlow Strings, large', 'Violas')).toBeLessThan(0.7);
  });
  it('ringing resonance: a cello note that stands on it swells in it as no other does', () => {
    const { library, instrument, hertz } = FAULTS.ringing;
    const { plan } = planOf(library, instrument);
    const roots = plan.techniques[0].notes?.roots ?? [];
    // How much of a note's level lies in the resonance: most when a partial of it stands there.
    const share = (root: number) => {
      const take = position(record(library, instrument, 'long', { root, layer: 1, vibrato: true }));
      const near = (f: number) => partial(take, f, 0.5, 1.1);
      return near(hertz) / (near(midiToHertz(root) * 2) + near(midiToHertz(root) * 3) + 1e-9);
    };
    const onIt = roots.find((root) => Math.abs(midiToHertz(root) - hertz) < 3) ?? 0;
    expect(onIt).toBeGreaterThan(0);
    expect(share(onIt)).toBeGreaterThan(3 * share(roots[roots.indexOf(onIt) - 1]));
  });
  it('slow transition: a rising fifth of the solo violin lands later than a fourth, the cello’s does not', () => {
    const { library, instrument, lateSeconds } = FAULTS.slowTransition;
    const landing = (name: string, interval: number) => {
      const { plan } = planOf(library, name);
      const root = plan.techniques.find(({ id }) => id === 'connected')?.moves?.roots[0] ?? 60;
      const take = position(record(library, name, 'connected', { slot: 'move', root, interval }));
      // The moment at which the new pitch holds more power than the old one, in steps of 5 ms.
      for (let t = 0.02; t < 0.3; t += 0.005)
        if (
          partial(take, midiToHertz(root), t, t + 0.06) >
          partial(take, midiToHertz(root - interval), t, t + 0.06)
        )
          return t;
      return 0.3;
    };
    expect(landing(instrument, 7) - landing(instrument, 5)).toBeGreaterThan(lateSeconds - 0.035);
    expect(Math.abs(landing('Solo cello', 7) - landing('Solo cello', 5))).toBeLessThan(0.03);
  });
  it('missing techniques and a roll with no marked length', () => {
    const techniques = (name: string) =>
      planOf(FAULTS.lackingSection.library, name).plan.techniques.map(({ id }) => id);
    for (const id of FAULTS.lackingSection.techniques) {
      expect(techniques('Violins I')).toContain(id);
      expect(techniques('Violins II')).not.toContain(id);
    }
    const marked = (name: string, id: string) =>
      markedSeconds({
        name:
          planOf(FAULTS.unmarkedRoll.library, name).plan.techniques.find((one) => one.id === id)?.label ?? id,
      });
    expect(marked('Timpani', 'roll')).toBeUndefined();
    expect(marked('Snare drum', 'roll')).toBe(1.5);
    expect(marked('Cymbals', 'swell')).toBe(1.5);
  });
});

describe('recorded swells', () => {
  it('arrive when their names say', () => {
    const take = position(record('Harbour Percussion', 'Cymbals', 'crescendo long', { root: 60 }));
    let [loudest, at] = [-200, 0];
    for (let t = 0; t < 4; t += 0.05) {
      const level = rmsDb(take.left, Math.round(t * ENGINE_RATE), Math.round((t + 0.05) * ENGINE_RATE));
      if (level > loudest) [loudest, at] = [level, t];
    }
    expect(Math.abs(at - 3)).toBeLessThan(0.12);
  });
});
