import { articulationTerm } from '../../catalogue/index.ts';
import { pitchName } from '../../music/index.ts';
import { counted } from '../../units/index.ts';
import type { ArticulationReport } from '../figures.ts';
import { fastestEvenSeconds, noteValueAt, onsetSummary } from '../readings.ts';
import { milliseconds, termName, type Finding, type Writing } from './finding.ts';

/** Seconds a short note may speak late, and by which its takes may differ, before a line limps. */
const LATE_SECONDS = 0.035;
const UNEVEN_SECONDS = 0.02;

/** Short notes that speak late or, take by take, unevenly. */
export function onsetFindings(report: ArticulationReport, { middleC }: Writing): Finding[] {
  const { articulation } = report;
  if (articulationTerm(articulation).group !== 'short') return [];
  const summary = onsetSummary(report.onsets);
  if (!summary || (summary.medianSeconds < LATE_SECONDS && summary.spreadSeconds < UNEVEN_SECONDS)) return [];
  const limp = noteValueAt(fastestEvenSeconds(summary));
  const isLate = summary.medianSeconds >= LATE_SECONDS;
  const isUneven = summary.spreadSeconds >= UNEVEN_SECONDS;
  const place = `takes of ${pitchName(summary.worstKey, middleC)} differ by ${milliseconds(summary.spreadSeconds)} ms`;
  const how = [
    isLate ? `speaks ${milliseconds(summary.medianSeconds)} ms after the key` : '',
    isUneven ? (isLate ? place : `speaks unevenly: ${place}`) : '',
  ].filter(Boolean);
  return [
    {
      code: 'late-short',
      weight: 'fault',
      severity: Math.max(summary.medianSeconds / LATE_SECONDS, summary.spreadSeconds / UNEVEN_SECONDS),
      articulation,
      position: null,
      figure: `${milliseconds(summary.medianSeconds)} ± ${milliseconds(summary.spreadSeconds / 2)} ms`,
      sentence: `${termName(articulation)} ${how.join(', and ')}. Played by hand, lines faster than ${limp} will limp.`,
      hear: { articulation, shape: 'repeat', keys: [summary.worstKey] },
    },
  ];
}

/** Takes that are none of their own. */
export function takeFindings(
  { articulation, sameTakes, takes }: ArticulationReport,
  { middleC }: Writing,
): Finding[] {
  return (['repeated', 'borrowed'] as const).flatMap((kind): Finding[] => {
    const own = sameTakes.filter((one) => one.kind === kind);
    if (own.length === 0) return [];
    const { key, take, otherKey, otherTake } = own[0];
    const keys = new Set(own.map((one) => one.key)).size;
    const perNote = new Map<string, number>();
    for (const { key: at, layer } of own)
      perNote.set(`${at} ${layer}`, (perNote.get(`${at} ${layer}`) ?? 0) + 1);
    const roots = counted(keys, 'root');
    return [
      {
        code: `${kind}-take`,
        weight: 'fault',
        severity: 1 + own.length / 10,
        articulation,
        position: null,
        figure: `${Math.max(...perNote.values())} of ${takes} takes on ${roots}`,
        sentence:
          kind === 'repeated'
            ? `${termName(articulation)}: take ${take + 1} of ${pitchName(key, middleC)} is take ${otherTake + 1} again${keys > 1 ? `, as on ${roots}` : ''}. A row of the same note turns mechanical sooner than ${takes} takes promise.`
            : `${termName(articulation)}: take ${take + 1} of ${pitchName(key, middleC)} is borrowed from ${pitchName(otherKey, middleC)}, moved in pitch. Rows change colour from note to note.`,
        hear: { articulation, shape: 'repeat', keys: [key] },
      },
    ];
  });
}
