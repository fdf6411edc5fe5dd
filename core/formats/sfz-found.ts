import { guessPosition } from '../catalogue/index.ts';
import type { FoundZone, FoundWord } from './found.ts';
import { OpcodeReader, type Unsupported } from './sfz-opcodes.ts';
import { zoneOfRegion, type SampleFacts } from './sfz-zone.ts';
import type { SfzFile, SfzRegion } from './sfz.ts';

const LABELS = [
  ['region_label', 'region label'],
  ['group_label', 'group label'],
  ['sw_label', 'switch label'],
  ['master_label', 'master label'],
  ['global_label', 'global label'],
] as const;

/**
 * Turns regions into zones that still have to be told apart by technique and position: each carries the words
 * that were written about it, the most particular first.
 * @param facts of each sample path; regions whose sample is not among them are left out and told
 * @throws FarloError with the line when a value makes no sense
 */
export function foundInSfz(
  { regions, rests, passed }: SfzFile,
  facts: ReadonlyMap<string, SampleFacts>,
  instrument: string,
): { found: FoundZone[]; unsupported: Unsupported[]; rests: Record<number, number> } {
  const reader = new OpcodeReader();
  for (const { opcode, reason, place } of passed) reader.note(opcode, reason, place);
  const found: FoundZone[] = [];
  for (const region of regions) {
    reader.noteUnknown(region);
    const sample = region.opcodes.get('sample');
    if (!sample) {
      reader.note('region', 'a region without a sample is left out', region.place);
      continue;
    }
    const known = facts.get(sample.value);
    if (!known) {
      reader.note('sample', `“${sample.value}” makes its sound by itself and is left out`, sample.place);
      continue;
    }
    const zone = zoneOfRegion(region, known, reader);
    if (!zone) continue;
    const switchKey = region.opcodes.has('sw_last')
      ? reader.key(region, 'sw_last', 0)
      : region.opcodes.has('sw_down')
        ? reader.key(region, 'sw_down', 0)
        : undefined;
    found.push({
      zone,
      sample: sample.value,
      instrument,
      rate: known.rate,
      words: wordsAbout(region, sample.value),
      ...(switchKey === undefined ? {} : { switchKey }),
    });
  }
  return { found, unsupported: [...reader.unsupported.values()], rests: Object.fromEntries(rests) };
}

/** Labels, then the sample's folders from the innermost out, then its file name. */
function wordsAbout(region: SfzRegion, path: string): FoundWord[] {
  const words: FoundWord[] = [];
  for (const [opcode, kind] of LABELS) {
    const label = region.opcodes.get(opcode)?.value;
    if (label) words.push({ kind, text: label });
  }
  const parts = path.split('/');
  const file = parts.pop() ?? '';
  for (const folder of parts.reverse()) words.push({ kind: 'folder', text: folder });
  // A file's own name is hardly ever shared with another; what it may tell all the same is its microphone position.
  const position = guessPosition(file.replace(/\.\w+$/, ''));
  if (position) words.push({ kind: 'file name', text: position.word });
  return words;
}
