import { describe, expect, it } from 'vitest';
import { CONTROLLER, controllerRest } from '../music/index.ts';
import {
  PARAMETERS,
  paceShare,
  PLAIN_TOUCH,
  plainRide,
  Responses,
  startSeconds,
  tellParameter,
  trimSeconds,
  type ParameterId,
  type Ride,
} from './index.ts';

const ride = (parameter: ParameterId, fields: Partial<Ride>): Ride => ({
  ...plainRide(parameter),
  ...fields,
});

describe('how controllers are answered', () => {
  it('as usual: each number moves its parameter, straight, over the whole range', () => {
    const usual = new Responses();
    for (const { id, controller } of PARAMETERS) {
      expect(usual.moved(controller)).toEqual([id]);
      expect([0, 40, 127].map((value) => usual.shape(id, value))).toEqual([0, 40, 127]);
      expect(usual.rest(id)).toBe(controllerRest(controller));
      expect([usual.written(controller), usual.wire(controller)]).toEqual([controller, controller]);
    }
    expect(new Set(PARAMETERS.map(({ controller }) => controller)).size).toBe(PARAMETERS.length);
    expect(usual.moved(7)).toEqual([]);
    expect(usual.isGivenUp(7)).toBe(false);
  });
  it('by another number once it is learned; the usual one then moves nothing', () => {
    const learned = new Responses([ride('dynamics', { controller: 2 })]);
    expect(learned.moved(2)).toEqual(['dynamics']);
    expect([learned.moved(1), learned.isGivenUp(1)]).toEqual([[], true]);
    expect([learned.written(2), learned.wire(CONTROLLER.dynamics)]).toEqual([1, 2]);
    const both = new Responses([ride('vibrato', { controller: 1 })]);
    expect(both.moved(1)).toEqual(['dynamics', 'vibrato']);
  });
  it('along a curve, within a range that may be turned round', () => {
    const late = new Responses([ride('vibrato', { curve: 1 })]);
    // One half to the power of four is a sixteenth.
    expect(late.shape('vibrato', 63.5)).toBeCloseTo(127 / 16, 9);
    const early = new Responses([ride('vibrato', { curve: -1 })]);
    expect(early.shape('vibrato', 127 / 16)).toBeCloseTo(63.5, 9);
    const turned = new Responses([ride('release', { low: 100, high: 20 })]);
    expect([0, 127].map((value) => turned.shape('release', value))).toEqual([100, 20]);
    expect(turned.shape('release', 300)).toBe(20);
    expect(new Responses([ride('dynamics', { low: 30, rest: 0 })]).rest('dynamics')).toBe(30);
  });
  it('by what another is moved with, along a curve of its own', () => {
    const linked = new Responses([ride('vibrato', { follows: 'dynamics', low: 20, high: 84 })]);
    expect(linked.leader('vibrato')).toBe('dynamics');
    expect(linked.led('dynamics')).toEqual(['dynamics', 'vibrato']);
    expect(linked.led('vibrato')).toEqual([]);
    expect(linked.shape('vibrato', 127)).toBe(84);
    // It rests where its leader does: dynamics at 80 of 127.
    expect(linked.rest('vibrato')).toBeCloseTo(20 + (64 * 80) / 127, 9);
  });
});

describe('what velocity and dynamics do', () => {
  const struck = (
    touch: object,
    group: Parameters<Responses['struck']>[0],
    velocity: number,
    dynamics: number,
  ) => new Responses([], { ...PLAIN_TOUCH, ...touch }).struck(group, velocity, dynamics);
  it('is nothing beyond the recordings unless the keymap says so', () => {
    for (const group of ['long', 'short', 'connected', 'pattern'] as const)
      expect(struck({}, group, 40, 10)).toEqual({ velocity: 40, levelDb: 0 });
  });
  it('may be the level of longs, in decibels from 127 down', () => {
    expect(struck({ longVelocityDb: 12 }, 'long', 127, 0).levelDb).toBeCloseTo(0, 9);
    expect(struck({ longVelocityDb: 12 }, 'connected', 1, 0).levelDb).toBeCloseTo(-12, 9);
    expect(struck({ longVelocityDb: 12 }, 'long', 64, 0).levelDb).toBeCloseTo(-6, 9);
    expect(struck({ longVelocityDb: 12 }, 'short', 1, 0).levelDb).toBe(0);
  });
  it('may be the level of shorts by dynamics, or their force: from as struck to always loud', () => {
    expect(struck({ shortDynamics: 'level' }, 'short', 50, 127)).toEqual({ velocity: 50, levelDb: -0 });
    expect(struck({ shortDynamics: 'level' }, 'short', 50, 0).levelDb).toBe(-24);
    expect(struck({ shortDynamics: 'force' }, 'short', 50, 0).velocity).toBe(50);
    expect(struck({ shortDynamics: 'force' }, 'short', 50, 127).velocity).toBe(127);
    expect(struck({ shortDynamics: 'force' }, 'short', 27, 63.5).velocity).toBe(77);
    expect(struck({ shortDynamics: 'force' }, 'long', 50, 127).velocity).toBe(50);
  });
  it('is told in the units of each', () => {
    expect(tellParameter('trim', 127)).toBe('cuts 60 ms away');
    expect(tellParameter('drift', 127)).toBe('up to 15.0 cents');
    expect(tellParameter('release', 127.5)).toBe('4.00 × as recorded');
    expect(tellParameter('ends', 32)).toBe('−6.0 dB');
    expect([tellParameter('ends', 0), tellParameter('expression', 0)]).toEqual(['off', 'silent']);
    expect(tellParameter('attack', 127)).toBe('fades in over 1000 ms');
    expect(tellParameter('pace', 127)).toBe('25 % of a move is heard');
    expect(tellParameter('start', 127)).toBe('up to 80 ms in');
    expect(tellParameter('dynamics', 127)).toBe('100 %');
    // Recorded noises as their level: 64 as recorded, 127 as good as twice as loud.
    expect([0, 32, 64, 127].map((value) => tellParameter('noise', value))).toEqual([
      'off',
      '−6.0 dB',
      '0.0 dB',
      '6.0 dB',
    ]);
    expect([64, 96].map((value) => tellParameter('attack', value))).toEqual([
      'as recorded, or quicker',
      'fades in over 258 ms',
    ]);
    expect(tellParameter('expression', 64)).toBe('−11.9 dB');
  });
  it('has bounds in seconds and shares', () => {
    expect([trimSeconds(0), trimSeconds(127), trimSeconds(-5)]).toEqual([0, 0.06, 0]);
    expect([startSeconds(0), startSeconds(127)]).toEqual([0, 0.08]);
    expect([paceShare(0), paceShare(127)]).toEqual([1, 0.25]);
  });
});
