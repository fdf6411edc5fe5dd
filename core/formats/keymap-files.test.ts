import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compareKeymaps, findAmbiguities, PLAIN_TOUCH, plainRide, type Keymap } from '../keymap/index.ts';
import { entry, keymapOf, source, trigger } from '../testing/keymaps.ts';
import {
  keymapListHtml,
  readKeymapCsv,
  readKeymapJson,
  readNameDocument,
  sfzSwitchLabels,
  writeKeymapCsv,
  writeKeymapJson,
  writeNameDocument,
} from './index.ts';

const violins: Keymap = {
  ...keymapOf([
    entry('long', 24),
    entry('tremolo', [trigger({ id: 'a', number: 26, hold: 'held' })]),
    entry('muted', [
      trigger({ id: 'b', kind: 'bank', number: 300 }),
      trigger({ id: 'c', kind: 'program', number: 5 }),
      trigger({ id: 'd', kind: 'controller', number: 32, low: 0, high: 63, set: 1 }),
    ]),
    entry('staccato', [trigger({ id: 'e', kind: 'controller', number: 32, low: 64, high: 127 })]),
    entry('pizzicato', 25, {
      sources: [
        source('pizzicato', { velocityHigh: 111 }),
        source('snapped', { velocityLow: 112, levelDb: -1.5, part: 'attack' }),
      ],
    }),
    entry('near bridge', [trigger({ id: 'f', kind: 'channel', number: 3 })], {
      morph: 2,
      sources: [source('near bridge'), source('over fingerboard', { morphAt: 127 })],
    }),
    entry('accented', [trigger({ id: 'g', kind: 'velocity', low: 120, high: 127 })]),
    entry('harmonics', []),
    entry('snapped', [trigger({ id: 'h', kind: 'track' })]),
  ]),
  name: 'Violins, "large" & <small>',
};

/** Whether a keymap is the same in words, in its name and in what it begins with. */
function expectSame(read: Keymap, written: Keymap): void {
  expect(compareKeymaps(read, written)).toEqual([]);
  expect([read.name, read.initial]).toEqual([written.name, written.initial]);
  expect(read.entries.map(({ articulation }) => articulation)).toEqual(
    written.entries.map(({ articulation }) => articulation),
  );
}

const ARTICULATIONS = ['long', 'staccato', 'tremolo', 'pizzicato', 'muted', 'tremolo, near bridge'];
const anyTrigger = fc
  .record({
    kind: fc.constantFrom('key', 'controller', 'program', 'bank', 'velocity', 'channel', 'track' as const),
    number: fc.nat(15),
    low: fc.integer({ min: 0, max: 60 }),
    high: fc.integer({ min: 60, max: 127 }),
    hold: fc.constantFrom('latching', 'held' as const),
  })
  .map((fields, i = 0) => trigger({ id: `t${i}`, ...fields } as Parameters<typeof trigger>[0]));
const anySource = fc
  .record({
    articulation: fc.constantFrom(...ARTICULATIONS),
    levelDb: fc.constantFrom(-60, -6.5, 0, 12),
    velocityLow: fc.integer({ min: 1, max: 60 }),
    velocityHigh: fc.integer({ min: 60, max: 127 }),
    part: fc.constantFrom('whole', 'attack', 'body' as const),
    morphAt: fc.nat(127),
  })
  .map(({ articulation, ...fields }) => source(articulation, fields as Parameters<typeof source>[1]));
const anyKeymap = fc
  .record({
    name: fc.string({ maxLength: 20 }).map((text) => text.trim()),
    lists: fc.array(
      fc.record({
        triggers: fc.array(anyTrigger, { maxLength: 3 }),
        sources: fc.uniqueArray(anySource, { maxLength: 3, selector: (one) => JSON.stringify(one) }),
        morph: fc.option(fc.nat(127), { nil: undefined }),
      }),
      { minLength: 1, maxLength: 6 },
    ),
  })
  .map(({ name, lists }) => ({
    ...keymapOf(
      lists.map(({ triggers, sources, morph }, i) =>
        entry(
          ARTICULATIONS[i],
          triggers.map((one, set) => ({ ...one, set })),
          { sources, ...(morph === undefined ? {} : { morph }) },
        ),
      ),
    ),
    name,
  }));

