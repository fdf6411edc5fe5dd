import { articulationTerm, markedSeconds, positionName } from '../../catalogue/index.ts';
import { pitchName, type ArticulationId } from '../../music/index.ts';
import type { ArticulationReport } from '../figures.ts';
import { medianOf } from '../readings.ts';
import {
  middleKeyOf,
  plural,
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
/** Share of the siblings that have a technique which this one lacks. */
const SIBLING_SHARE = 0.7;

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

/** Recordings that are in trouble themselves. */
export function troubleFindings(
  { articulation, troubled }: ArticulationReport,
  { middleC }: Writing,
): Finding[] {
  const kinds = [...new Set(troubled.map((one) => one.trouble))];
  return kinds.map((kind): Finding => {
    const own = troubled.filter((one) => one.trouble === kind);
    const places = own
      .slice(0, 4)
      .map((one) => `${pitchName(one.key, middleC)} (${positionName(one.position).toLowerCase()})`)
      .join(', ');
    return {
      code: 'trouble',
      weight: 'fault',
      severity: 2 + own.length / 10,
      articulation,
      position: null,
      figure: `${own.length} ${kind}`,
      sentence: `${termName(articulation)}: ${plural(own.length, 'recording is', 'recordings are')} ${kind}: ${places}${own.length > 4 ? ' …' : ''}. ${kind === 'clipped' ? 'Its figures stand, but its peaks are cut off.' : 'No figures were taken from them.'}`,
      hear:
        kind === 'missing'
          ? null
          : { articulation, shape: 'note', keys: [own[0].key], position: own[0].position },
    };
  });
}

/** Rolls and swells must say how long they take, or they cannot be made to arrive on a beat. */
export function lengthFindings(report: ArticulationReport): Finding[] {
  const { articulation, name, range } = report;
  const { group, id } = articulationTerm(articulation);
  const timed = group === 'dynamic' || id === 'roll';
  if (!timed || markedSeconds({ name }) !== undefined || !range) return [];
  return [
    {
      code: 'no-length',
      weight: 'fault',
      severity: 1,
      articulation,
      position: null,
      figure: 'no length',
      sentence: `${name || termName(articulation)} does not say how many seconds it takes to its arrival; it cannot be made to land on a beat.`,
      hear: { articulation, shape: 'note', keys: [middleKeyOf(report)] },
    },
  ];
}

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
