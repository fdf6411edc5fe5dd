import { termName, type Finding, type ReportedInstrument } from './finding.ts';

const FEWEST_SIBLINGS = 3;
/** Share of the siblings that have a technique which this one lacks. */
const SIBLING_SHARE = 0.7;

/** What the other sections of a library have and this one lacks. */
export function missingFindings(
  instrument: ReportedInstrument,
  siblings: readonly ReportedInstrument[],
): Finding[] {
  const alike = siblings.filter((one) => one.kind === instrument.kind && one.reports.length > 0);
  if (alike.length < FEWEST_SIBLINGS) return [];
  const own = new Set(instrument.reports.map((report) => report.articulation));
  const all = new Set(alike.flatMap((one) => one.reports.map((report) => report.articulation)));
  const lacking = [...all].filter(
    (id) =>
      !own.has(id) &&
      alike.filter((one) => one.reports.some((report) => report.articulation === id)).length / alike.length >=
        SIBLING_SHARE,
  );
  if (lacking.length === 0) return [];
  return [
    {
      code: 'missing-technique',
      weight: 'fault',
      severity: 1 + lacking.length / 10,
      articulation: null,
      position: null,
      figure: `${lacking.length} missing`,
      sentence: `${instrument.name} lacks ${lacking.map(termName).join(', ')}, which the other sections of the library have; marks of these will be played by stand-ins.`,
      hear: null,
    },
  ];
}
