import { describe, expect, it } from 'vitest';
import type { ImportProposal } from '#api/index.ts';
import { wordKey, type WordMeaning } from '#core/intake/index.ts';
import { decided, readingOf } from './reading.ts';

const nothing = { words: {}, instruments: {}, joins: {} };
const head = {
  library: 'Attic',
  maker: 'own',
  pattern: '{instrument}_{articulation}_{note}',
  middleC: 4,
} as const;

function proposalOf(paths: string[], more: Partial<ImportProposal> = {}): ImportProposal {
  return {
    id: 'i',
    kind: 'recordings',
    name: 'Attic',
    pattern: null,
    joins: [],
    files: paths.map((path) => ({ path, frames: 48_000, rate: 48_000, looped: false })),
    words: [],
    instruments: [],
    remembered: {},
    names: {},
    failed: [],
    recording: null,
    ...more,
  } as ImportProposal;
}

describe('what recordings named by a pattern are taken to be', () => {
  const proposal = proposalOf(['Cello_spic_C3.wav', 'Cello_lng_D3.wav', 'Viola_lng_C4.wav']);
  it('is one instrument for each name, and one word for each technique', () => {
    const reading = readingOf(proposal, head, nothing);
    expect(reading.instruments.map(({ name, family }) => [name, family])).toEqual([
      ['Cello', 'strings'],
      ['Viola', 'strings'],
    ]);
    expect(reading.words.map(({ text }) => text).sort()).toEqual(['lng', 'spic']);
    expect(reading.usable).toBe(true);
  });
  it('is nothing, with a sentence, when the pattern cannot be read or fits no file', () => {
    expect(readingOf(proposal, { ...head, pattern: '{nonsense}' }, nothing)).toMatchObject({
      named: expect.any(String) as string,
      words: [],
      instruments: [],
      usable: false,
    });
    expect(readingOf(proposal, { ...head, pattern: '{note}' }, nothing).usable).toBe(false);
  });
  it('follows what was remembered of the maker, and before it what is said now', () => {
    const [{ kind, text }] = readingOf(proposal, head, nothing).words.filter((word) => word.text === 'lng');
    const key = wordKey({ kind, text } as WordMeaning);
    const remembered = { saltmill: { [key]: { articulation: 'tremolo' } } };
    const known = { ...proposal, remembered } as unknown as ImportProposal;
    const wordOf = (maker: string, said = nothing) =>
      readingOf(known, { ...head, maker }, said).words.find((word) => word.text === 'lng');
    expect(wordOf('own')?.articulation).not.toBe('tremolo');
    // A maker is known however their name is written.
    expect(wordOf(' Saltmill ')).toMatchObject({
      articulation: 'tremolo',
      reason: 'means this, as you set it for Saltmill before',
    });
    expect(wordOf('saltmill', { ...nothing, words: { [key]: { articulation: 'sul-tasto' } } })).toMatchObject(
      {
        articulation: 'sul-tasto',
        reason: 'means what you say',
      },
    );
  });
  it('takes a correction of an instrument, field by field', () => {
    const said = { ...nothing, instruments: { Viola: { players: 6, family: 'other' as const } } };
    const sent = decided(readingOf(proposal, head, said));
    expect(sent.instruments?.find(({ name }) => name === 'Viola')).toMatchObject({
      players: 6,
      family: 'other',
    });
    expect(sent.instruments?.find(({ name }) => name === 'Cello')).toMatchObject({
      players: 1,
      family: 'strings',
    });
    expect('pattern' in sent).toBe(false);
  });
});

describe('what a file tells of itself', () => {
  it('is taken without a pattern', () => {
    const instruments = [
      { name: 'Harp', family: 'plucked', kind: 'solo', players: 1, reason: 'told', isTold: true },
    ];
    const proposal = proposalOf(['a.wav'], { kind: 'sfz', instruments } as never);
    const reading = readingOf(proposal, head, nothing);
    expect(reading).toMatchObject({ byName: false, usable: true, instruments: [{ name: 'Harp' }] });
    const sent = decided(reading);
    expect([sent.pattern, sent.middleC]).toEqual([undefined, undefined]);
    expect(sent.instruments).toEqual([{ name: 'Harp', family: 'plucked', kind: 'solo', players: 1 }]);
  });
});

