import { describe, expect, it } from 'vitest';
import { figuresOf as position, KEYS, reportOf as report } from '../../testing/reports.ts';
import type { ArticulationReport, KeyLevel, PositionFigures } from '../figures.ts';
import { ADVICE, findingsOf, type ReportedInstrument } from './index.ts';

/** Findings over reports whose figures are written down here: what stands out is told, at its place, and nothing else. */

const findings = (reports: ArticulationReport[], kind: ReportedInstrument['kind'] = 'section') =>
  findingsOf({ name: 'Tide', kind, reports }, []);
const told = (reports: ArticulationReport[], kind?: ReportedInstrument['kind']) =>
  findings(reports, kind).map(({ code, figure, position: id }) =>
    [code, figure, id].filter(Boolean).join(' | '),
  );
/** Levels with one of them changed, in every position. */
const changed = (key: number, layer: number, change: (one: KeyLevel) => Partial<KeyLevel>) =>
  ['close', 'far'].map((id) =>
    position(id, {
      levels: position(id).levels.map((one) =>
        one.key === key && one.layer === layer ? { ...one, ...change(one) } : one,
      ),
    }),
  );

describe('a clean report', () => {
  it('has no findings', () => {
    expect(told([report('long'), report('staccato')])).toEqual([]);
  });
});

describe('a layer of one key', () => {
  it.each([
    [60, 1, 3],
    [48, 2, -4],
    [72, 0, 2.5],
  ])('%s, layer %s, that is %s LU off is told with its place', (key, layer, db) => {
    const [one, ...others] = findings([
      report('long', { positions: changed(key, layer, ({ lufs }) => ({ lufs: lufs + db })) }),
    ]);
    expect(others).toEqual([]);
    expect(one).toMatchObject({ code: 'layer-step', weight: 'fault', hear: { keys: [key], shape: 'rise' } });
    expect(one.sentence).toContain(`layer ${layer + 1} of`);
    expect(one.sentence).toContain(db > 0 ? 'louder' : 'softer');
    expect(Math.abs(Number(/is ([\d.]+) LU/.exec(one.sentence)?.[1]) - Math.abs(db))).toBeLessThan(0.6);
  });
  it('is told from five keys on: of fewer nobody knows what is usual', () => {
    const few = (count: number) => {
      const keys = KEYS.filter((_, i) => i < count);
      return report('long', {
        positions: changed(keys[2], 1, ({ lufs }) => ({ lufs: lufs + 4 })).map((one) => ({
          ...one,
          levels: one.levels.filter(({ key }) => keys.includes(key)),
        })),
      });
    };
    expect(told([few(5)])).toHaveLength(1);
    expect(told([few(4)])).toEqual([]);
  });
  it('that is less than 2 LU off is let pass', () => {
    expect(
      told([report('long', { positions: changed(60, 1, ({ lufs }) => ({ lufs: lufs + 1.5 })) })]),
    ).toEqual([]);
  });
  it('is not told where all keys differ as much, or where only the whole key is louder', () => {
    const rough = position('close').levels.map((one) => ({
      ...one,
      lufs: one.lufs + 1.2 * Math.sin(one.key * 5.3 + one.layer * 2.1),
    }));
    expect(
      told([
        report('long', {
          positions: [position('close', { levels: rough }), position('far', { levels: rough })],
        }),
      ]),
    ).toEqual([]);
    const key = position('close').levels.map((one) =>
      one.key === 60 ? { ...one, lufs: one.lufs + 4 } : one,
    );
    expect(
      told([
        report('long', { positions: [position('close', { levels: key }), position('far', { levels: key })] }),
      ]),
    ).toEqual([]);
  });
  it('that one position alone shows is let pass, and asks for more where there is but one', () => {
    const [close, far] = changed(60, 1, ({ lufs }) => ({ lufs: lufs + 3 }));
    expect(told([report('long', { positions: [close, position('far')] })])).toEqual([]);
    expect(told([report('long', { positions: [close] })])).toEqual([]);
    expect(told([report('long', { positions: [close, far] })])).toHaveLength(1);
    const more = changed(60, 1, ({ lufs }) => ({ lufs: lufs + 5 }));
    expect(told([report('long', { positions: more.slice(0, 1) })])).toHaveLength(1);
  });
  it('of an ensemble is not told: the next key may be another instrument', () => {
    const positions = changed(60, 1, ({ lufs }) => ({ lufs: lufs + 6 }));
    expect(told([report('long', { positions })], 'ensemble')).toEqual([]);
  });
  it('of two is named where its own neighbours show it, else both are: neither is known to be odd', () => {
    const two = (change: (one: KeyLevel) => Partial<KeyLevel>) => {
      const positions = ['close', 'far'].map((id) =>
        position(id, {
          levels: position(id)
            .levels.filter(({ layer }) => layer < 2)
            .map((one) => (one.key === 60 ? { ...one, ...change(one) } : one)),
        }),
      );
      return findings([report('long', { positions, layers: 2 })]);
    };
    const [odd] = two(({ layer, lufs }) => ({ lufs: layer === 1 ? lufs - 5 : lufs }));
    expect(odd.sentence).toContain('layer 2 of C4 is 5.0 LU softer');
    const [soft] = two(({ layer, lufs }) => ({ lufs: layer === 0 ? lufs - 5 : lufs }));
    expect(soft.sentence).toContain('layer 1 of C4 is 5.0 LU softer');
    // Both moved by half of it: which of them is off nobody can tell.
    const [either] = two(({ layer, lufs }) => ({ lufs: lufs + (layer === 1 ? 2.5 : -2.5) }));
    expect(either.sentence).toContain(
      'the upper of the two layers of C4 is 5.0 LU louder against the lower than beside it',
    );
    const [nearer] = two(({ layer, lufs }) => ({ lufs: lufs + (layer === 1 ? -2 : 2) }));
    expect(nearer.sentence).toContain('the upper of the two layers of C4 is 4.0 LU softer against the lower');
    const [darker] = two(({ layer, centroidHz }) => ({
      centroidHz: layer === 1 ? centroidHz / 1.3 : centroidHz * 1.3,
    }));
    expect(darker.sentence).toContain('the upper of the two layers of C4 is darker against the lower');
  });
  it('that is darker or brighter is told', () => {
    const darker = changed(64, 2, ({ centroidHz }) => ({ centroidHz: centroidHz / 1.5 }));
    const [one] = findings([report('long', { positions: darker })]);
    expect(one).toMatchObject({
      code: 'layer-colour',
      weight: 'fault',
      figure: '0.6 octaves at E4',
      hear: { articulation: 'long', shape: 'rise', keys: [64] },
    });
    expect(one.sentence).toBe(
      'long: layer 3 of E4 is darker than beside it, by 0.6 octaves of its spectrum’s middle. A crescendo changes colour there.',
    );
    expect(one.severity).toBeCloseTo(Math.log2(1.5) / 0.3, 1);
    const brighter = changed(64, 2, ({ centroidHz }) => ({ centroidHz: centroidHz * 1.5 }));
    expect(findings([report('long', { positions: brighter })])[0].sentence).toContain(
      'layer 3 of E4 is brighter than',
    );
    // A fifth of an octave is none.
    const hardly = changed(64, 2, ({ centroidHz }) => ({ centroidHz: centroidHz * 1.15 }));
    expect(told([report('long', { positions: hardly })])).toEqual([]);
  });
});

