import { describe, expect, it } from 'vitest';
import { figuresOf, keyLevel, reportOf } from '../testing/reports.ts';
import type { ArticulationReport, OnsetFigure } from './index.ts';
import { READINGS } from './index.ts';
import { unevennessLu } from './reading-table.ts';

/** The lines of the table over figures that are written down here: what is said of them, and what is played. */

const read = (
  id: string,
  report: ArticulationReport,
  { all = [report], position }: { all?: readonly ArticulationReport[]; position?: string } = {},
) => READINGS.find((one) => one.id === id)?.read({ report, all, position, middleC: 4 });
const words = (...args: Parameters<typeof read>) => {
  const reading = read(...args);
  return reading && [reading.figure, reading.meaning];
};
const onset = (key: number, take: number, seconds: number, riseSeconds = 0.01): OnsetFigure => ({
  key,
  layer: 0,
  take,
  seconds,
  riseSeconds,
});
const onsets = (...seconds: number[]) =>
  reportOf('staccato', { onsets: seconds.map((one, i) => onset(60, i, one)) });

describe('when notes speak', () => {
  it.each([
    [[0.014], 'at once'],
    [[0.015], 'a little late'],
    [[0.0349], 'a little late'],
    [[0.035], 'late: start it ahead of the beat'],
    [[0.01, 0.0301], 'takes differ; fast lines limp'],
    [[0.01, 0.0299], 'a little late'],
  ])('%j s is: %s', (seconds, meaning) => {
    expect(read('speaks', onsets(...seconds))?.meaning.startsWith(meaning)).toBe(true);
  });
  it('is told with how takes and keys differ, and heard where takes differ most', () => {
    const report = reportOf('staccato', {
      onsets: [onset(48, 0, 0.01), onset(48, 1, 0.012), onset(60, 0, 0.02), onset(60, 1, 0.03)],
    });
    expect(read('speaks', report)).toEqual({
      figure: '16 ms',
      meaning: 'a little late; takes of a note differ by up to 10 ms; keys by 14 ms',
      hear: { articulation: 'staccato', shape: 'repeat', keys: [60] },
    });
    const single = reportOf('staccato', { takes: 1, onsets: [onset(48, 0, 0.01)] });
    expect(read('speaks', single)?.meaning).toBe('at once; keys by 0 ms');
    for (const id of ['speaks', 'lead', 'fastest']) expect(read(id, reportOf('staccato'))).toBeNull();
  });
  it('asks for a lead of half the rise more', () => {
    const report = reportOf('long', { onsets: [onset(60, 0, 0.02, 0.06), onset(62, 0, 0.02, 0.06)] });
    expect(words('lead', report)).toEqual(['50 ms', 'started so much earlier, it stands on the beat']);
  });
  it('lets short notes be repeated as fast as they stay even; long ones are not asked', () => {
    // Five times a spread of 20 ms: a tenth of a second, sixteenths at 150.
    expect(words('fastest', onsets(0.01, 0.03))?.[0]).toBe('sixteenths at 150');
    // Twice a rise of 100 ms: a fifth, sixteenths at 75; beyond 72 they are quavers.
    const slow = (rise: number) => reportOf('staccato', { onsets: [onset(60, 0, 0.01, rise)] });
    expect(words('fastest', slow(0.1))?.[0]).toBe('sixteenths at 75');
    expect(words('fastest', slow(0.11))?.[0]).toBe('eighths at 136');
    expect(words('fastest', slow(0.5))?.[0]).toBe('quarters at 60');
    // Nothing is faster than a trill.
    expect(words('fastest', onsets(0.01))?.[0]).toBe('sixteenths at 240');
    expect(read('fastest', reportOf('long', { onsets: [onset(60, 0, 0.01)] }))).toBeNull();
  });
});