describe('what nothing tells the family of', () => {
  const told = { name: 'Harp', family: 'strings', kind: 'solo', players: 1, reason: 'x', isTold: true };
  const untold = { ...told, name: 'Zzz', family: 'other', isTold: false };
  const proposal = proposalOf([], { kind: 'sfz', instruments: [told, untold] } as never);
  it('is asked before it is taken in', () => {
    expect(readingOf(proposal, head, nothing)).toMatchObject({ asked: 1, usable: false });
    // What was said of something else, or of another property, is no answer.
    const elsewhere = { ...nothing, instruments: { Harp: { family: 'keys' }, Zzz: { players: 3 } } } as const;
    expect(readingOf(proposal, head, elsewhere)).toMatchObject({ asked: 1, usable: false });
  });
  it('may be none of the families, where somebody says so', () => {
    const said = { ...nothing, instruments: { Zzz: { family: 'other' } } } as const;
    expect(readingOf(proposal, head, said)).toMatchObject({ asked: 0, usable: true });
    expect(decided(readingOf(proposal, head, said)).instruments?.[1].family).toBe('other');
  });
});

describe('files that look like positions of one instrument', () => {
  const instruments = ['Horns close', 'Horns far', 'Tuba'].map((name) => ({
    name,
    family: 'brass',
    kind: 'section',
    players: 4,
    reason: 'told',
    isTold: true,
    keyLow: 40,
    keyHigh: 70,
    zones: 9,
  }));
  const offer = (isSure: boolean) => ({
    name: 'Horns',
    isSure,
    reason: 'alike',
    files: [
      {
        file: 'Horns close',
        position: 'close',
      },
      {
        file: 'Horns far',
        position: 'far',
      },
    ],
  });
  const proposal = proposalOf([], { kind: 'sfz', instruments, joins: [offer(true)] } as never);
  const said = (one: object) => ({ ...nothing, joins: { Horns: one } });
  const names = (reading: ReturnType<typeof readingOf>) => reading.instruments.map(({ name }) => name);

  it('are one instrument where names tell it, and apart where somebody says so', () => {
    const reading = readingOf(proposal, head, nothing);
    expect(names(reading)).toEqual(['Horns', 'Tuba']);
    expect(reading.instruments[0].family).toBe('brass');
    expect(decided(reading).joins).toEqual([{ name: 'Horns', files: offer(true).files }]);
    const apart = readingOf(proposal, head, said({ isJoined: false }));
    expect(names(apart)).toEqual(['Horns close', 'Horns far', 'Tuba']);
    expect(decided(apart).joins).toEqual([]);
  });
  it('are apart where nothing tells it, until somebody says so', () => {
    const unsure = proposalOf([], { kind: 'sfz', instruments, joins: [offer(false)] } as never);
    expect(names(readingOf(unsure, head, nothing))).toEqual(['Horns close', 'Horns far', 'Tuba']);
    expect(names(readingOf(unsure, head, said({ isJoined: true })))).toEqual(['Horns', 'Tuba']);
  });
  it('take other positions, and cannot be taken in while two have one, or one is left', () => {
    const moved = readingOf(proposal, head, said({ positions: { 'Horns far': 'outriggers' } }));
    expect(decided(moved).joins?.[0].files[1]).toEqual({ file: 'Horns far', position: 'outriggers' });
    expect(moved.usable).toBe(true);
    const twice = readingOf(proposal, head, said({ positions: { 'Horns far': 'close' } }));
    expect([twice.usable, twice.joins[0].trouble]).toEqual([
      false,
      'Two files are to be the position close.',
    ]);
    const left = readingOf(proposal, head, said({ positions: { 'Horns far': '' } }));
    expect([left.usable, left.joins[0].trouble?.startsWith('One file alone')]).toEqual([false, true]);
    expect(readingOf(proposal, head, said({ isJoined: false, positions: { 'Horns far': '' } })).usable).toBe(
      true,
    );
  });
});
