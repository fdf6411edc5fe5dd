import { openPage, shown } from '../testing/open-page.ts';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { undo } from './documents.ts';
import { tempoOf } from './cue.ts';
import { useDocuments } from './documents.ts';
import { changeAt } from '#core/music/index.ts';
import {
  addMetre,
  addTempo,
  drawTempo,
  fitTempo,
  moveChange,
  removeChange,
  removeTempoAt,
  setMetre,
  setRamp,
  setSignature,
  setTempo,
  setTempoAt,
  tempoFit,
  tempoLine,
} from './time-edits.ts';

const BAR = 3840;
let page: Awaited<ReturnType<typeof openPage>>;
const open = async (records: Parameters<typeof openPage>[0] = {}) => {
  page = await openPage(records);
};
afterEach(() => page.close());
const tempos = () => shown('tempo').map(({ tick, bpm }) => [tick, bpm]);
const metres = () =>
  shown('metre').map(({ tick, numerator, denominator }) => [tick, `${numerator}/${denominator}`]);

describe('the change that holds at a tick', () => {
  beforeEach(() => open());
  it('is the last one at or before it', () => {
    const list = [{ tick: 960 }, { tick: 0 }, { tick: 480 }];
    expect([0, 479, 480, 2000].map((tick) => changeAt(list, tick)?.tick)).toEqual([0, 0, 480, 960]);
    expect(changeAt([{ tick: 5 }], 4)).toBeUndefined();
  });
});

describe('tempo and metre where none is set', () => {
  beforeEach(() => open());
  it('are set from the beginning on, wherever the playhead is', () => {
    setTempo(9000, 72);
    setMetre(9000, 3, 4);
    expect([tempos(), metres()]).toEqual([[[0, 72]], [[0, '3/4']]]);
  });
  it('keep what held before a change that is added', () => {
    addTempo(2 * BAR);
    expect(tempos()).toEqual([
      [0, 120],
      [2 * BAR, 120],
    ]);
    undo();
    expect(tempos()).toEqual([]);
    addTempo(0);
    expect(tempos()).toEqual([[0, 120]]);
  });
});

describe('changes of tempo and metre', () => {
  beforeEach(() =>
    open({
      tempo: [
        { id: 't1', tick: 0, bpm: 60 },
        { id: 't2', tick: 4 * BAR, bpm: 90 },
      ],
      metre: [
        { id: 'm1', tick: 0, numerator: 4, denominator: 4 },
        { id: 'm2', tick: 4 * BAR, numerator: 3, denominator: 4 },
      ],
    }),
  );
  it('are set where the playhead is, within what a cue can have', () => {
    setTempo(4 * BAR - 1, 66);
    setTempo(5 * BAR, 5000);
    setMetre(9 * BAR, 6, 8);
    expect(tempos()).toEqual([
      [0, 66],
      [4 * BAR, 999],
    ]);
    expect(metres()[1]).toEqual([4 * BAR, '6/8']);
  });
  it('are added as it is there: a metre at the beginning of its bar, each place once', () => {
    expect(addTempo(5 * BAR + 7)).toBe(true);
    expect(addTempo(5 * BAR + 7)).toBe(false);
    // Bar 6 begins three quarters after bar 5.
    expect(addMetre(4 * BAR + 2880 + 100)).toBe(true);
    expect(addMetre(4 * BAR + 2880 + 2000)).toBe(false);
    expect(tempos()[2]).toEqual([5 * BAR + 7, 90]);
    expect(metres()[2]).toEqual([4 * BAR + 2880, '3/4']);
  });
  it('are moved, but never onto each other, and taken out', () => {
    expect(moveChange('tempo', 't2', 0)).toBe(false);
    expect(moveChange('tempo', 't2', 3 * BAR)).toBe(true);
    expect(moveChange('metre', 'm2', 4 * BAR)).toBe(true);
    removeChange('metre', shown('metre')[1] as never);
    expect([tempos(), metres()]).toEqual([
      [
        [0, 60],
        [3 * BAR, 90],
      ],
      [[0, '4/4']],
    ]);
    undo();
    expect(metres()).toHaveLength(2);
  });
});

describe('tempos that move', () => {
  beforeEach(() =>
    open({
      tempo: [
        { id: 't1', tick: 0, bpm: 60, ramp: false },
        { id: 't2', tick: 2 * BAR, bpm: 120, ramp: false },
      ],
    }),
  );
  const moving = () => shown('tempo').map(({ tick, bpm, ramp }) => [tick, bpm, ramp]);
  it('go to the next, or hold again', () => {
    const [first] = shown('tempo');
    setRamp(first, true);
    expect(tempoOf(useDocuments.getState().records).bpmAt(BAR)).toBeCloseTo(90, 9);
    undo();
    expect(tempoOf(useDocuments.getState().records).bpmAt(BAR)).toBeCloseTo(60, 9);
  });
  it('go through what is added on their way', () => {
    setRamp(shown('tempo')[0], true);
    addTempo(BAR);
    expect(moving()[1]).toEqual([BAR, 90, true]);
    undo();
    setTempo(BAR, 70);
    expect(moving()).toEqual([
      [0, 60, true],
      [BAR, 70, true],
      [2 * BAR, 120, false],
    ]);
    // Where it begins, it is changed itself.
    setTempo(0, 50);
    expect(moving()[0]).toEqual([0, 50, true]);
    expect(moving()).toHaveLength(3);
  });
  it('the last one holds, whatever it is set to', () => {
    setRamp(shown('tempo')[1], true);
    setTempo(3 * BAR, 100);
    expect(moving()).toEqual([
      [0, 60, false],
      [2 * BAR, 100, true],
    ]);
  });
});