describe('takes and layers', () => {
  const same = (kind: 'repeated' | 'borrowed', key: number, take: number, layer = 0) => ({
    kind,
    key,
    layer,
    take,
    otherKey: key,
    otherTake: 0,
  });
  it('are counted once a note and take, whatever the layers', () => {
    const sameTakes = [
      same('repeated', 48, 1),
      same('repeated', 48, 1, 1),
      same('repeated', 60, 1),
      same('borrowed', 64, 2),
    ];
    expect(read('takes', reportOf('staccato', { sameTakes }))).toEqual({
      figure: '3',
      meaning: '2 repeated, 1 borrowed from another key',
      hear: { articulation: 'staccato', shape: 'repeat', keys: [48] },
    });
    expect(words('takes', reportOf('staccato'))).toEqual(['3', 'all different']);
    expect(words('takes', reportOf('staccato', { takes: 1 }))).toEqual(['1', 'every repetition is the same']);
    expect(read('takes', reportOf('staccato'))?.hear?.keys).toEqual([60]);
    expect(read('takes', reportOf('staccato', { range: null }))?.hear?.keys).toEqual([60]);
  });
  const curve = (
    controller: 'dynamics' | 'velocity',
    ...steps: [at: number, lu: number, octaves?: number][]
  ) => ({
    key: 62,
    controller,
    lufs: [],
    centroidHz: [],
    steps: steps.map(([at, stepLu, stepOctaves = 0]) => ({
      at,
      stepLu,
      stepOctaves,
      overlap: 10,
      coherence: 0.9,
    })),
  });
  it('join or break at the greatest step, in words', () => {
    const told = (...steps: [number, number, number?][]) =>
      words('steps', reportOf('long', { curves: [curve('dynamics', ...steps)] }));
    expect(told([40, 1], [80, -2.94, -0.2])).toEqual([
      '−2.9 LU, 0.2 octaves darker, at 80',
      'joined smoothly',
    ]);
    expect(told([40, 3, 0.31])).toEqual(['+3.0 LU, 0.3 octaves brighter, at 40', 'a crescendo breaks there']);
    expect(told([40, 0, 0.04])?.[0]).toBe('+0.0 LU, as bright, at 40');
    expect(told()).toBeNull();
  });
  it('are those of the dynamics where these are ridden, else those of how hard a key is struck', () => {
    const both = [curve('velocity', [50, 9]), curve('dynamics', [70, 2])];
    expect(words('steps', reportOf('long', { curves: both }))?.[0]).toContain('at 70');
    expect(words('steps', reportOf('long', { curves: both.slice(0, 1) }))?.[0]).toContain('at 50');
  });
  it.each([
    [20, 0.49, true],
    [19, 0.1, false],
    [30, 0.5, false],
  ])('over %i steps that have %s in common: two sources %s', (overlap, coherence, isTwo) => {
    const [one] = [curve('dynamics', [60, 1])];
    const curves = [{ ...one, steps: one.steps.map((step) => ({ ...step, overlap, coherence })) }];
    expect(words('steps', reportOf('long', { curves }))?.[1].includes('two sources in the blend')).toBe(
      isTwo,
    );
  });
});

describe('levels and tuning', () => {
  const levels = (lufs: readonly number[]) =>
    reportOf('long', {
      positions: [
        figuresOf('close', { levels: lufs.map((value, i) => keyLevel(48 + i, 1, { lufs: value })) }),
      ],
    });
  it('tell evenness by what is left of a slope, with its extremes', () => {
    expect(unevennessLu([0, 1, 2, 3].map((i) => ({ key: 48 + 5 * i, lufs: -30 + 2 * i })))).toBeCloseTo(0, 9);
    // +1 −1 −1 +1 about the mean: no slope, a deviation of one.
    expect(unevennessLu([1, -1, -1, 1].map((lufs, i) => ({ key: 60 + i, lufs })))).toBeCloseTo(1, 9);
    expect(
      unevennessLu([
        { key: 1, lufs: 5 },
        { key: 2, lufs: -5 },
      ]),
    ).toBe(0);
    const off = (by: number) => words('even', levels([by, -by, -by, by].map((value) => value - 20)));
    expect(off(1)).toEqual(['± 1.0 LU', 'even; softest C#3, loudest C3']);
    expect(off(2)?.[1]).toMatch(/^as players are/);
    expect(off(3)?.[1]).toMatch(/^uneven/);
    expect(read('even', levels([-20, -20, -20]))?.hear).toMatchObject({ shape: 'pair', position: 'close' });
    expect(read('even', levels([-20, -21]))).toBeNull();
    expect(read('even', reportOf('long', { positions: [] }))).toBeNull();
  });
  it('tell loudness against the other techniques', () => {
    const of = (id: string, loudnessLufs: number | null) =>
      reportOf(id, { positions: [figuresOf('close', { loudnessLufs })] });
    const [loud, soft, softer] = [of('long', -20), of('tremolo', -26), of('muted', -30)];
    expect(words('loudness', loud, { all: [loud, soft, softer] })).toEqual([
      '−20.0 LUFS',
      '+6.0 LU against the instrument’s other techniques',
    ]);
    expect(words('loudness', softer, { all: [loud, soft, softer] })?.[1]).toMatch(/^−4\.0 LU/);
    expect(words('loudness', loud)?.[1]).toBe('nothing else is measured to hold it against');
    expect(read('loudness', of('long', null))).toBeNull();
    // What has no figure is no part of the middle.
    expect(words('loudness', loud, { all: [loud, of('x', null), softer] })?.[1]).toMatch(/^\+5\.0/);
  });
  it('tell tuning by its middle and what stands furthest from it', () => {
    const tuning = [
      [48, -2, 1],
      [60, 0, -7],
      [72, 3, 2],
    ].map(([key, cents, driftCents]) => ({ key, cents, driftCents, errorCents: 0 }));
    expect(read('tuning', reportOf('long', { tuning }))).toEqual({
      figure: '+0 ¢; +3 ¢ at C5',
      meaning: 'drifts by 7 ¢ at most',
      hear: { articulation: 'long', shape: 'pair', keys: [70, 72, 74] },
    });
    const low = tuning.map((one) => ({ ...one, cents: one.cents - 20 }));
    expect(words('tuning', reportOf('long', { tuning: low }))?.[0]).toBe('−20 ¢; −17 ¢ at C5');
    expect(read('tuning', reportOf('long', { tuning: [] }))).toBeNull();
  });
});

