import { XMLParser, XMLValidator } from 'fast-xml-parser';
import { CORE_VOCABULARY, type Vocabulary } from '../catalogue/index.ts';
import type { Keymap, Trigger } from '../keymap/index.ts';
import { CONTROLLER } from '../music/index.ts';
import {
  articulationOf,
  EntriesRead,
  MOST_LINES,
  MOST_TEXT,
  quoted,
  type FileRemark,
  type ReadKeymap,
} from './keymap-file.ts';

/** Names of the controllers Farlo gives a meaning, as they stand in a name document. */
const CONTROLLER_NAMES: Readonly<Record<number, string>> = {
  [CONTROLLER.dynamics]: 'dynamics',
  [CONTROLLER.transitionPace]: 'transition pace',
  [CONTROLLER.expression]: 'expression',
  [CONTROLLER.release]: 'release',
  [CONTROLLER.attack]: 'attack',
  [CONTROLLER.brightness]: 'brightness',
  [CONTROLLER.vibrato]: 'vibrato',
};
const HELD = ' (held)';

/**
 * Writes names of keys, programs and controller values as a MIDI name document (MIDINameDocument 1.0, the XML of the MIDI
 * standard), so that other programs show what each key selects.
 */
export function writeNameDocument(keymap: Keymap, vocabulary: Vocabulary = CORE_VOCABULARY): string {
  const name = escaped(keymap.name);
  const nameOf = (id: string) => vocabulary.term(id).name;
  const all = keymap.entries.flatMap((entry) =>
    entry.triggers.map((trigger) => ({ trigger, text: nameOf(entry.articulation), entry })),
  );
  const keys = all
    .filter(({ trigger }) => trigger.kind === 'key')
    .sort((a, b) => a.trigger.number - b.trigger.number)
    .map(
      ({ trigger, text }) =>
        `        <Note Number="${trigger.number}" Name="${escaped(text + (trigger.hold === 'held' ? HELD : ''))}"/>`,
    );
  const ranged = new Map<number, { trigger: Trigger; text: string }[]>();
  for (const one of all)
    if (one.trigger.kind === 'controller')
      ranged.set(one.trigger.number, [...(ranged.get(one.trigger.number) ?? []), one]);
  const controls = [...new Set([...Object.keys(CONTROLLER_NAMES).map(Number), ...ranged.keys()])]
    .sort((a, b) => a - b)
    .map((number) => controlLine(number, ranged.get(number) ?? []));
  const banks = new Map<number, string[]>();
  for (const { trigger, text, entry } of all) {
    if (trigger.kind !== 'program') continue;
    const bank = entry.triggers.find((one) => one.kind === 'bank' && one.set === trigger.set)?.number ?? 0;
    const line = `          <Patch Number="${trigger.number + 1}" Name="${escaped(text)}" ProgramChange="${trigger.number}"/>`;
    banks.set(bank, [...(banks.get(bank) ?? []), line]);
  }
  const patches = [...banks].map(
    ([bank, lines]) => `      <PatchBank Name="Bank ${bank}">
        <MIDICommands>
          <ControlChange Control="0" Value="${bank >> 7}"/>
          <ControlChange Control="32" Value="${bank & 127}"/>
        </MIDICommands>
        <PatchNameList Name="Bank ${bank}">
${lines.join('\n')}
        </PatchNameList>
      </PatchBank>
`,
  );
  const channels = Array.from({ length: 16 }, (_, i) => i + 1);
  return `<?xml version="1.0" encoding="UTF-8"?>
<!DOCTYPE MIDINameDocument PUBLIC "-//MIDI Manufacturers Association//DTD MIDINameDocument 1.0//EN" "MIDINameDocument10.dtd">
<MIDINameDocument>
  <Author>Farlo</Author>
  <MasterDeviceNames>
    <Manufacturer>Farlo</Manufacturer>
    <Model>${name}</Model>
    <CustomDeviceMode Name="Default">
      <ChannelNameSetAssignments>
${channels.map((channel) => `        <ChannelNameSetAssign Channel="${channel}" NameSet="${name}"/>`).join('\n')}
      </ChannelNameSetAssignments>
    </CustomDeviceMode>
    <ChannelNameSet Name="${name}">
      <AvailableForChannels>
${channels.map((channel) => `        <AvailableChannel Channel="${channel}" Available="true"/>`).join('\n')}
      </AvailableForChannels>
      <NoteNameList Name="${name}">
${keys.join('\n')}
      </NoteNameList>
      <ControlNameList Name="${name}">
${controls.join('\n')}
      </ControlNameList>
${patches.join('')}    </ChannelNameSet>
  </MasterDeviceNames>
</MIDINameDocument>
`;
}

function controlLine(number: number, ranged: readonly { trigger: Trigger; text: string }[]): string {
  const name = CONTROLLER_NAMES[number] ?? 'articulation';
  if (ranged.length === 0) return `        <Control Type="7bit" Number="${number}" Name="${name}"/>`;
  const values = [...ranged]
    .sort((a, b) => a.trigger.low - b.trigger.low)
    .map(({ trigger, text }) => `            <Value Number="${trigger.low}" Name="${escaped(text)}"/>`);
  return `        <Control Type="7bit" Number="${number}" Name="articulation">
          <Values Min="0" Max="127">
            <ValueNameList Name="articulation">
${values.join('\n')}
            </ValueNameList>
          </Values>
        </Control>`;
}

