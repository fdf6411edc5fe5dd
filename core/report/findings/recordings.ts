import { articulationTerm, markedSeconds, positionName } from '../../catalogue/index.ts';
import { pitchName } from '../../music/index.ts';
import { counted } from '../../units/index.ts';
import type { ArticulationReport } from '../figures.ts';
import { middleKeyOf, termName, type Finding, type Writing } from './finding.ts';

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
      sentence: `${termName(articulation)}: ${counted(own.length, 'recording is', 'recordings are')} ${kind}: ${places}${own.length > 4 ? ' …' : ''}. ${kind === 'clipped' ? 'Its figures stand, but its peaks are cut off.' : 'No figures were taken from them.'}`,
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
