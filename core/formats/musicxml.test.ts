import { XMLParser, XMLValidator } from 'fast-xml-parser';
import { describe, expect, it } from 'vitest';
import type { Mark, Note, Part } from '../music/index.ts';
import { writeMusicXml, type Score } from './index.ts';

const Q = 960;
const note = (id: string, startTick: number, ticks: number, key = 60): Note => ({
  id,
  startTick,
  endTick: startTick + ticks,
  key,
  velocity: 80,
});
const mark = (startTick: number, endTick: number, articulation: string): Mark => ({
  id: `${articulation} ${startTick}`,
  startTick,
  endTick,
  articulation,
});
const part = (notes: Note[], more: Partial<Part> = {}): Part => ({ notes, marks: [], points: [], ...more });
const score = (parts: Part[], more: Partial<Score> = {}): Score => ({
  title: 'The Lamp & the “Sea”',
  tempos: [{ tick: 0, bpm: 84 }],
  metres: [{ tick: 0, numerator: 4, denominator: 4 }],
  keys: [],
  markers: [],
  endTick: 0,
  parts: parts.map((one, i) => ({ name: `Tide ${i + 1}`, part: one, articulation: 'long' })),
  ...more,
});

type Element = Record<string, unknown>;
const list = (value: unknown): Element[] =>
  (value === undefined ? [] : Array.isArray(value) ? value : [value]) as Element[];
/** The document as objects, read by a parser that knows nothing of the writer; attributes have a sign in front. */
function read(one: Score) {
  const xml = writeMusicXml(one);
  expect(XMLValidator.validate(xml)).toBe(true);
  const parsed = new XMLParser({
    ignoreAttributes: false,
    attributeNamePrefix: '@',
    parseTagValue: false,
  }).parse(xml) as Element;
  const root = parsed['score-partwise'] as Element;
  const bars = (at: number) => list((list(root.part)[at] as Element).measure);
  return { xml, root, bars };
}
const pitchOf = ({ pitch, rest }: Element) => {
  if (rest !== undefined) return 'r';
  const { step, alter, octave } = pitch as Record<string, string>;
  return `${step}${alter === undefined ? '' : Number(alter) > 0 ? '#' : 'b'}${octave}`;
};
const notes = (bar: Element) =>
  list(bar.note).map((one) => `${pitchOf(one)} ${String(one.duration)} ${String(one.type ?? 'bar')}`);