describe('layers of all keys', () => {
  const curve = (key: number, at: number, stepLu: number) => ({
    key,
    controller: 'dynamics' as const,
    lufs: [],
    centroidHz: [],
    steps: [
      {
        at,
        stepLu,
        stepOctaves: 0.2,
        overlap: 10,
        coherence: 0.9,
      },
    ],
  });
  it('that jump are told by the step in the middle; what one key alone has is not', () => {
    const step = [curve(48, 60, 6), curve(60, 62, 7), curve(72, 61, 9)];
    expect(told([report('long', { curves: step })])).toEqual(['layer-step | +7.0 LU']);
    const [one] = findings([report('long', { curves: step })]);
    expect(one).toMatchObject({
      weight: 'fault',
      articulation: 'long',
      position: null,
      hear: { articulation: 'long', shape: 'rise', keys: [60] },
    });
    expect(one.sentence).toBe(
      'long: at controller 62 the next layer takes over with a jump of +7.0 LU and +0.2 octaves of brightness. A slow crescendo will break there.',
    );
    // Five LU are just a fault.
    expect(one.severity).toBeCloseTo(7 / 5, 9);
    const [softer] = findings([
      report('long', {
        curves: step.map((one) => ({ ...one, steps: one.steps.map((at) => ({ ...at, stepLu: -5 })) })),
      }),
    ]);
    expect([softer.figure, softer.severity]).toEqual(['−5.0 LU', 1]);
    const less = step.map((one) => ({ ...one, steps: one.steps.map((at) => ({ ...at, stepLu: 4.9 })) }));
    expect(told([report('long', { curves: less })])).toEqual([]);
    // Places up to so far apart are one.
    const wide = [curve(48, 52, 6), curve(60, 60, 7), curve(72, 68, 9)];
    const wider = [curve(48, 51, 6), curve(60, 60, 7), curve(72, 69, 9)];
    expect([wide, wider].map((curves) => told([report('long', { curves })]).length)).toEqual([1, 0]);
    const alone = [curve(48, 60, 0.5), curve(60, 62, 9), curve(72, 61, 1)];
    expect(told([report('long', { curves: alone })])).toEqual([]);
    const apart = [curve(48, 20, 9), curve(60, 62, 9), curve(72, 100, 9)];
    expect(told([report('long', { curves: apart })])).toEqual([]);
  });
  it.each([
    ['solo', 40, 0.49, ['two-sources | 40 steps']],
    ['solo', 39, 0.49, []],
    ['solo', 40, 0.5, []],
    ['section', 90, 0.1, []],
  ] as const)('of a %s that cross over %i steps with %s in common', (kind, overlap, coherence, expected) => {
    const one = curve(60, 62, 0);
    const crossed = { ...one, steps: one.steps.map((step) => ({ ...step, overlap, coherence })) };
    expect(told([report('long', { curves: [crossed] })], kind)).toEqual(expected);
  });
  it('of a soloist that cross for long are worth knowing, with where', () => {
    const one = curve(60, 62, 0);
    const crossed = { ...one, steps: one.steps.map((step) => ({ ...step, overlap: 44, coherence: 0.2 })) };
    const [finding, ...more] = findings([report('long', { curves: [crossed] })], 'solo');
    expect(more).toEqual([]);
    expect(finding).toMatchObject({
      weight: 'note',
      severity: 1,
      articulation: 'long',
      position: null,
      hear: { articulation: 'long', shape: 'rise', keys: [60] },
    });
    expect(finding.sentence).toBe(
      'long: over 44 steps of the controller around 62 two recordings of C4 sound side by side; a soloist may seem to be two.',
    );
    // Ruled by velocity they are never heard together for long.
    expect(told([report('long', { curves: [{ ...crossed, controller: 'velocity' }] })], 'solo')).toEqual([]);
  });
});

