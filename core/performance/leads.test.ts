import { describe, expect, it } from 'vitest';
import type { Zone } from '../catalogue/index.ts';
import type { SampleAudio } from '../engine/index.ts';
import { PLAIN_POSITION, type TrackMix } from '../mixing/index.ts';
import { instrumentOf, mixOf, plainZone } from '../testing/fixtures.ts';
import { Leads } from './leads.ts';
import { Levels } from './levels.ts';

const RATE = 48_000;

/** A tone of 2 s that begins at once at a moment. */
function tone(hertz: number, from: number, level = 0.3): SampleAudio {
  const frames = 2 * RATE;
  const data = new Float32Array(2 * frames);
  for (let i = Math.round(from * RATE); i < frames; i++)
    data[2 * i] = data[2 * i + 1] = level * Math.sin((2 * Math.PI * hertz * i) / RATE);
  return { data, channels: 2, frames, rate: RATE };
}

const mixed = (a: SampleAudio, b: SampleAudio): SampleAudio => ({
  ...a,
  data: Float32Array.from(a.data, (value, i) => value + b.data[i]),
});

function leadsOf(
  samples: Record<string, SampleAudio>,
  zones: readonly (Partial<Zone> & { sample: string })[],
  mix: TrackMix = mixOf(['mix']),
  loaded = true,
) {
  const audio = new Map(Object.entries(samples));
  const made = zones.map(({ sample, ...zone }) => plainZone({ samples: { mix: { sample } }, ...zone }));
  const instrument = instrumentOf([{ id: 'long', name: 'long', zones: made }], audio);
  return new Leads(instrument, mix, loaded ? audio : new Map());
}

/** Steps of 5 ms tell a moment to within one of them. */
const STEP = 0.005;
const near = (value: number, wanted: number) =>
  expect(Math.abs(value - wanted), `${value} s`).toBeLessThan(STEP);

