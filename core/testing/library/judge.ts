import type { Finding } from '../../report/index.ts';
import { pitchName } from '../../music/index.ts';
import type { Fault } from './faults.ts';

/** What became of the faults planted in a library. */
export interface Verdict {
  found: Fault[];
  missed: Fault[];
  /** Faults that were told and not planted. */
  false: Finding[];
}

/** Technique as the house calls it, by the word the files have. */
const HOUSE: Record<string, string> = { spiccato: 'off the string', portato: 'broad short' };
const house = (word: string) => HOUSE[word] ?? word;

/** Whether a layer is told to be off that way; of two, that the upper is off against the lower by as much. */
function isLayer(
  { sentence }: Finding,
  layer: number,
  sign: 1 | -1,
  [more, less]: readonly [more: string, less: string],
): boolean {
  if (!sentence.includes('the upper of the two layers'))
    return sentence.includes(`layer ${layer + 1} of`) && sentence.includes(sign > 0 ? more : less);
  return sentence.includes((layer === 1 ? sign : -sign) > 0 ? more : less);
}

/** Whether a finding tells a planted fault: its kind, its place, and roughly its figure. */
export function tells(finding: Finding, fault: Fault): boolean {
  const at = (key: number) =>
    new RegExp(`\\b${pitchName(key, 4).replace('#', '#')}\\b`).test(finding.sentence);
  const number = (pattern: RegExp) => Number(pattern.exec(finding.sentence)?.[1] ?? NaN);
  const near = (value: number, wanted: number, by: number) => Math.abs(value - wanted) <= by;
  switch (fault.kind) {
    case 'layer-level':
      return (
        finding.code === 'layer-step' &&
        finding.articulation === fault.articulation &&
        at(fault.key) &&
        isLayer(finding, fault.layer ?? 0, fault.db > 0 ? 1 : -1, ['louder', 'softer']) &&
        near(number(/ is ([\d.]+) LU/), Math.abs(fault.db), 1.5)
      );
    case 'layer-bright':
      return (
        finding.code === 'layer-colour' &&
        at(fault.key) &&
        isLayer(finding, fault.layer ?? 0, -1, ['brighter', 'darker'])
      );
    case 'loud':
      return (
        finding.code === 'out-of-level' &&
        finding.articulation === house(fault.articulation) &&
        near(number(/is ([\d.]+) LU/), fault.db, 2.5)
      );
    case 'hiss':
      return finding.code === 'noisy' && finding.position === fault.place;
    case 'mono':
      return finding.code === 'mono-keys' && finding.position === fault.place && fault.keys.every(at);
    case 'ring':
      return finding.code === 'ringing' && near(Math.log2(number(/at (\d+) Hz/) / fault.hertz), 0, 1 / 24);
    case 'polarity':
      return finding.code === 'polarity' && finding.position === fault.place;
    case 'mistuned':
      return (
        finding.code === 'mistuned' &&
        finding.articulation === fault.articulation &&
        at(fault.key) &&
        finding.sentence.includes(fault.cents > 0 ? 'sharp' : 'flat') &&
        near(number(/stand (\d+) cents/), Math.abs(fault.cents), 4)
      );
    case 'borrowed':
      return (
        finding.code === 'borrowed-take' &&
        finding.sentence.includes(
          `take ${(fault.take ?? 0) + 1} of ${pitchName(fault.key, 4)} is borrowed from ${pitchName(fault.from, 4)},`,
        )
      );
    case 'repeated':
      return (
        finding.code === 'repeated-take' &&
        finding.sentence.includes(
          `take ${(fault.take ?? 0) + 1} of ${pitchName(fault.key, 4)} is take ${fault.same + 1} again`,
        )
      );
    case 'late':
      return (
        finding.code === 'late-short' &&
        at(fault.key) &&
        near(number(/differ by (\d+) ms/), 1000 * fault.seconds, 5)
      );
    case 'loop-bump':
      return finding.code === 'loop-bump' && at(fault.key);
  }
}

/** Findings held against what was planted. What is only worth knowing is nobody's fault. */
export function judge(findings: readonly Finding[], faults: readonly Fault[]): Verdict {
  const told = findings.filter(({ weight }) => weight === 'fault');
  return {
    found: faults.filter((fault) => told.some((one) => tells(one, fault))),
    missed: faults.filter((fault) => !told.some((one) => tells(one, fault))),
    false: told.filter((one) => !faults.some((fault) => tells(one, fault))),
  };
}
