import { describe, expect, it } from 'vitest';
import type { Family } from '../catalogue/index.ts';
import { layersAndTakes } from '../catalogue/index.ts';
import { foundInSfz, foundInSoundFont, readSfz, readSoundFont, type FoundZone } from '../formats/index.ts';
import { coverageOf, firstKeys } from '../keymap/index.ts';
import { buildFont } from '../testing/built-font.ts';
import { assemble, guessMeanings } from './index.ts';

/** What libraries from outside cover is what their files say: keyswitches with labels, presets by name. */

function covered(found: readonly FoundZone[], family: Family) {
  const instruments = assemble(found, guessMeanings(found)).map((made) => ({
    id: made.name,
    family,
    articulations: made.articulations.map((one) => ({ id: one.id, ...layersAndTakes(one) })),
  }));
  const { terms, rows } = coverageOf(instruments, undefined, ['staccato', 'harmonics', 'near bridge']);
  return Object.fromEntries(
    instruments.map(({ id }, i) => [
      id,
      Object.fromEntries(terms.map((term, k) => [term, rows[k][i].standIn ?? rows[k][i].state])),
    ]),
  );
}

describe('coverage of a library from outside', () => {
  it('of an SFZ with keyswitches and labels', () => {
    const group = (key: number, label: string, rest = '') =>
      `<group>sw_last=${key} sw_label=${label}\n<region>sample=${key}.wav lokey=55 hikey=90 pitch_keycenter=69 ${rest}\n`;
    const text = `<global>sw_lokey=12 sw_hikey=16 sw_default=12
${group(12, 'Sus vib')}${group(13, 'Spiccato')}${group(14, 'Trem sul pont')}${group(15, 'Con sord')}`;
    const file = readSfz('Skerry Strings.sfz', (path) => (path.endsWith('.sfz') ? text : undefined));
    const facts = { frames: 1000, rate: 48_000, loops: [] };
    const samples = new Map(file.regions.map((r) => [r.opcodes.get('sample')?.value ?? '', facts]));
    const { found } = foundInSfz(file, samples, 'Skerry Strings');
    expect(covered(found, 'strings')).toEqual({
      'Skerry Strings': {
        long: 'own',
        muted: 'own',
        'near bridge': 'long',
        harmonics: 'long',
        staccato: 'off the string',
        'off the string': 'own',
        'tremolo, near bridge': 'own',
      },
    });
    const [instrument] = assemble(found, guessMeanings(found));
    const keys = firstKeys(instrument.articulations, [{ low: 55, high: 90, name: '' }]);
    expect(Object.fromEntries(keys.map(({ articulation, key }) => [articulation, key]))).toEqual({
      long: 12,
      'off the string': 13,
      'tremolo, near bridge': 14,
      muted: 15,
    });
  });
  it('of a SoundFont, preset by preset', () => {
    const preset = (name: string, program: number) => ({
      name,
      program,
      zones: [{ generators: [[41, 0] as [number, number]] }],
    });
    const bytes = buildFont({
      presets: [preset('Skerry Sustain', 0), preset('Skerry Staccato', 1), preset('Skerry Muted', 2)],
      instruments: [{ name: 'horn', zones: [{ generators: [[53, 0]] }] }],
      samples: [{ name: 'a', frames: 400, loop: [100, 300], root: 62 }],
    });
    const { found } = foundInSoundFont(readSoundFont(bytes, 'skerry.sf2'));
    const all = Object.values(covered(found, 'brass'));
    const own = all.flatMap((row) => Object.keys(row).filter((term) => row[term] === 'own'));
    expect(own.sort()).toEqual(['long', 'muted', 'staccato']);
    for (const row of all) expect(row['near bridge']).toBe('none');
  });
});