describe('the lead of an attack', () => {
  const early = tone(500, 0.02);
  const late = tone(500, 0.1);

  it('is when the sum of what sounds speaks, and shorter above its root', () => {
    const leads = leadsOf({ late }, [{ sample: 'late' }]);
    near(leads.attack(0, 69, 90, 64, 0)[0], 0.1);
    near(leads.attack(0, 81, 90, 64, 0)[0], 0.05);
    near(leads.attack(0, 57, 90, 64, 0)[0], 0.2);
  });
  it('does not move while the pitch does not follow the key', () => {
    const leads = leadsOf({ late }, [{ sample: 'late', keyTrack: 0 }]);
    near(leads.attack(0, 81, 90, 64, 0)[0], 0.1);
  });
  it('follows velocity where layers answer to it unequally', () => {
    const leads = leadsOf({ early, late }, [
      { sample: 'early', velocityTrack: 1 },
      { sample: 'late', velocityTrack: 0 },
    ]);
    near(leads.attack(0, 69, 127, 64, 0)[0], 0.02);
    // (12/127)² = −41 dB: the early layer is not heard any more.
    near(leads.attack(0, 69, 12, 64, 0)[0], 0.1);
  });
  it('is worked out once for touches that change nothing', () => {
    const leads = leadsOf({ early, late }, [
      { sample: 'early', velocityTrack: 0.7 },
      { sample: 'late', velocityTrack: 0.7 },
    ]);
    const one = leads.attack(0, 69, 20, 10, 0);
    expect(leads.attack(0, 69, 120, 100, 90)).toBe(one);
    expect(leads.attack(0, 70, 20, 10, 0)).not.toBe(one);
  });
  it('follows dynamics and vibrato through crossfades, and velocity through modulations', () => {
    const fade = (controller: number, inLow: number, inHigh: number, outLow: number, outHigh: number) => ({
      fades: [{ controller, inLow, inHigh, outLow, outHigh }],
    });
    for (const controller of [1, 77]) {
      const leads = leadsOf({ early, late }, [
        { sample: 'late', ...fade(controller, 0, 0, 40, 60) },
        { sample: 'early', ...fade(controller, 40, 60, 127, 127) },
      ]);
      const at = (value: number) =>
        controller === 1 ? leads.attack(0, 69, 90, value, 0)[0] : leads.attack(0, 69, 90, 64, value)[0];
      near(at(10), 0.1);
      near(at(110), 0.02);
    }
  });
  it('is that of the layer whose velocities it is in, to the last one', () => {
    const leads = leadsOf({ early, late }, [
      { sample: 'late', velocityLow: 1, velocityHigh: 64 },
      { sample: 'early', velocityLow: 65, velocityHigh: 127 },
    ]);
    for (const velocity of [1, 64]) near(leads.attack(0, 69, velocity, 64, 0)[0], 0.1);
    for (const velocity of [65, 127]) near(leads.attack(0, 69, velocity, 64, 0)[0], 0.02);
  });
  it('is one for each take', () => {
    const leads = leadsOf({ early, late }, [
      { sample: 'early', take: 0, takes: 2 },
      { sample: 'late', take: 1, takes: 2 },
    ]);
    const each = leads.attack(0, 69, 90, 64, 0);
    expect(each).toHaveLength(2);
    near(each[0], 0.02);
    near(each[1], 0.1);
  });
  it('is heard through the filter: what it takes away speaks for nothing', () => {
    // A high tone first, a low one later: a low-pass at 400 Hz leaves −40 dB of 4 kHz.
    const bright = mixed(tone(4000, 0.02, 0.2), tone(200, 0.12, 0.3));
    near(leadsOf({ bright }, [{ sample: 'bright' }]).attack(0, 69, 90, 64, 0)[0], 0.02);
    const dark = leadsOf({ bright }, [{ sample: 'bright', cutoffHz: 400, filter: 'lowpass2' }]);
    near(dark.attack(0, 69, 90, 64, 0)[0], 0.12);
    // An octave up both tones are doubled, the filter stays: it still closes at 400 Hz as heard.
    near(dark.attack(0, 81, 90, 64, 0)[0], 0.06);
    const opened = leadsOf({ bright }, [
      {
        sample: 'bright',
        cutoffHz: 400,
        filter: 'lowpass2',
        modulations: [{ controller: 1, target: 'cutoffCents', depth: 6000 }],
      },
    ]);
    near(opened.attack(0, 69, 90, 0, 0)[0], 0.12);
    near(opened.attack(0, 69, 90, 127, 0)[0], 0.02);
  });
  it('is 0 where nothing was recorded', () => {
    const leads = leadsOf({ late }, [{ sample: 'late', keyHigh: 60, velocityLow: 50 }]);
    expect([...leads.attack(0, 61, 90, 64, 0)]).toEqual([0]);
    expect([...leads.attack(0, 60, 49, 64, 0)]).toEqual([0]);
    expect([leads.has(0, 60), leads.has(0, 61)]).toEqual([true, false]);
  });
  it('is told from what the import measured until the recordings are here', () => {
    near(leadsOf({ late }, [{ sample: 'late' }], undefined, false).attack(0, 69, 90, 64, 0)[0], 0.1);
  });
  it('counts what is heard of each position', () => {
    const audio = new Map([
      ['near', tone(500, 0.01)],
      ['far', tone(500, 0.06)],
    ]);
    const samples = { close: { sample: 'near' }, hall: { sample: 'far' } };
    const zone = plainZone({ samples });
    const instrument = instrumentOf([{ id: 'long', name: 'long', zones: [zone] }], audio, ['close', 'hall']);
    const leadWith = (levelDb: number, muted = false) => {
      const mix: TrackMix = {
        ...mixOf([]),
        positions: { close: { ...PLAIN_POSITION, levelDb, muted }, hall: PLAIN_POSITION },
      };
      return new Leads(instrument, mix, audio).attack(0, 69, 90, 64, 0)[0];
    };
    near(leadWith(0), 0.01);
    near(leadWith(-60), 0.06);
    near(leadWith(0, true), 0.06);
    near(leadWith(-30), 0.06);
  });
});