describe('a keymap as a table', () => {
  it('reads what it wrote, in both ways of counting octaves', () => {
    for (const middleC of [4, 3] as const) {
      const { keymap, remarks, middleC: counted } = readKeymapCsv(writeKeymapCsv(violins, middleC), middleC);
      expect(remarks).toEqual([]);
      expect(counted).toBe(middleC);
      expectSame(keymap, violins);
    }
  });
  it('reads what it wrote, whatever it is', () => {
    fc.assert(
      fc.property(anyKeymap, (keymap) => {
        const read = readKeymapCsv(writeKeymapCsv(keymap));
        expect(read.remarks).toEqual([]);
        expectSame(read.keymap, keymap);
      }),
      { numRuns: 200 },
    );
  });
  it('notices that the file counts from another middle C, and reads its keys rightly', () => {
    const text = writeKeymapCsv(violins, 3);
    const { keymap, remarks, middleC } = readKeymapCsv(text, 4);
    expect(middleC).toBe(3);
    expect(remarks).toEqual([
      {
        line: 0,
        leftOut: false,
        sentence: 'The file counts octaves from another middle C (C3); its keys were read by that.',
      },
    ]);
    expectSame(keymap, violins);
    // A key by name alone is read as the others tell.
    const more = `${text}harmonics,key,C3,,,,,5,,,\r\n`;
    const added = readKeymapCsv(more, 4).keymap.entries.find((one) => one.articulation === 'harmonics');
    expect(added?.triggers.map(({ number }) => number)).toEqual([60]);
  });
  it('counts as most keys do, and tells a name that is not its number', () => {
    const text = `${writeKeymapCsv(violins, 3)}harmonics,key,D2,38,,,,,,,\r\n`;
    const { keymap, remarks, middleC } = readKeymapCsv(text, 3);
    expect(middleC).toBe(3);
    expect(remarks.map(({ sentence }) => sentence)).toEqual(['“D2” is not key “38”; the number was taken.']);
    expect(keymap.entries.find((one) => one.articulation === 'harmonics')?.triggers[0].number).toBe(38);
  });
  it('tells each line that makes no sense, and takes the others', () => {
    const head = 'articulation,what,name,number,low,high,hold,set';
    const lines = [
      'long,key,C1,24',
      'whistled,key,C2,36',
      'staccato,key,H9,',
      'long,key,C1,24',
      'Spiccato soft,key,D1,26',
      ',key,D1,27',
      'muted,lever,,1',
      'muted,velocity,,,90,20',
      'muted,channel,,17',
      'tremolo,key,E1,28,,,sometimes',
      '',
      'tremolo,program,,128',
    ];
    const { keymap, remarks } = readKeymapCsv([head, ...lines].join('\n'));
    expect(keymap.entries.map(({ articulation }) => articulation)).toEqual([
      'long',
      'off the string',
      'tremolo',
    ]);
    expect(keymap.entries[2].triggers).toMatchObject([{ kind: 'program', number: 127 }]);
    expect(remarks.map(({ line, leftOut }) => [line, leftOut])).toEqual([
      [3, true],
      [4, true],
      [5, true],
      [6, false],
      [7, true],
      [8, true],
      [9, true],
      [10, true],
      [11, true],
    ]);
    expect(remarks[0].sentence).toContain('“whistled” is no articulation of the house');
    expect(remarks[2].sentence).toBe('The line says the same as line 2.');
    expect(remarks[3].sentence).toBe('“Spiccato soft” was taken as off the string.');
  });
  it('says what is wrong with a file that is none', () => {
    expect(readKeymapCsv('a,b\n1,2').remarks[0]).toMatchObject({ line: 1, leftOut: true });
    expect(readKeymapCsv('').keymap.entries).toEqual([]);
    expect(readKeymapCsv('x'.repeat(2_000_001)).remarks[0].sentence).toContain('too long');
    const many = `articulation,what,number\n${'long,program,5\n'.repeat(6000)}`;
    expect(readKeymapCsv(many).remarks.some(({ sentence }) => sentence.includes('first 5000'))).toBe(true);
  });
  it.each([';', '\t', '|'])('reads cells parted by %j, whatever stands in them', (between) => {
    const table = [
      ['articulation', 'what', 'name', 'number'],
      ['', 'keymap', 'first, second, third, fourth', ''],
      ['long', 'key', 'C1', '24'],
      ['staccato', 'program', '', '3'],
    ];
    const { keymap, remarks } = readKeymapCsv(table.map((cells) => cells.join(between)).join('\n'));
    expect(remarks).toEqual([]);
    expect(keymap.name).toBe('first, second, third, fourth');
    expect(
      keymap.entries.map(({ articulation, triggers: [{ kind, number }] }) => [articulation, kind, number]),
    ).toEqual([
      ['long', 'key', 24],
      ['staccato', 'program', 2],
    ]);
  });
  it('writes nothing that a spreadsheet would take for a formula', () => {
    const text = writeKeymapCsv({ ...violins, name: '=cmd()' });
    expect(text).not.toMatch(/(^|,)=/m);
    expect(readKeymapCsv(text).keymap.name).toBe('=cmd()');
    for (const name of ["'=", "''+1", '-2+3', '@sum', "'plain", '-5', "the players' = 1"]) {
      const written = writeKeymapCsv({ ...violins, name });
      expect(readKeymapCsv(written).keymap.name).toBe(name);
    }
    // Levels stay numbers.
    expect(writeKeymapCsv(violins)).not.toContain("'-");
  });
});

