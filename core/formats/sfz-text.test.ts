import { describe, expect, it } from 'vitest';
import { FarloError } from '../errors/index.ts';
import { readSfz } from './index.ts';

/** Text that was made to do harm, or went wrong: it is refused in a sentence, or read, and takes no time. */

const refusal = (files: Record<string, string>): FarloError => {
  try {
    readSfz('a.sfz', (path) => files[path]);
  } catch (error) {
    if (error instanceof FarloError) return error;
    throw error;
  }
  throw new Error('it was taken');
};

describe('hostile text', () => {
  it('of names that double themselves is refused at the line where it grows too long', () => {
    const lines = ['#define $A 12345678', ...Array.from({ length: 40 }, () => '#define $A $A$A')];
    const error = refusal({ 'a.sfz': lines.join('\n') });
    expect([error.code, error.message]).toEqual([
      'file.too-large',
      'What “$A” stands for makes this longer than 1000 characters.',
    ]);
    // 8 · 2⁷ = 1024 are too many.
    expect(error.place).toEqual({ file: 'a.sfz', line: 8 });
  });
  it('of lines that names make long is refused', () => {
    const long = `#define $L ${'x'.repeat(900)}\n<region> sample=${'$L'.repeat(100)}`;
    expect(refusal({ 'a.sfz': long })).toMatchObject({ code: 'file.too-large', place: { line: 2 } });
    const name = `#define $${'n'.repeat(200)} 1`;
    expect(refusal({ 'a.sfz': name })).toMatchObject({ code: 'sfz.syntax', place: { line: 1 } });
  });
  it('of files that include ever more is refused', () => {
    const files: Record<string, string> = { 'a.sfz': '#include "0.inc"' };
    for (let i = 0; i < 40; i++) files[`${i}.inc`] = `\n#include "${i + 1}.inc"`;
    expect(refusal(files)).toMatchObject({ code: 'sfz.include-depth', place: { file: '15.inc', line: 2 } });
    // Ten files that each include the next ten times would be ten milliards.
    const wide: Record<string, string> = { 'a.sfz': '#include "0.inc"' };
    for (let i = 0; i < 10; i++) wide[`${i}.inc`] = `#include "${i + 1}.inc"\n`.repeat(10);
    wide['10.inc'] = '<region> sample=a.wav';
    expect(refusal(wide)).toMatchObject({ code: 'file.too-large' });
    const heavy: Record<string, string> = {
      'a.sfz': '#include "b.inc"\n'.repeat(400),
      'b.inc': ` ${'y'.repeat(200_000)}`,
    };
    expect(refusal(heavy)).toMatchObject({ code: 'file.too-large', place: { file: 'b.inc', line: 1 } });
  });
  it('that goes round says by which way, and only what goes round', () => {
    const error = refusal({
      'a.sfz': '#include "b.inc"',
      'b.inc': '#include "c.inc"',
      'c.inc': '\n#include "b.inc"',
    });
    expect(error.message).toBe('“b.inc” includes itself by way of c.inc.');
    expect(error.place).toEqual({ file: 'c.inc', line: 2 });
  });
  it('of blanks without end is read', () => {
    const blanks = ' '.repeat(200_000);
    const [region] = readSfz(
      'a.sfz',
      () => `<region> sample=a${blanks}b.wav key=60 ${'word '.repeat(50_000)}`,
    ).regions;
    expect(region.opcodes.get('sample')?.value).toHaveLength(200_006);
    expect(region.opcodes.get('key')?.value.startsWith('60 word')).toBe(true);
  });
  it('that is none is not quoted', () => {
    const binary = `RIFF\0\u0001WAVE\nfmt`;
    const error = refusal({ 'a.sfz': `<region>\n${binary}` });
    expect([error.code, error.place.line]).toEqual(['file.not-this-format', 2]);
    expect(error.message).not.toContain('RIFF');
    const strange = refusal({ 'a.sfz': `\u0007\u001b[2J${'z'.repeat(5000)}` });
    // eslint-disable-next-line no-control-regex -- none may be in it
    expect(strange.message).not.toMatch(/[\u0000-\u001f]/);
    expect(strange.message.length).toBeLessThan(120);
    const path = refusal({ 'a.sfz': `<region> sample=/${'q'.repeat(5000)}` });
    expect([path.code, path.message.length < 200]).toEqual(['sfz.path-leaves-folder', true]);
  });
  it('of a hundred thousand regions is read', () => {
    const text = Array.from({ length: 100_000 }, (_, i) => `<region> sample=${i}.wav key=${i % 128}`).join(
      '\n',
    );
    expect(readSfz('a.sfz', () => text).regions).toHaveLength(100_000);
  });
});