describe('tuning', () => {
  const off = (key: number, cents: number, errorCents = 0.5) =>
    KEYS.map((one) => ({
      key: one,
      driftCents: 0,
      errorCents,
      cents: ((one * 5) % 3) + (one === key ? cents : 0),
    }));
  it.each([
    [60, 11],
    [48, -12],
    [72, 20],
  ])('of key %s by %s cents is told, also at the ends of the range', (key, cents) => {
    const [one, ...others] = findings([report('long', { tuning: off(key, cents) })]);
    expect(others).toEqual([]);
    expect(one).toMatchObject({ code: 'mistuned', articulation: 'long' });
    expect(
      Math.abs(Number(/stand (\d+) cents/.exec(one.sentence)?.[1]) - Math.abs(cents)),
    ).toBeLessThanOrEqual(2);
    expect(one.sentence).toContain(cents > 0 ? 'sharp' : 'flat');
  });
  it('of a short note is the room’s where something rings on beside it, and the note’s own where it is held', () => {
    // F3 is at 174.6 Hz: 182 Hz lies 72 cents above it, 186 Hz 110.
    const keys = [50, 53, 56, 59, 62];
    const tuning = keys.map((key) => ({ key, cents: key === 53 ? 37 : 0, errorCents: 0.5, driftCents: 0 }));
    const heard = (id: string, hertz: number) =>
      findings([
        report(id, { tuning }),
        report('tremolo', { positions: [position('close', { ringing: [{ hertz, excessDb: 12 }] })] }),
      ])
        .filter(({ code }) => code === 'mistuned')
        .map(({ figure }) => figure);
    expect(heard('staccatissimo', 182)).toEqual([]);
    expect(heard('staccatissimo', 186)).toEqual(['+37 ¢ at F3']);
    expect(heard('long', 182)).toEqual(['+37 ¢ at F3']);
  });
  it('is told from four roots on', () => {
    const few = (count: number) => {
      const tuning = [48, 52, 60, 64, 68, 72].slice(0, count).map((key) => ({
        key,
        cents: key === 52 ? 30 : 0,
        errorCents: 0.1,
        driftCents: 0,
      }));
      return told([report('long', { tuning })]);
    };
    expect(few(3)).toEqual([]);
    expect(few(4)).toEqual(['mistuned | +30 ¢ at E3']);
  });
  it('is let pass below eight cents, where it is not sure, in short notes below eighteen, and where it slopes', () => {
    expect(told([report('long', { tuning: off(60, 6) })])).toEqual([]);
    expect(told([report('long', { tuning: off(60, 12, 4) })])).toEqual([]);
    expect(told([report('staccato', { tuning: off(60, 16) })])).toEqual([]);
    const stretched = KEYS.map((key) => ({ key, cents: key - 60, errorCents: 0.5, driftCents: 0 }));
    expect(told([report('long', { tuning: stretched })])).toEqual([]);
  });
});

