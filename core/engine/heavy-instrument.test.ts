import { describe, expect, it } from 'vitest';
import { mixOf, startEvent } from '../testing/fixtures.ts';
import { Engine, heavyInstrument, prepareInstrument } from './index.ts';

/** Levels of all positions of a heavy note, in dB, one after the other alone. */
function levels(dynamics: number, ...order: Parameters<typeof heavyInstrument>): number[] {
  const { instrument, audio } = heavyInstrument(...order);
  return instrument.positions.map(({ id }) => {
    const engine = new Engine(4);
    engine.ensureTracks(1);
    engine.tracks[0].setInstrument(prepareInstrument(instrument, audio));
    engine.tracks[0].setMix(mixOf([id]), 48_000);
    engine.reset();
    const control = { kind: 'control', frame: 0, track: 0, controller: 1, value: dynamics } as const;
    engine.setEvents([control, startEvent({ frame: 0 })]);
    const [left, right] = [new Float32Array(128), new Float32Array(128)];
    let sum = 0;
    for (let b = 0; b < 200; b++) {
      engine.renderMix(left, right);
      if (b >= 100) for (const value of left) sum += value * value;
    }
    return 10 * Math.log10(sum / 12_800);
  });
}

describe('the instrument a machine is tried by', () => {
  it('sounds from four positions unless told otherwise, each alike', () => {
    const { instrument } = heavyInstrument();
    expect(instrument.positions).toHaveLength(4);
    expect(instrument.articulations.map(({ id, zones }) => [id, zones.length])).toEqual([['long', 2]]);
    const found = levels(64);
    // A sine of 8000 in 32768 is −15.3 dB; 30 dB less as its zones say.
    for (const level of found) expect(Math.abs(level - -45.3)).toBeLessThan(1);
    expect(levels(64, 2, 4000, ['x'])).toHaveLength(1);
  });
  it('crosses from its first layer to its second, which is half an octave up', () => {
    const { instrument } = heavyInstrument();
    const [first, second] = instrument.articulations[0].zones;
    expect([first.fades[0].controller, second.fades[0].controller]).toEqual([1, 1]);
    for (const dynamics of [0, 30, 90, 127])
      for (const level of levels(dynamics)) expect(Math.abs(level - -45.3)).toBeLessThan(1.5);
    expect(heavyInstrument(1).instrument.articulations[0].zones[0].fades).toEqual([]);
  });
  it('has a filter unless it is to have none', () => {
    expect(heavyInstrument().instrument.articulations[0].zones[0].cutoffHz).toBe(4000);
    expect(heavyInstrument(2, 0).instrument.articulations[0].zones[0].cutoffHz).toBeUndefined();
    // Its second layer lies at 760 Hz: a low-pass at 100 Hz leaves little of it.
    expect(levels(127, 2, 100)[0]).toBeLessThan(levels(127, 2, 0)[0] - 15);
  });
});