describe('a keymap as JSON', () => {
  it('reads what it wrote, whatever it is', () => {
    expectSame(readKeymapJson(writeKeymapJson(violins)).keymap, violins);
    fc.assert(
      fc.property(anyKeymap, (keymap) => {
        const read = readKeymapJson(writeKeymapJson(keymap));
        expect(read.remarks).toEqual([]);
        expectSame(read.keymap, keymap);
      }),
      { numRuns: 200 },
    );
  });
  it('keeps how controllers are ridden and what velocity does, as far as it fits', () => {
    const touch = { ...PLAIN_TOUCH, slideBelow: 30, shortDynamics: 'force' as const };
    const rides = [{ ...plainRide('vibrato'), id: 'x', curve: -0.5, follows: 'dynamics' as const }];
    const { keymap } = readKeymapJson(writeKeymapJson({ ...violins, rides, touch }));
    expect(keymap.touch).toEqual(touch);
    expect(keymap.rides).toMatchObject([{ parameter: 'vibrato', curve: -0.5, follows: 'dynamics' }]);
    const file = JSON.parse(writeKeymapJson({ ...violins, rides, touch })) as Record<string, unknown>;
    const bad = readKeymapJson(
      JSON.stringify({ ...file, rides: [{ parameter: 'volume' }], touch: { bowFrom: 200 } }),
    );
    expect([bad.keymap.rides, bad.keymap.touch]).toEqual([[], undefined]);
    expect(bad.remarks.map(({ sentence }) => sentence.split(':')[0])).toEqual([
      'Controllers',
      'What velocity does',
    ]);
    expectSame(bad.keymap, violins);
  });
  it('tells entries that do not fit by their place, and takes the others', () => {
    const file = JSON.parse(writeKeymapJson(violins)) as { entries: Record<string, unknown>[] };
    file.entries[1].triggers = [{ kind: 'key', number: 99999 }];
    file.entries[3].articulation = 'whistled';
    file.entries.push({ articulation: 'long' });
    const { keymap, remarks } = readKeymapJson(JSON.stringify(file));
    expect(keymap.entries).toHaveLength(violins.entries.length - 2);
    expect(remarks.map(({ sentence }) => sentence.split(':')[0])).toEqual([
      'Entry 2, triggers 0 number',
      'Entry 4',
      'Entry 10',
    ]);
    expect(remarks[2].sentence).toContain('stands there twice');
  });
  it('refuses what is no keymap in a sentence', () => {
    for (const text of [
      '',
      '{',
      '[]',
      'null',
      '{"format":"farlo-keymap-1"}',
      '{"format":"other","entries":[]}',
    ]) {
      const { keymap, remarks } = readKeymapJson(text);
      expect(keymap.entries).toEqual([]);
      expect(remarks).toHaveLength(1);
      expect(remarks[0].leftOut).toBe(true);
    }
  });
});