describe('held notes, vibrato and moves', () => {
  const sustain = (repeatsAfterSeconds: number, seam: number, movementDb = 2) => ({
    key: 55,
    layer: 0,
    movementDb,
    repeatsAfterSeconds,
    seam,
  });
  const held = (...sustains: ReturnType<typeof sustain>[]) =>
    words('held', reportOf('long', { sustains: sustains as never }));
  it('tell how they repeat, and the worst seam', () => {
    expect(held(sustain(2, 0.99), sustain(3, 0.95))).toEqual([
      'move by 2.0 dB',
      'repeat every 2.50 s, its seam is not heard',
    ]);
    expect(held(sustain(2, 0.94))?.[1]).toContain('its seam is hardly heard');
    expect(held(sustain(2, 0.95))?.[1]).toContain('its seam is not heard');
    expect(held(sustain(2, 0.85))?.[1]).toContain('its seam is hardly heard');
    expect(held(sustain(2, 0.99), sustain(2, 0.84))?.[1]).toContain('its seam is heard');
    expect(held(sustain(0, 0))?.[1]).toBe('no loop: they end when the recording does');
    expect(held()).toBeNull();
  });
  const vibrato = (key: number, hertz: number, cents: number, ridden: boolean) => ({
    key,
    hertz,
    cents,
    ridden,
  });
  it('tell vibrato where there is any, and whether it can be ridden', () => {
    const of = (...list: ReturnType<typeof vibrato>[]) =>
      read('vibrato', reportOf('long', { vibrato: list }));
    expect(of(vibrato(60, 5, 20, false), vibrato(62, 6, 30, false))).toMatchObject({
      figure: '5.5 Hz, ± 20…30 ¢',
      meaning: 'always there; it cannot be taken out',
      hear: { keys: [60] },
    });
    expect(of(vibrato(60, 5, 20, false), vibrato(62, 6, 30, true))?.meaning).toBe(
      'brought in by its controller',
    );
    expect(of(vibrato(60, 5, 3, true))).toBeNull();
    // What hardly moves is none, and is not counted.
    expect(of(vibrato(60, 9, 2, true), vibrato(62, 5, 20, false))?.figure).toBe('5.0 Hz, ± 20…20 ¢');
  });
  const moves = (...list: [interval: number, seconds: number][]) =>
    read(
      'moves',
      reportOf('connected', { moves: list.map(([interval, seconds]) => ({ interval, seconds, count: 1 })) }),
    );
  it('tell when moves land, and how fast a line may be by hand', () => {
    expect(moves([2, 0.08], [-7, 0.15], [0, 0.9])).toEqual({
      figure: '80…150 ms',
      meaning: 'slowest over 7 semitones down; by hand, lines up to sixteenths at 100',
      hear: { articulation: 'connected', shape: 'move', keys: [60, 53] },
    });
    expect(moves([5, 0.03])?.meaning).toBe(
      'slowest over 5 semitones up; by hand, lines up to sixteenths at 240',
    );
    expect(moves([0, 0.1])).toBeNull();
    expect(moves()).toBeNull();
  });
});