describe('a place that is to fall on a time', () => {
  beforeEach(() =>
    open({
      tempo: [{ id: 't1', tick: 0, bpm: 60, ramp: false }],
      marker: [
        { id: 'k1', tick: 2 * BAR, text: 'Door' },
        { id: 'k2', tick: 4 * BAR, text: 'Sea' },
      ],
    }),
  );
  const timeOf = (tick: number) => tempoOf(useDocuments.getState().records).toSeconds(tick);
  it('does, and what comes after keeps its tempo', () => {
    fitTempo(2 * BAR, 7.3);
    expect(timeOf(2 * BAR)).toBeCloseTo(7.3, 6);
    expect(timeOf(3 * BAR) - timeOf(2 * BAR)).toBeCloseTo(4, 6);
    // One step takes it back.
    undo();
    expect(timeOf(2 * BAR)).toBeCloseTo(8, 9);
  });
  it('leaves the marker before it where it was', () => {
    fitTempo(2 * BAR, 7.3);
    fitTempo(4 * BAR, 16);
    expect(timeOf(2 * BAR)).toBeCloseTo(7.3, 6);
    expect(timeOf(4 * BAR)).toBeCloseTo(16, 6);
    expect(timeOf(5 * BAR) - timeOf(4 * BAR)).toBeCloseTo(4, 6);
  });
  it('leaves a tempo that is on its way to where it is fitted from as it is', () => {
    setRamp(shown('tempo')[0], true);
    addTempo(BAR);
    setTempo(BAR, 120);
    // ∫ 60/(60 + 15 q) dq over four quarters.
    expect(timeOf(BAR)).toBeCloseTo(4 * Math.LN2, 6);
    fitTempo(2 * BAR, 5);
    expect(timeOf(BAR)).toBeCloseTo(4 * Math.LN2, 6);
    expect(timeOf(2 * BAR)).toBeCloseTo(5, 6);
  });
  it('cannot where the tempo would leave what a cue can have; it is told what can', () => {
    expect(tempoFit(2 * BAR, 0)).toContain('between 0:00.48');
    // Eight quarters at 5 a minute.
    expect(tempoFit(2 * BAR, 97)).toContain('1:36');
    fitTempo(2 * BAR, 97);
    expect(timeOf(2 * BAR)).toBeCloseTo(8, 9);
    expect(tempoFit(0, 3)).toContain('0:00');
  });
});

describe('key signatures', () => {
  beforeEach(() => open({ metre: [{ id: 'm', version: 1, tick: 0, numerator: 3, denominator: 4 }] }));
  const signatures = () => shown('signature').map(({ tick, fifths }) => [tick, fifths]);
  it('stand at the beginning of the bar they are set in; one bar has one', () => {
    setSignature(2880 + 100, -3);
    setSignature(2880 + 2000, 2);
    setSignature(0, 1);
    expect(signatures()).toEqual([
      [0, 1],
      [2880, 2],
    ]);
  });
  it('are moved to where none stands, and taken out again', () => {
    setSignature(0, 1);
    setSignature(2880, 2);
    const [one, two] = shown('signature');
    expect(moveChange('signature', two.id, 0)).toBe(false);
    expect(moveChange('signature', two.id, 5760)).toBe(true);
    removeChange('signature', one);
    expect(signatures()).toEqual([[5760, 2]]);
    undo();
    undo();
    undo();
    expect(signatures()).toEqual([[0, 1]]);
  });
});

describe('the tempo as it is drawn', () => {
  beforeEach(() => open());
  const ramps = () => shown('tempo').map(({ tick, bpm, ramp }) => [tick, bpm, ramp]);
  it('moves from place to place and holds behind the last, in the place of what was there, as one step', () => {
    setTempo(0, 100);
    addTempo(BAR);
    addTempo(3 * BAR);
    drawTempo([
      { tick: BAR / 2, bpm: 80 },
      { tick: BAR, bpm: 90.123 },
      { tick: 2 * BAR, bpm: 2000 },
    ]);
    expect(ramps()).toEqual([
      [0, 100, false],
      [BAR / 2, 80, true],
      [BAR, 90.1, true],
      [2 * BAR, 999, false],
      [3 * BAR, 100, false],
    ]);
    undo();
    expect(ramps()).toEqual([
      [0, 100, false],
      [BAR, 100, false],
      [3 * BAR, 100, false],
    ]);
  });
  it('keeps what held before where none was set', () => {
    drawTempo([{ tick: BAR, bpm: 80 }]);
    expect(ramps()).toEqual([
      [0, 120, false],
      [BAR, 80, false],
    ]);
    drawTempo([]);
    expect(ramps()).toHaveLength(2);
  });
  it('is drawn level where it holds, and straight where it moves', () => {
    drawTempo([
      { tick: 0, bpm: 60 },
      { tick: BAR, bpm: 90 },
    ]);
    setTempoAt(2 * BAR, 120);
    expect(tempoLine(shown('tempo') as never)).toEqual([
      { tick: 0, bpm: 60 },
      { tick: BAR, bpm: 90 },
      { tick: 2 * BAR - 1, bpm: 90 },
      { tick: 2 * BAR, bpm: 120 },
    ]);
  });
  it('is set and taken out place by place, but for the beginning', () => {
    setTempoAt(0, 60);
    setTempoAt(BAR, 72);
    setTempoAt(BAR, 75);
    removeTempoAt(0);
    removeTempoAt(5);
    expect(tempos()).toEqual([
      [0, 60],
      [BAR, 75],
    ]);
    removeTempoAt(BAR);
    expect(tempos()).toEqual([[0, 60]]);
  });
});
