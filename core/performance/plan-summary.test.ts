import { describe, expect, it } from 'vitest';
import type { Plan } from './plan.ts';
import type { Segment } from './planned.ts';
import { planSummary } from './plan-summary.ts';

const sound = (articulation: number, lead: number, gesture = 'attack') => ({
  articulation,
  gesture,
  beatSeconds: 10,
  startSeconds: 10 - lead,
});
const plan = (...segments: { sounds?: object[]; findings?: [string, string][] }[]) =>
  ({
    context: { instrument: { articulations: [{ name: 'long' }, { name: 'staccato' }] } },
    segments: segments.map(
      ({ sounds = [], findings = [] }) =>
        ({
          count: 1,
          takes: false,
          sounds,
          findings: findings.map(([sentence, noteId]) => ({ sentence, noteId })),
        }) as unknown as Segment,
    ),
  }) as unknown as Plan;

describe('what is told of a plan', () => {
  it('are the shortest and the longest lead of each technique, recorded moves by themselves, held notes aside', () => {
    const { leads } = planSummary(
      plan(
        { sounds: [sound(0, 0.1), sound(1, 0.02)] },
        { sounds: [sound(0, 0.25), sound(0, 0.05), sound(0, 0.2)] },
        {
          sounds: [sound(0, 0.4, 'move'), sound(1, 9, 'hold')],
        },
      ),
    );
    const told = [...leads].map(([name, { low, high }]) => [name, low.toFixed(2), high.toFixed(2)]);
    expect(told).toEqual([
      ['long', '0.05', '0.25'],
      ['staccato', '0.02', '0.02'],
      ['recorded moves', '0.40', '0.40'],
    ]);
  });
  it('are its first twelve findings, each once with all its notes', () => {
    const two = planSummary(
      plan(
        {
          findings: [
            ['low', 'a'],
            ['high', 'b'],
          ],
        },
        { findings: [['low', 'c']] },
      ),
    );
    expect(two.findings).toEqual([
      { sentence: 'low', noteIds: ['a', 'c'] },
      { sentence: 'high', noteIds: ['b'] },
    ]);
    const many = Array.from({ length: 20 }, (_, i): [string, string] => [`${i}`, 'n']);
    expect(planSummary(plan({ findings: many })).findings.map(({ sentence }) => sentence)).toEqual(
      many.slice(0, 12).map(([sentence]) => sentence),
    );
  });
});
