import type { Finding, ReportedInstrument, Writing } from './finding.ts';
import { layerFindings } from './layers.ts';
import { keyFindings, levelFindings } from './levels.ts';
import { missingFindings } from './missing.ts';
import { noiseFindings, polarityFindings, ringingFindings, widthFindings } from './positions.ts';
import { lengthFindings, troubleFindings } from './recordings.ts';
import { onsetFindings, takeFindings } from './takes.ts';
import { chordFindings, moveFindings, resonanceFindings, sustainFindings, tuningFindings } from './tones.ts';

export { ADVICE, type Finding, type FindingCode, type HearIt, type ReportedInstrument } from './finding.ts';
export { reportLoudness } from './levels.ts';

/**
 * Everything that stands out in an instrument's reports: faults, then what is worth knowing, the worst first.
 * @param siblings instruments of the same family and library, which tell what is usual there; without it
 */
export function findingsOf(
  instrument: ReportedInstrument,
  siblings: readonly ReportedInstrument[],
  writing: Writing = { middleC: 4 },
): Finding[] {
  const single = instrument.reports.flatMap((report) => [
    ...layerFindings(report, instrument, writing),
    ...onsetFindings(report, writing),
    ...takeFindings(report, writing),
    ...tuningFindings(report, instrument, writing),
    ...sustainFindings(report, writing),
    ...moveFindings(report),
    ...chordFindings(report, writing),
    ...keyFindings(report, instrument, writing),
    ...troubleFindings(report, writing),
    ...lengthFindings(report),
  ]);
  const whole = [
    ...noiseFindings(instrument),
    ...widthFindings(instrument, writing),
    ...polarityFindings(instrument),
    ...ringingFindings(instrument),
    ...resonanceFindings(instrument, writing),
    ...levelFindings(instrument, siblings),
    ...missingFindings(instrument, siblings),
  ];
  return [...merged(single), ...whole].sort(
    (a, b) => Number(a.weight === 'note') - Number(b.weight === 'note') || b.severity - a.severity,
  );
}

/** Techniques that share their recordings share their findings: the first of them speaks for all. */
function merged(findings: readonly Finding[]): Finding[] {
  const seen = new Map<string, Finding>();
  for (const one of findings) {
    const name = `${one.code} ${one.figure} ${one.position ?? ''} ${one.hear?.keys.join() ?? ''} ${one.hear?.position ?? ''}`;
    const known = seen.get(name);
    // A report of the plain technique is the one to hear it by.
    if (!known || (one.articulation === 'long' && known.articulation !== 'long')) seen.set(name, one);
  }
  return [...seen.values()];
}

/** Instruments that tell what is usual for one: of the same family, in the same library. */
export function siblingsOf<T extends { id: string; family: string }>(one: T, library: readonly T[]): T[] {
  return library.filter((other) => other.id !== one.id && other.family === one.family);
}
