import { articulationTerm } from '../../catalogue/index.ts';
import { pitchName, type ArticulationId } from '../../music/index.ts';
import type { ArticulationReport } from '../figures.ts';
import { medianOf } from '../readings.ts';
import {
  middleKeyOf,
  signed,
  termName,
  type Finding,
  type ReportedInstrument,
  type Writing,
} from './finding.ts';

/** LU louder, against the instrument's middle, than the same technique of its siblings, or than its own kind. */
const OUT_OF_LEVEL_LU = 3;
/** So many times what its fellows differ by it must be beyond that; other instruments differ by more than techniques of one. */
const USUAL = 1.5;
const USUAL_SIBLINGS = 4;
const FEWEST_SIBLINGS = 3;
const FEWEST_TECHNIQUES = 4;
/** LU that one key lies off the line through its neighbours. */
const UNEVEN_LU = 8;

/** Loudness of a report: its loudest position at a middling touch. */
export function reportLoudness({ positions }: ArticulationReport): number | null {
  const list = positions.flatMap((one) => one.loudnessLufs ?? []);
  return list.length > 0 ? Math.max(...list) : null;
}

/** Techniques that are louder than their fellows. */
export function levelFindings(
  instrument: ReportedInstrument,
  siblings: readonly ReportedInstrument[],
): Finding[] {
  const own = againstMiddle(instrument);
  const others = siblings.map(againstMiddle);
  return instrument.reports.flatMap((report): Finding[] => {
    const { articulation } = report;
    const { group } = articulationTerm(articulation);
    const level = own.get(articulation);
    // How loud a recorded swell is depends on where in it one listens.
    if (level === undefined || group === 'dynamic' || group === 'pattern') return [];
    const usual = others.flatMap((one) => one.get(articulation) ?? []);
    const kind = instrument.reports
      .filter((one) => one !== report && articulationTerm(one.articulation).group === group)
      .flatMap((one) => own.get(one.articulation) ?? []);
    const bySiblings = usual.length >= FEWEST_SIBLINGS && own.size >= FEWEST_TECHNIQUES;
    const fellows = bySiblings ? usual : kind;
    if (fellows.length < 3) return [];
    const middle = medianOf(fellows);
    const apart = fellows.reduce((sum, one) => sum + Math.abs(one - middle), 0) / fellows.length;
    const off = level - middle;
    if (off < OUT_OF_LEVEL_LU + (bySiblings ? USUAL_SIBLINGS : USUAL) * apart) return [];
    const neighbour = instrument.reports.find((one) => one.articulation === 'long') ?? instrument.reports[0];
    return [
      {
        code: 'out-of-level',
        weight: 'fault',
        severity: off / OUT_OF_LEVEL_LU,
        articulation,
        position: null,
        figure: `${signed(off, 1)} LU`,
        sentence: `${termName(articulation)} is ${off.toFixed(1)} LU louder against the rest of the instrument than ${bySiblings ? 'in its neighbours' : 'techniques of its kind'}; a change of technique will jump.`,
        hear: { articulation, shape: 'pair', keys: [middleKeyOf(report)], against: neighbour.articulation },
      },
    ];
  });
}

/** Loudness of every articulation against the median of all of them. */
function againstMiddle({ reports }: ReportedInstrument): Map<ArticulationId, number> {
  const levels = reports.flatMap((report) => {
    const level = reportLoudness(report);
    return level === null ? [] : [[report.articulation, level] as const];
  });
  const middle = medianOf(levels.map(([, level]) => level));
  return new Map(levels.map(([id, level]) => [id, level - middle]));
}

/** A key that lies off the line between its neighbours in the layer heard at a middling touch. */
export function keyFindings(
  { articulation, positions, layers }: ArticulationReport,
  { kind }: ReportedInstrument,
  { middleC }: Writing,
): Finding[] {
  if (kind === 'ensemble') return [];
  const levels = (positions[0]?.levels ?? []).filter((one) => one.layer === layers >> 1);
  let worst: { key: number; off: number } | undefined;
  for (let i = 1; i + 1 < levels.length; i++) {
    const off = levels[i].lufs - (levels[i - 1].lufs + levels[i + 1].lufs) / 2;
    if (Math.abs(off) > Math.abs(worst?.off ?? UNEVEN_LU)) worst = { key: levels[i].key, off };
  }
  if (!worst) return [];
  return [
    {
      code: 'uneven-keys',
      weight: 'note',
      severity: Math.abs(worst.off) / UNEVEN_LU,
      articulation,
      position: null,
      figure: `${signed(worst.off, 1)} LU`,
      sentence: `${termName(articulation)}: ${pitchName(worst.key, middleC)} is ${Math.abs(worst.off).toFixed(1)} LU ${worst.off > 0 ? 'louder' : 'softer'} than its neighbours.`,
      hear: { articulation, shape: 'pair', keys: [worst.key - 2, worst.key, worst.key + 2] },
    },
  ];
}