describe('the room', () => {
  const near = figuresOf('close', {
    decay: { seconds: 0.9, rangeDb: 30 },
    directToRoomDb: 12,
    tailSeconds: 1.24,
    width: { correlation: 0.7, sideDb: -8 },
  });
  const far = figuresOf('far', {
    decay: null,
    tailSeconds: null,
    noiseDb: null,
    arrivalSeconds: 0.02,
    isInverted: true,
    width: null,
    why: {
      decay: 'it is cut short',
      tailSeconds: 'it never ends',
      noise: 'it is never silent',
      directToRoomDb: 'it is dry',
    },
  });
  const report = reportOf('long', { positions: [near, far] });
  it('is told of the position that is looked at; of one that is not there, of the nearest', () => {
    expect(words('tail', report)).toEqual(['1.2 s', 'in the close position']);
    expect(words('tail', report, { position: 'gone' })).toEqual(['1.2 s', 'in the close position']);
    expect(read('tail', report)?.hear).toMatchObject({ shape: 'note', keys: [60], position: 'close' });
  });
  it('says why there is no figure, and is silent where there is no reason', () => {
    const at = { position: 'far' };
    expect(words('decay', report, at)).toEqual(['', 'cannot be measured, because it is cut short']);
    expect(words('tail', report, at)).toEqual(['', 'cannot be measured, because it never ends']);
    expect(words('noise', report, at)).toEqual(['', 'cannot be measured, because it is never silent']);
    expect(words('direct', report, at)).toEqual(['', 'cannot be measured, because it is dry']);
    expect(read('width', report, at)).toBeNull();
    const bare = reportOf('long', { positions: [figuresOf('close', { noiseDb: null })] });
    for (const id of ['decay', 'tail', 'direct', 'noise']) expect(read(id, bare)).toBeNull();
    const none = reportOf('long', { positions: [] });
    for (const id of ['decay', 'tail', 'direct', 'noise', 'width', 'arrives'])
      expect(read(id, none)).toBeNull();
  });
  const with1 = (more: Parameters<typeof figuresOf>[1]) =>
    reportOf('long', { positions: [figuresOf('close', more)] });
  it.each([
    [1.1, 'dry'],
    [1.11, 'hall'],
    [2, 'hall'],
    [2.01, 'long room'],
  ])('that decays in %s s is: %s', (seconds, meaning) => {
    expect(words('decay', with1({ decay: { seconds, rangeDb: 20 } }))).toEqual([
      `${seconds.toFixed(1)} s`,
      `${meaning}; from 20 dB of decay`,
    ]);
  });
  it.each([
    [10.1, 'near and dry'],
    [10, 'present, with room'],
    [3, 'as much room as direct sound'],
    [-3, 'as much room as direct sound'],
    [-3.1, 'the room leads'],
  ])('a room %s dB under its direct sound is: %s', (directToRoomDb, meaning) => {
    expect(words('direct', with1({ directToRoomDb }))?.[1]).toBe(meaning);
  });
  it('hears the players later further away, and says so in metres', () => {
    expect(words('arrives', report, { position: 'far' })).toEqual([
      '20.0 ms',
      'about 6.9 m farther away; its waves are turned over',
    ]);
    expect(read('arrives', report)).toBeNull();
    const unknown = reportOf('long', {
      positions: [near, figuresOf('far', { arrivalSeconds: null, why: { arrival: 'it is noise' } })],
    });
    expect(words('arrives', unknown, { position: 'far' })).toEqual([
      '',
      'cannot be measured, because it is noise',
    ]);
  });
  it.each([
    [0.996, 'a bare mono point'],
    [0.995, 'narrow'],
    [0.85, 'wide'],
    [0, 'wide'],
    [-0.01, 'out of phase; thin in mono'],
  ])('whose sides correlate by %s is: %s', (correlation, meaning) => {
    expect(words('width', with1({ width: { correlation, sideDb: -8.4 } }))).toEqual([
      `correlation ${correlation.toFixed(2).replace('-', '−')}, sides −8 dB`,
      meaning,
    ]);
  });
  it('has its hiss told as it is played, and how far below the notes', () => {
    expect(words('noise', with1({}))).toEqual(['−90 dBFS', '60 dB under its notes']);
    expect(words('noise', with1({ noiseBelowDb: null }))?.[1]).toBe('as it is played');
  });
});

describe('chords and range', () => {
  it('tell the triad that gathers most', () => {
    const chords = [
      { key: 48, lowMidsDb: 2.9, presenceDb: -1 },
      { key: 60, lowMidsDb: 0, presenceDb: 3 },
    ];
    expect(read('triad', reportOf('long', { chords }))).toEqual({
      figure: 'low mids +0.0, presence +3.0 dB',
      meaning: 'chords thicken',
      hear: { articulation: 'long', shape: 'chord', keys: [60, 64, 67] },
    });
    expect(words('triad', reportOf('long', { chords: chords.slice(0, 1) }))).toEqual([
      'low mids +2.9, presence −1.0 dB',
      'chords stay clear',
    ]);
    expect(read('triad', reportOf('long'))).toBeNull();
  });
  it('count keys and layers', () => {
    expect(read('range', reportOf('long'))).toEqual({
      figure: 'A#2 to D5',
      meaning: '29 keys, 3 layers',
      hear: { articulation: 'long', shape: 'pair', keys: [46, 74] },
    });
    expect(words('range', reportOf('long', { layers: 1 }))?.[1]).toBe('29 keys, 1 layer');
    expect(read('range', reportOf('long', { range: null }))).toBeNull();
  });
});