const escaped = (text: string) =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');

/** An element as the parser gives it: attributes with `@`, children as lists. */
type Element = Record<string, unknown>;

/** Reads the keys, programs and controller values of a name document. Names that mean no articulation are told. */
export function readNameDocument(text: string, vocabulary?: Vocabulary): ReadKeymap {
  const remarks: FileRemark[] = [];
  const tell = (sentence: string, leftOut = true, line = 0) => remarks.push({ line, sentence, leftOut });
  const read = new EntriesRead();
  const done = (name: string): ReadKeymap => ({
    keymap: { id: '', name, initial: '', entries: read.list() },
    remarks,
    middleC: undefined,
  });
  if (text.length > MOST_TEXT) {
    tell('The file is too long for a name document: two million characters are the most.');
    return done('');
  }
  // A document type with entities of its own could grow without end; the standard's has none.
  if (/<!ENTITY/i.test(text)) {
    tell('The file declares entities, which name documents do not; it was not read.');
    return done('');
  }
  const valid = XMLValidator.validate(text);
  if (valid !== true) {
    tell(`The file is damaged: ${valid.err.msg}`, true, valid.err.line);
    return done('');
  }
  const parser = new XMLParser({
    ignoreAttributes: false,
    attributeNamePrefix: '@',
    isArray: (_name, _path, _leaf, isAttribute) => !isAttribute,
    processEntities: true,
  });
  let root: Element;
  try {
    root = parser.parse(text) as Element;
  } catch (error) {
    tell(`The file is damaged: ${(error as Error).message.slice(0, 120)}.`);
    return done('');
  }
  const documents = elements([root], 'MIDINameDocument');
  if (documents.length === 0) {
    tell('This is no MIDI name document: it has no element “MIDINameDocument”.');
    return done('');
  }
  const devices = elements(documents, 'MasterDeviceNames');
  const sets = elements(devices, 'ChannelNameSet');
  const model = elements(devices, 'Model')[0] as unknown;
  const name = (typeof model === 'string' ? model : '').slice(0, 120);
  let lines = 0;
  const take = (label: unknown, trigger: (held: boolean) => Omit<Trigger, 'id'> | string) => {
    if (lines++ >= MOST_LINES) return;
    const words = String(label ?? '');
    const held = words.endsWith(HELD);
    const found = articulationOf(held ? words.slice(0, -HELD.length) : words, vocabulary);
    if (!found.known) {
      tell(`${quoted(words)} is no articulation of the house; add the word to the vocabulary to take it in.`);
      return;
    }
    const made = trigger(held);
    if (typeof made === 'string') {
      tell(`${quoted(words)}: ${made}`);
      return;
    }
    if (found.guessed) tell(`${quoted(words)} was taken as ${found.id}.`, false);
    const entry = read.of(found.id);
    const set = new Set(entry.triggers.map((one) => one.set)).size;
    if (set > 15) tell(`${quoted(words)} has more triggers than can be kept.`);
    else entry.triggers = [...entry.triggers, { ...made, set, id: read.nextId() }];
  };
  const plain = { set: 0, low: 0, high: 127, hold: 'latching' as const };
  for (const note of [
    ...elements(elements(sets, 'NoteNameList'), 'Note'),
    ...elements(elements(elements(sets, 'NoteNameList'), 'NoteGroup'), 'Note'),
    ...elements(elements(devices, 'NoteNameList'), 'Note'),
  ])
    take(note['@Name'], (held) => {
      const number = numberOf(note['@Number'], 127);
      return number === undefined
        ? 'its key is none that MIDI knows.'
        : { ...plain, kind: 'key', number, hold: held ? 'held' : 'latching' };
    });
  for (const control of elements(elements(sets, 'ControlNameList'), 'Control')) {
    const number = numberOf(control['@Number'], 127);
    const values = elements(elements(elements([control], 'Values'), 'ValueNameList'), 'Value');
    const starts = values.map((value) => numberOf(value['@Number'], 127));
    values.forEach((value, i) =>
      take(value['@Name'], () => {
        const low = starts[i];
        if (number === undefined || low === undefined)
          return 'its controller or value is none that MIDI knows.';
        const above = starts.filter((one): one is number => one !== undefined && one > low);
        return {
          ...plain,
          kind: 'controller',
          number,
          low,
          high: Math.min(127, ...above.map((one) => one - 1)),
        };
      }),
    );
  }
  for (const bank of elements(sets, 'PatchBank'))
    for (const patch of elements(elements([bank], 'PatchNameList'), 'Patch'))
      take(patch['@Name'], () => {
        const number = numberOf(patch['@ProgramChange'], 127);
        return number === undefined
          ? 'its program is none that MIDI knows.'
          : { ...plain, kind: 'program', number };
      });
  if (lines > MOST_LINES) tell(`Only the first ${MOST_LINES} names were read.`);
  return done(name);
}

function elements(parents: readonly unknown[], name: string): Element[] {
  return parents.flatMap((parent) => {
    const value = typeof parent === 'object' && parent !== null ? (parent as Element)[name] : undefined;
    return Array.isArray(value) ? (value as Element[]) : value === undefined ? [] : [value as Element];
  });
}

function numberOf(text: unknown, highest: number): number | undefined {
  const value = Number(text);
  return text !== undefined && text !== '' && Number.isInteger(value) && value >= 0 && value <= highest
    ? value
    : undefined;
}
