import { describe, expect, it } from 'vitest';
import { foundInSfz, readSfz, type FoundZone } from '../formats/index.ts';
import {
  assemble,
  guessMeanings,
  joinZones,
  offerJoins,
  readJoinedSample,
  type NamedZones,
} from './index.ts';

/** An instrument file as SFZ: some keys in two layers and two takes. */
function file(name: string, more = '', keys = [60, 64, 67]): NamedZones {
  const text = keys
    .flatMap((key) =>
      [1, 2].flatMap((take) =>
        ['lovel=1 hivel=80', 'lovel=81 hivel=127'].map(
          (layer, l) =>
            `<region> sample=s/${key}_${take}_${l}.wav key=${key} ${layer} seq_length=2 seq_position=${take} ${more}`,
        ),
      ),
    )
    .join('\n');
  const read = readSfz(`${name}.sfz`, () => text);
  const facts = new Map(
    read.regions.map(({ opcodes }) => [
      opcodes.get('sample')?.value ?? '',
      { frames: 100, rate: 48_000, loops: [] },
    ]),
  );
  return { name, zones: foundInSfz(read, facts, name).found };
}
const tell = (files: NamedZones[]) =>
  offerJoins(files).map(({ name, isSure, files: list }) => [
    `${name}${isSure ? '' : ' ?'}`,
    ...list.map((one) => `${one.position}: ${one.file}`),
  ]);

describe('files that are positions of one instrument', () => {
  it.each([
    [['Heron Cellos close', 'Heron Cellos tree', 'Heron Cellos far'], 'Heron Cellos'],
    [['Reeds_Hall', 'Reeds_Close'], 'Reeds'],
    [['ClosePipes', 'RoomPipes'], 'Pipes'],
    [['01 Low Brass (Close)', '01 Low Brass (Far)'], '01 Low Brass'],
  ])('are told from %s', (names, name) => {
    const [offer, ...others] = offerJoins(names.map((one) => file(one)));
    expect(others).toEqual([]);
    expect(offer).toMatchObject({ name, isSure: true });
    expect(offer.files.map((one) => one.file).sort()).toEqual([...names].sort());
    expect(offer.reason).toContain('the same keys, layers and takes');
  });
  it('are offered near to far, instrument by instrument', () => {
    const files = ['Horns far', 'Tubas close', 'Horns close', 'Tubas far'].map((name) => file(name));
    expect(tell(files)).toEqual([
      ['Horns', 'close: Horns close', 'far: Horns far'],
      ['Tubas', 'close: Tubas close', 'far: Tubas far'],
    ]);
  });
  it('are not offered where keys, layers or takes differ, or where one position comes twice', () => {
    expect(tell([file('Horns close'), file('Horns far', '', [60, 64])])).toEqual([]);
    expect(tell([file('Horns close'), file('Horns far', 'xfin_locc1=1 xfin_hicc1=60')])).toEqual([]);
    expect(tell([file('Horns close'), file('Horns near')])).toEqual([
      ['Horns ?', 'close: Horns close', 'near: Horns near'],
    ]);
    expect(tell([file('Horns close')])).toEqual([]);
  });
  it('are offered to be decided where they are built alike and one other word differs', () => {
    expect(tell([file('Violins A'), file('Violins B'), file('Violins C')])).toEqual([
      ['Violins ?', 'a: Violins A', 'b: Violins B', 'c: Violins C'],
    ]);
    expect(tell([file('Violins A loud'), file('Violas B soft')])).toEqual([]);
    expect(tell([file('Violins'), file('Violas')])).toEqual([]);
  });
  it('of one name are not offered: they could not be told apart', () => {
    expect(tell([file('Horns close'), file('Horns close'), file('Horns far')])).toEqual([]);
  });
});

describe('joining', () => {
  const join = {
    name: 'Horns',
    files: [
      { file: 'Horns close', position: 'close' },
      { file: 'Horns far', position: 'far' },
    ],
  };
  const together = (found: FoundZone[]) => assemble(found, guessMeanings(found));
  it('makes one instrument, every zone with a recording from each position', () => {
    const [one, ...others] = together(
      joinZones(join, [file('Horns close'), file('Horns far'), file('Tubas')]),
    );
    expect(others).toEqual([]);
    expect(one.name).toBe('Horns');
    expect(one.positions.map(({ id }) => id)).toEqual(['close', 'far']);
    const zones = one.articulations.flatMap((articulation) => articulation.zones);
    expect(zones).toHaveLength(12);
    for (const { samples } of zones) {
      const [close, far] = ['close', 'far'].map((id) => readJoinedSample(samples[id].sample));
      expect(close.sample).toBe(far.sample);
      expect([close.place, far.place, close.gainDb, far.gainDb]).toEqual([0, 1, 0, 0]);
    }
  });
  it('keeps levels that files set otherwise, in their recordings', () => {
    const [one] = together(
      joinZones(join, [file('Horns close', 'volume=-3'), file('Horns far', 'volume=-9.5')]),
    );
    const [zone] = one.articulations[0].zones;
    expect(zone.gainDb).toBe(0);
    expect(Object.values(zone.samples).map(({ sample }) => readJoinedSample(sample).gainDb)).toEqual([
      -3, -9.5,
    ]);
    const [alike] = together(
      joinZones(join, [file('Horns close', 'volume=-3'), file('Horns far', 'volume=-3')]),
    );
    expect(alike.articulations[0].zones[0].gainDb).toBe(-3);
  });
  it('refuses files that are not there, not alike, or at one position', () => {
    const files = [file('Horns close'), file('Horns far', '', [60, 64])];
    expect(() => joinZones(join, files)).toThrow(
      /“Horns far” has other keys, layers or takes than “Horns close”/,
    );
    expect(() => joinZones(join, files.slice(0, 1))).toThrow(/“Horns far” is not among the files/);
    const twice = { ...join, files: join.files.map((one) => ({ ...one, position: 'far' })) };
    expect(() => joinZones(twice, [file('Horns close'), file('Horns far')])).toThrow(/position “far”/);
  });
});