describe('where the tone of an attack has settled', () => {
  const long = tone(500, 0.02);
  it('is where its loop begins, of the layer that is struck', () => {
    const leads = leadsOf({ long }, [
      { sample: 'long', velocityLow: 1, velocityHigh: 64, loop: { start: 24_000, end: 72_000 } },
      { sample: 'long', velocityLow: 65, velocityHigh: 127, loop: { start: 36_000, end: 72_000 } },
    ]);
    for (const velocity of [1, 64]) expect(leads.settled(0, 69, velocity)).toBeCloseTo(0.5, 6);
    for (const velocity of [65, 127]) expect(leads.settled(0, 69, velocity)).toBeCloseTo(0.75, 6);
    expect(leads.settled(0, 81, 64)).toBeCloseTo(0.25, 6);
  });
  it('is not before 0.3 s, nor behind the loop', () => {
    const of = (start: number, end: number) =>
      leadsOf({ long }, [{ sample: 'long', loop: { start, end } }]).settled(0, 69, 90);
    expect(of(4800, 72_000)).toBeCloseTo(0.3, 6);
    expect(of(4800, 9600)).toBeCloseTo(0.2, 6);
  });
  it('is a middle part where there is no loop, and is guessed while the recording is missing', () => {
    expect(leadsOf({ long }, [{ sample: 'long' }]).settled(0, 69, 90)).toBeCloseTo(0.7, 6);
    expect(leadsOf({ long }, [{ sample: 'long' }], undefined, false).settled(0, 69, 90)).toBeCloseTo(0.45, 6);
  });
});

describe('the level of a settled tone', () => {
  const audio = new Map([
    ['one', tone(997, 0)],
    ['other', tone(1997, 0)],
  ]);
  const levels = new Levels(mixOf(['mix']), audio);
  const zone = (sample: string, more: Partial<Zone> = {}) =>
    plainZone({ samples: { mix: { sample } }, loop: { start: 24_000, end: 72_000 }, ...more });
  const touch = { velocity: 127, dynamics: 64, vibrato: 0 };
  const db = (zones: Zone[], ratio = 1) => 10 * Math.log10(levels.tone(zones, ratio, touch) ?? 0);

  it('adds like waves by amplitude and unlike ones by power', () => {
    const one = db([zone('one')]);
    expect(db([zone('one'), zone('one')]) - one).toBeCloseTo(6.02, 1);
    // K-weighting lifts 2 kHz by 2.5 dB over 1 kHz (BS.1770): 10 lg(1 + 1.78) = 4.4.
    expect(db([zone('one'), zone('other')]) - one).toBeCloseTo(4.4, 0);
    expect(db([zone('one', { gainDb: -6 })]) - one).toBeCloseTo(-6, 2);
  });
  it('takes like layers back as the engine does', () => {
    const alike = { alike: { one: 1 } };
    // Two of power ½ each, wholly alike, are brought back from 2 to 1.
    const half = { gainDb: -3.01 };
    expect(db([zone('one', { ...half, ...alike }), zone('one', { ...half, ...alike })])).toBeCloseTo(
      db([zone('one')]),
      1,
    );
  });
  it('is weighed at the pitch played, and silent layers count for nothing', () => {
    // From 60 Hz to 1 kHz K-weighting rises by about 1.8 dB; from 1 to 4 kHz by 3.3.
    expect(db([zone('one')], 4) - db([zone('one')])).toBeCloseTo(3.3, 0);
    const faded = zone('other', {
      fades: [{ controller: 1, inLow: 100, inHigh: 127, outLow: 127, outHigh: 127 }],
    });
    expect(db([zone('one'), faded])).toBeCloseTo(db([zone('one')]), 6);
  });
  it('is not known while a recording is missing', () => {
    expect(levels.tone([zone('one'), zone('missing')], 1, touch)).toBeUndefined();
  });
});