describe('a MIDI name document', () => {
  it('names keys, programs in their banks, and controller values, and reads them again', () => {
    const map = keymapOf([
      entry('long', 24),
      entry('tremolo', [trigger({ id: 'a', number: 26, hold: 'held' })]),
      entry('muted', [trigger({ id: 'c', kind: 'program', number: 5 })]),
      entry('staccato', [trigger({ id: 'e', kind: 'controller', number: 32, low: 0, high: 63 })]),
      entry('accented', [trigger({ id: 'f', kind: 'controller', number: 32, low: 64, high: 127 })]),
    ]);
    const text = writeNameDocument({ ...map, name: 'A & B <"C">' });
    expect(text).toContain('<Note Number="24" Name="long"/>');
    expect(text).toContain('<Patch Number="6" Name="muted" ProgramChange="5"/>');
    expect(text).toContain('<Control Type="7bit" Number="1" Name="dynamics"/>');
    const { keymap, remarks } = readNameDocument(text);
    expect(remarks).toEqual([]);
    expect(keymap.name).toBe('A & B <"C">');
    expect(compareKeymaps(keymap, map).map(({ articulation }) => articulation)).toEqual([]);
    expect(writeNameDocument(violins)).toContain('<ControlChange Control="0" Value="2"/>');
  });
  it('puts each program into the bank it is called from with, and no other', () => {
    const bank = (id: string, number: number, set: number) => trigger({ id, kind: 'bank', number, set });
    const program = (id: string, number: number, set: number) =>
      trigger({ id, kind: 'program', number, set });
    const text = writeNameDocument(
      keymapOf([
        entry('long', [bank('a', 130, 0), program('b', 3, 0), program('c', 4, 1)]),
        entry('staccato', [trigger({ id: 'd', number: 5 }), bank('e', 300, 0), program('f', 6, 0)]),
      ]),
    );
    const banks = text.split('<PatchBank ').slice(1);
    expect(banks.map((one) => [one.match(/Bank \d+/)?.[0], one.match(/ProgramChange="\d+"/g)])).toEqual([
      ['Bank 130', ['ProgramChange="3"']],
      ['Bank 0', ['ProgramChange="4"']],
      ['Bank 300', ['ProgramChange="6"']],
    ]);
  });
  it('is read from elsewhere, by what its names mean', () => {
    const text = `<?xml version="1.0"?><MIDINameDocument><MasterDeviceNames><Model>Horn set</Model>
      <ChannelNameSet Name="x"><NoteNameList Name="y"><NoteGroup Name="z"><Note Number="12" Name="Sustain"/></NoteGroup>
      <Note Number="13" Name="Stacc."/><Note Number="14" Name="Buzz"/><Note Number="200" Name="Muted"/><Note Number="" Name="Tremolo"/><Note Name="Slide"/></NoteNameList></ChannelNameSet>
      </MasterDeviceNames></MIDINameDocument>`;
    const { keymap, remarks } = readNameDocument(text);
    expect(keymap.name).toBe('Horn set');
    expect(
      keymap.entries.map(({ articulation, triggers }) => [articulation, triggers[0].number]).sort(),
    ).toEqual([
      ['long', 12],
      ['staccato', 13],
    ]);
    expect(remarks.filter(({ leftOut }) => leftOut).map(({ sentence }) => sentence)).toEqual([
      '“Buzz” is no articulation of the house; add the word to the vocabulary to take it in.',
      '“Muted”: its key is none that MIDI knows.',
      '“Tremolo”: its key is none that MIDI knows.',
      '“Slide”: its key is none that MIDI knows.',
    ]);
  });
  it('is refused with a place when it is damaged, and never grows by entities', () => {
    const whole = writeNameDocument(violins);
    for (let cut = 1; cut < whole.length; cut += 97) {
      const { remarks } = readNameDocument(whole.slice(0, cut));
      expect(remarks.length).toBeGreaterThan(0);
    }
    const bomb =
      '<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><MIDINameDocument>&b;</MIDINameDocument>';
    expect(readNameDocument(bomb).remarks[0].sentence).toContain('entities');
    expect(readNameDocument('<a/>').remarks[0].sentence).toContain('no MIDI name document');
  });
});