describe('positions', () => {
  const both = (far: Partial<PositionFigures>) =>
    ['long', 'staccato'].map((id) => report(id, { positions: [position('close'), position('far', far)] }));
  it('that hiss above −69 dBFS are told, others are not', () => {
    expect(told(both({ noiseDb: -64 }))).toEqual(['noisy | −64 dBFS | far']);
    const [one] = findings(both({ noiseDb: -63, noiseBelowDb: 31.4 }));
    expect(one).toMatchObject({
      weight: 'fault',
      // Six decibels more are twice as bad.
      severity: 2,
      articulation: null,
      position: 'far',
      hear: { articulation: 'long', shape: 'note', keys: [60], position: 'far' },
    });
    expect(one.sentence).toBe(
      'The far position hisses at −63 dBFS, 31 dB under its notes; several sections of it will be heard in quiet places.',
    );
    expect(told(both({ noiseDb: -69 }))).toHaveLength(1);
    expect(told(both({ noiseDb: -69.1 }))).toEqual([]);
    expect(told(both({ noiseDb: -70 }))).toEqual([]);
    expect(told(both({ noiseDb: null }))).toEqual([]);
  });
  it('that are turned over are told by most techniques', () => {
    expect(told(both({ isInverted: true }))).toEqual(['polarity | turned over | far']);
    expect(told(both({ isInverted: null }))).toEqual([]);
    const [turned] = findings(both({ isInverted: true }));
    expect(turned).toMatchObject({
      weight: 'fault',
      severity: 3,
      articulation: null,
      hear: { position: 'far' },
    });
    expect(turned.sentence).toBe(
      'The waves of the far position are turned over against those of the close one; mixed, they take the body out of each other.',
    );
    const [one, other] = both({ isInverted: true });
    expect(told([one, { ...other, positions: [position('close'), position('far')] }])).toEqual([]);
  });
  it('whose two sides are one on some keys are told with these keys', () => {
    const mono = (keys: number[], usual = 0.6) =>
      position('far').levels.map((one) => ({ ...one, correlation: keys.includes(one.key) ? 1 : usual }));
    expect(told(both({ levels: mono([52, 56]) }), 'solo')).toEqual([
      'mono-keys | one point at E3 … G#3 | far',
    ]);
    expect(told(both({ levels: mono([60]) }))).toEqual(['mono-keys | one point at C4 | far']);
    const [three] = findings(both({ levels: mono([52, 56, 60]) }));
    expect(three.sentence).toBe(
      'The far position has both sides alike at E3, G#3 and C4, and not elsewhere: a line through there falls into one point.',
    );
    expect(three).toMatchObject({
      weight: 'fault',
      severity: 1.3,
      hear: { articulation: 'long', shape: 'pair', keys: [52, 48], position: 'far' },
    });
    expect(findings(both({ levels: mono([48, 52]) }))[0].hear?.keys).toEqual([48, 56]);
    // More than half of the keys are no exception.
    expect(told(both({ levels: mono([48, 52, 56]) }))).toHaveLength(1);
    expect(told(both({ levels: mono([48, 52, 56, 60]) }))).toEqual([]);
    // Where all are one, or hardly wider, it is no matter of some keys.
    expect(told(both({ levels: mono(KEYS) }), 'solo')).toEqual([]);
    expect(told(both({ levels: mono([52, 56], 0.996) }), 'solo')).toEqual([]);
  });
  it('of a section that are one point altogether are told as such', () => {
    expect(told(both({ width: { correlation: 0.95, sideDb: -16 } }))).toEqual([
      'mono-point | correlation 0.95 | far',
    ]);
    const [one] = findings(both({ width: { correlation: 0.93, sideDb: -14 } }));
    expect(one.severity).toBeCloseTo(1.5, 9);
    expect(one.sentence).toBe(
      'The far position of this section is nearly one point (correlation 0.93): alone it seems too near for an orchestra.',
    );
    expect(one).toMatchObject({
      weight: 'fault',
      hear: { articulation: 'long', shape: 'note', position: 'far' },
    });
    expect(told(both({ width: { correlation: 0.86, sideDb: -14 } }))).toHaveLength(1);
    expect(told(both({ width: { correlation: 0.859, sideDb: -14 } }))).toEqual([]);
    expect(told(both({ width: null }))).toEqual([]);
    expect(told(both({ width: { correlation: 0.95, sideDb: -16 } }), 'solo')).toEqual([]);
  });
  it('in which something rings on are told once, whatever the techniques', () => {
    const rings = (hertz: number) => both({ ringing: [{ hertz, excessDb: 15 }] });
    expect(told(rings(610))).toEqual(['ringing | 610 Hz | far']);
    const [one, other] = rings(610);
    expect(told([one, { ...other, positions: [position('close'), position('far')] }])).toEqual([]);
    const everywhere = report('long', {
      positions: ['close', 'far'].map((id) => position(id, { ringing: [{ hertz: 302, excessDb: 12 }] })),
    });
    expect(told([everywhere])).toEqual(['ringing | 302 Hz']);
    const [all] = findings([everywhere]);
    expect(all.sentence).toBe(
      'Something in the room rings on at 302 Hz after all notes, in close, far: when the rest has died away it stands 12 dB out of it.',
    );
    expect(all).toMatchObject({
      weight: 'fault',
      severity: 1.6,
      articulation: null,
      hear: { position: 'close' },
    });
    expect(findings(rings(610))[0].sentence).toContain('after all notes, in the far position: when');
  });
  it('in which two things ring have both told, those within a sixth of an octave as one', () => {
    const list = (...hertz: number[]) =>
      both({ ringing: hertz.map((one) => ({ hertz: one, excessDb: 15 })) });
    expect(told(list(610, 1480))).toEqual(['ringing | 610 Hz | far', 'ringing | 1480 Hz | far']);
    expect(told(list(600, 620))).toEqual(['ringing | 610 Hz | far']);
    expect(told(list(600, 690))).toHaveLength(2);
  });
});