describe('MusicXML', () => {
  it('has title, parts and what every staff begins with', () => {
    const { xml, root, bars } = read(
      score([part([note('a', 0, Q)]), part([note('b', 0, Q, 40)])], {
        metres: [{ tick: 0, numerator: 3, denominator: 4 }],
      }),
    );
    expect(root['@version']).toBe('4.0');
    expect((root.work as Element)['work-title']).toBe('The Lamp & the “Sea”');
    expect(xml).toContain('The Lamp &amp; the');
    expect(list((root['part-list'] as Element)['score-part'])).toEqual([
      { 'part-name': 'Tide 1', '@id': 'P1' },
      { 'part-name': 'Tide 2', '@id': 'P2' },
    ]);
    const [attributes] = list(bars(0)[0].attributes);
    expect(attributes).toMatchObject({
      divisions: '48',
      time: { beats: '3', 'beat-type': '4' },
      clef: { sign: 'G' },
    });
    expect(list(bars(1)[0].attributes)[0]).toMatchObject({ clef: { sign: 'F', line: '4' } });
  });
  it('writes notes and rests with their lengths, and fills every bar', () => {
    const { bars } = read(score([part([note('a', 0, Q, 61), note('b', 2 * Q, Q / 2, 70)])]));
    expect(notes(bars(0)[0])).toEqual([
      'C#4 48 quarter',
      'r 48 quarter',
      'Bb4 24 eighth',
      'r 24 eighth',
      'r 48 quarter',
    ]);
  });
  it('ties what goes over a bar line, and writes chords, triplets and second voices', () => {
    const { bars } = read(
      score([
        part([
          note('a', 3 * Q, 2 * Q, 64),
          note('b', 5 * Q, 320),
          note('c', 5 * Q + 320, 320, 62),
          note('d', 5 * Q + 640, 320, 64),
          note('e', 6 * Q, Q, 67),
          note('f', 6 * Q, Q, 71),
          note('g', 6 * Q, 2 * Q, 48),
        ]),
      ]),
    );
    const ties = list(bars(0)[0].note).map((one) => list(one.tie).map((tie) => tie['@type']));
    expect(ties.at(-1)).toEqual(['start']);
    const second = list(bars(0)[1].note);
    expect(list(second[0].tie)).toEqual([{ '@type': 'stop' }]);
    expect(second[1]).toMatchObject({
      type: 'eighth',
      duration: '16',
      'time-modification': { 'actual-notes': '3', 'normal-notes': '2' },
      notations: { tuplet: { '@type': 'start' } },
    });
    expect(second.filter((one) => one.chord !== undefined).map(pitchOf)).toEqual(['G4']);
    expect(second.filter((one) => one.voice === '2').map(pitchOf)).toEqual(['r', 'C3']);
    expect((bars(0)[1].backup as Element).duration).toBe('192');
    for (const bar of bars(0))
      for (const voice of ['1', '2']) {
        const own = list(bar.note).filter((one) => one.voice === voice && one.chord === undefined);
        if (own.length > 0) expect(own.reduce((sum, one) => sum + Number(one.duration), 0)).toBe(192);
      }
  });
  it('says tempos, those that move too, metres and markers over the first staff alone', () => {
    const { bars, xml } = read(
      score([part([note('a', 0, Q)]), part([note('b', 0, Q)])], {
        tempos: [
          { tick: 0, bpm: 60, ramp: true },
          { tick: 2 * 3840, bpm: 90.5 },
        ],
        markers: [{ tick: 3840 + Q, text: 'Lamp' }],
        endTick: 3 * 3840,
      }),
    );
    const all = bars(0).flatMap((bar) => list(bar.direction));
    expect(all.map(({ 'direction-type': type }) => Object.keys(type as Element)[0])).toEqual([
      'metronome',
      'words',
      'rehearsal',
      'metronome',
    ]);
    expect(all[1]).toMatchObject({ 'direction-type': { words: 'accel.' } });
    // A bar's rest begins with the bar: the marker stands a beat behind.
    expect(all[2]).toMatchObject({ 'direction-type': { rehearsal: 'Lamp' }, offset: '48' });
    expect(all[3].sound).toEqual({ '@tempo': '90.5' });
    // Between them the tempo goes up step by step.
    const steps = bars(0).flatMap((bar) => list(bar.sound).map((one) => Number(one['@tempo'])));
    expect(steps.length).toBeGreaterThan(4);
    expect(steps).toEqual([...steps].sort((a, b) => a - b));
    expect(xml.match(/metronome>/g)).toHaveLength(4);
    expect(bars(1).flatMap((bar) => list(bar.direction))).toEqual([]);
  });
  it('has marks as words, signs and slurs, and says the usual again', () => {
    const four = [0, 1, 2, 3, 4, 5, 6, 7].map((beat) => note(`n${beat}`, beat * Q, Q, 60 + beat));
    const { bars } = read(
      score([
        part(four, {
          marks: [
            mark(0, 2 * Q, 'pizzicato'),
            mark(4 * Q, 6 * Q, 'staccato'),
            mark(6 * Q, 8 * Q, 'connected'),
          ],
        }),
      ]),
    );
    const words = bars(0)
      .flatMap((bar) => list(bar.direction))
      .map(({ 'direction-type': type }) => (type as Element).words)
      .filter((one) => one !== undefined);
    expect(words).toEqual(['pizz.', 'ord.']);
    const second = list(bars(0)[1].note).map(({ notations }) => notations as Element | undefined);
    expect(second.map((one) => Object.keys(one ?? {}).join())).toEqual([
      'articulations',
      'articulations',
      'slur',
      'slur',
    ]);
    expect(second.slice(2).map((one) => (one as { slur: Element }).slur['@type'])).toEqual(['start', 'stop']);
  });
  it('has two staffs where notes lie on both sides of middle C, each with its clef and voices of its own', () => {
    const { bars } = read(
      score([
        part([note('a', 0, Q, 72), note('b', 0, 2 * Q, 48), note('c', Q, Q, 74), note('d', 2 * Q, Q, 76)]),
      ]),
    );
    const [attributes] = list(bars(0)[0].attributes);
    expect(attributes.staves).toBe('2');
    expect(list(attributes.clef).map((one) => `${String(one['@number'])} ${String(one.sign)}`)).toEqual([
      '1 G',
      '2 F',
    ]);
    const own = list(bars(0)[0].note).map(
      (one) => `${pitchOf(one)} ${String(one.staff)} ${String(one.voice)}`,
    );
    expect(own).toEqual(['C5 1 1', 'D5 1 1', 'E5 1 1', 'r 1 1', 'C3 2 5', 'r 2 5']);
  });
  it('has one staff where too few notes lie well beside middle C on one side', () => {
    const staves = (keys: readonly number[]) => {
      const { bars } = read(score([part(keys.map((key, i) => note(`n${i}`, i * Q, Q, key)))]));
      return bars(0).flatMap((bar) => list(bar.attributes).map(({ staves: count }) => count));
    };
    // Three of twenty are 15 in 100; five semitones off are near.
    const many = (count: number, key: number) => Array.from({ length: count }, () => key);
    expect(staves([...many(17, 72), ...many(3, 54)])[0]).toBe('2');
    expect(staves([...many(18, 72), ...many(2, 54)])[0]).toBeUndefined();
    expect(staves([...many(17, 72), ...many(3, 55)])[0]).toBeUndefined();
    expect(staves([...many(17, 48), ...many(3, 65)])[0]).toBeUndefined();
    expect(staves([...many(17, 48), ...many(3, 66)])).toEqual(['2']);
  });
  it('has dynamics and hairpins from the curve', () => {
    const points = [
      { id: 'a', controller: 1, tick: 0, value: 30 },
      { id: 'b', controller: 1, tick: 4 * Q, value: 110 },
    ];
    const { bars } = read(score([part([note('a', 0, 4 * Q), note('b', 4 * Q, Q)], { points })]));
    const said = bars(0).flatMap((bar) =>
      list(bar.direction).map(({ 'direction-type': type }) => {
        const { wedge, dynamics } = type as Record<string, Element | undefined>;
        return wedge ? String(wedge['@type']) : dynamics ? Object.keys(dynamics)[0] : 'tempo';
      }),
    );
    expect(said.sort()).toEqual(['crescendo', 'ff', 'p', 'stop', 'tempo']);
  });
  it('of an empty cue is bars of rest', () => {
    const { bars } = read(score([part([])], { endTick: 2 * 3840 }));
    expect(bars(0).map(notes)).toEqual([['r 192 bar'], ['r 192 bar']]);
    expect(list(list(bars(0)[0].note)[0].rest as Element | string as never)).toEqual([{ '@measure': 'yes' }]);
  });
});