describe('hostile keymap files', () => {
  it('never break a reader, and what is read has ids of its own', () => {
    const texts = [writeKeymapCsv(violins), writeKeymapJson(violins), writeNameDocument(violins)];
    let state = 7;
    const random = (below: number) => (state = (state * 48271) % 2147483647) % below;
    for (let i = 0; i < 1500; i++) {
      const text = texts[i % 3];
      const at = random(text.length);
      const bad = [
        text.slice(0, at) + String.fromCharCode(random(0x3ff)) + text.slice(at + random(5)),
        text.slice(0, at) + text.slice(at + random(400)),
        text.slice(at) + text.slice(0, at),
      ][random(3)];
      for (const read of [readKeymapCsv, readKeymapJson, readNameDocument]) {
        const { keymap, remarks } = read(bad);
        const ids = keymap.entries.flatMap((one) => [one.id, ...one.triggers.map(({ id }) => id)]);
        expect(new Set(ids).size).toBe(ids.length);
        for (const { sentence } of remarks) expect(sentence.length).toBeLessThan(400);
        for (const clash of findAmbiguities(keymap)) expect(clash.sentence.length).toBeLessThan(400);
      }
    }
  });
});

describe('keymaps on paper and for samplers', () => {
  it('list every articulation with what selects it, and nothing of it is markup', () => {
    const html = keymapListHtml('Keys of <us>', [
      { keymap: violins, about: 'Wrenlow & Co', range: { low: 55, high: 94 } },
    ]);
    expect(html).toContain('<td>C1</td><td>long (from the beginning)</td><td><i>ten.</i></td>');
    expect(html).toContain('Bank 300 + Program 6 or Controller 32 from 0 to 63');
    expect(html).toContain('Wrenlow &amp; Co, G3 to A#6');
    expect(html).toContain('<td>marks only</td><td>harmonics</td>');
    expect(html).not.toContain('<us>');
    expect(html).not.toContain('<script');
    expect(keymapListHtml('x', [{ keymap: violins, about: '', range: undefined }], 3)).toContain(
      '<td>C0</td>',
    );
  });
  it('become labelled switches of an SFZ', () => {
    expect(sfzSwitchLabels(violins)).toBe(
      `// Keyswitches of Violins, "large" & <small>
<global> sw_lokey=24 sw_hikey=26 sw_default=24
<group> sw_last=24 sw_label=long
<group> sw_down=26 sw_label=tremolo
<group> sw_last=25 sw_label=pizzicato
`,
    );
    expect(sfzSwitchLabels(keymapOf([entry('long', [])]))).toContain('No articulation');
  });
});