describe('a technique', () => {
  const shorts = (levels: Record<string, number>) =>
    Object.entries(levels).map(([id, lufs]) =>
      report(id, { positions: [position('close', { loudnessLufs: lufs })] }),
    );
  it('that is three LU louder than its fellows is told; softer ones, and those among uneven fellows, are not', () => {
    const even = { staccato: -30, staccatissimo: -30.2, 'off the string': -29.8, 'broad short': -30 };
    expect(told(shorts({ ...even, staccato: -26 }))).toEqual(['out-of-level | +4.0 LU']);
    expect(told(shorts({ ...even, staccato: -28 }))).toEqual([]);
    expect(told(shorts({ ...even, staccato: -40 }))).toEqual([]);
    const uneven = { staccato: -30, staccatissimo: -26, 'off the string': -34, 'broad short': -25.5 };
    expect(told(shorts(uneven))).toEqual([]);
  });
  it('whose takes speak at different times is told with the note and by how much', () => {
    const onsets = KEYS.flatMap((key) =>
      [0, 1, 2].map((take) => ({
        key,
        layer: 0,
        take,
        riseSeconds: 0.01,
        seconds: key === 64 && take === 1 ? 0.05 : 0.012,
      })),
    );
    const [one] = findings([report('staccato', { onsets })]);
    expect(one).toMatchObject({ code: 'late-short', hear: { keys: [64] } });
    expect(one.sentence).toContain('takes of E4 differ by 38 ms');
  });
});

describe('findings', () => {
  it('come faults first, the worst before the others, each with what to do about it', () => {
    const list = findings([
      report('long', {
        chords: [{ key: 60, lowMidsDb: 9, presenceDb: 0 }],
        tuning: KEYS.map((key) => ({ key, cents: key === 60 ? 9 : 0, errorCents: 0, driftCents: 0 })),
        positions: changed(60, 1, ({ lufs }) => ({ lufs: lufs + 8 })),
      }),
    ]);
    expect(list.map(({ code }) => code)).toEqual(['layer-step', 'mistuned', 'triad-growth']);
    for (const { code } of list) expect(ADVICE[code].length).toBeGreaterThan(20);
  });
});
