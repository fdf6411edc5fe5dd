import { describe, expect, it } from 'vitest';
import { DEMO_LIBRARIES } from '#core/recording/index.ts';
import { demoId } from './libraries.ts';
import { NIGHT_CROSSING } from './night-crossing.ts';
import { ORCHESTRA } from './orchestra.ts';

/** The demo's whole orchestra and what it plays. */

const plans = new Map(
  DEMO_LIBRARIES.flatMap((library) =>
    library.instruments.map((plan) => [demoId(library.slug, plan.slug), { plan, library }] as const),
  ),
);
const played = ORCHESTRA.map((track) => ({ track, part: NIGHT_CROSSING.parts[track.name] }));

describe('the orchestra', () => {
  it('has 36 tracks of every family but “other”, each of whose positions there is', () => {
    expect(ORCHESTRA).toHaveLength(36);
    expect(new Set(ORCHESTRA.map(({ name }) => name)).size).toBe(36);
    expect([...new Set(ORCHESTRA.map(({ family }) => family))].sort()).toEqual(
      ['winds', 'brass', 'percussion', 'keys', 'choir', 'strings'].sort(),
    );
    for (const { name, instrumentId, levels } of ORCHESTRA) {
      const known = plans.get(instrumentId);
      if (name === 'Lamp bells') expect(levels).toEqual({ mix: -6 });
      else expect(Object.keys(levels)).toEqual(known?.library.hall.mics.map(({ id }) => id));
    }
  });
});

describe('its cue', () => {
  it('lasts about 75 seconds, and everybody plays in it, inside it', () => {
    const seconds = (NIGHT_CROSSING.bars * 4 * 60) / NIGHT_CROSSING.bpm;
    expect(seconds).toBe(75);
    for (const { part } of played) {
      expect(part.notes.length).toBeGreaterThan(0);
      for (const { startTick, endTick } of [...part.notes, ...part.marks]) {
        expect(startTick).toBeGreaterThanOrEqual(0);
        expect(endTick).toBeGreaterThan(startTick);
        expect(endTick).toBeLessThanOrEqual(NIGHT_CROSSING.endTick);
      }
    }
    expect(Object.keys(NIGHT_CROSSING.parts)).toHaveLength(36);
  });
  it('asks nobody for a key or a technique they do not have', () => {
    for (const { track, part } of played) {
      const plan = plans.get(track.instrumentId)?.plan;
      if (!plan) continue;
      const techniques = plan.techniques.map(({ id }) => id);
      for (const { key, velocity } of part.notes) {
        expect(`${track.name} ${key >= plan.low && key <= plan.high ? '' : key}`).toBe(`${track.name} `);
        expect(velocity).toBeGreaterThan(0);
        expect(velocity).toBeLessThan(128);
      }
      for (const { articulation } of [...part.marks, track])
        expect(`${track.name}: ${techniques.includes(articulation) ? '' : articulation}`).toBe(
          `${track.name}: `,
        );
    }
  });
  it('goes from pp to ff in every family that has a dynamics curve, and by velocity in the others', () => {
    for (const family of ['winds', 'brass', 'choir', 'strings'] as const) {
      const values = played
        .filter(({ track }) => track.family === family)
        .flatMap(({ part }) => part.dynamics.map(([, value]) => value));
      expect(Math.min(...values)).toBeLessThan(45);
      expect(Math.max(...values)).toBeGreaterThan(110);
    }
    for (const family of ['percussion', 'keys'] as const) {
      const values = played
        .filter(({ track }) => track.family === family)
        .flatMap(({ part }) => part.notes.map(({ velocity }) => velocity));
      expect(Math.max(...values) - Math.min(...values)).toBeGreaterThan(50);
    }
  });
  it('has no note of one track on top of the same key, and lines that are connected one note at a time', () => {
    for (const { track, part } of played) {
      const connected = part.marks.filter(({ articulation }) => articulation === 'connected');
      const sorted = [...part.notes].sort((a, b) => a.startTick - b.startTick);
      sorted.forEach((note, i) => {
        for (const next of sorted.slice(i + 1)) {
          if (next.startTick >= note.endTick) break;
          expect(`${track.name} ${next.key === note.key ? note.key : ''}`).toBe(`${track.name} `);
          const inLine = connected.some(
            (mark) => next.startTick >= mark.startTick && next.startTick < mark.endTick,
          );
          expect(`${track.name} ${inLine ? next.startTick / 3840 : ''}`).toBe(`${track.name} `);
        }
      });
    }
  });
});
