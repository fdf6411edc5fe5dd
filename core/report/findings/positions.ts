import { positionName } from '../../catalogue/index.ts';
import { pitchName } from '../../music/index.ts';
import type { ArticulationReport, PositionFigures } from '../figures.ts';
import { medianOf } from '../readings.ts';
import {
  middleKeyOf,
  minus,
  type Finding,
  type HearIt,
  type ReportedInstrument,
  type Writing,
} from './finding.ts';

/** Hiss above this, as it is played, comes through when several sections play softly. */
const NOISE_DB = -69;
/** A section whose position correlates more than this stands in one point. */
const POINT = 0.86;
/** Both sides are the same; elsewhere they are not, by at least so much. */
const MONO = 0.998;
const STEREO = 0.994;
/** Frequencies nearer than this, in octaves, ring with the same thing. */
const SAME_RING = 1 / 6;

interface At {
  report: ArticulationReport;
  own: PositionFigures;
}

/** Figures of one position in all reports that have it. */
function eachPosition(
  { reports }: ReportedInstrument,
  tell: (id: string, list: At[]) => Finding[],
): Finding[] {
  const ids = new Set(reports.flatMap((report) => report.positions.map((one) => one.id)));
  return [...ids].flatMap((id) =>
    tell(
      id,
      reports.flatMap((report) => {
        const own = report.positions.find((one) => one.id === id);
        return own ? [{ report, own }] : [];
      }),
    ),
  );
}

const named = (id: string) => positionName(id).toLowerCase();
/** The held tone tells a position best. */
const best = <T extends { report: ArticulationReport }>(list: readonly T[]): T =>
  list.find((one) => one.report.articulation === 'long') ?? list[0];
const heardAt = ({ report }: At, position: string, keys = [middleKeyOf(report)]): HearIt => ({
  articulation: report.articulation,
  shape: keys.length > 1 ? 'pair' : 'note',
  keys,
  position,
});

/** Positions that hiss. */
export const noiseFindings = (instrument: ReportedInstrument): Finding[] =>
  eachPosition(instrument, (id, list) => {
    const heard = list.filter(({ own }) => own.noiseDb !== null);
    const middle = medianOf(heard.map(({ own }) => own.noiseDb ?? 0));
    if (heard.length === 0 || middle < NOISE_DB) return [];
    const one = best(heard);
    return [
      {
        code: 'noisy',
        weight: 'fault',
        severity: 1 + (middle - NOISE_DB) / 6,
        articulation: null,
        position: id,
        figure: `${minus(middle.toFixed(0))} dBFS`,
        sentence: `The ${named(id)} position hisses at ${minus(middle.toFixed(0))} dBFS, ${Math.round(one.own.noiseBelowDb ?? 0)} dB under its notes; several sections of it will be heard in quiet places.`,
        hear: heardAt(one, id),
      },
    ];
  });

/** Sections that stand in one point, and keys whose two sides are one. */
export const widthFindings = (instrument: ReportedInstrument, { middleC }: Writing): Finding[] =>
  eachPosition(instrument, (id, list) => {
    const one = best(list);
    const widths = list.flatMap(({ own }) => own.width ?? []);
    const middle = medianOf(widths.map(({ correlation }) => correlation));
    // A soloist is a point by nature; a section should not be.
    if (instrument.kind !== 'solo' && widths.length > 0 && middle >= POINT)
      return [
        {
          code: 'mono-point',
          weight: 'fault',
          severity: 1 + (middle - POINT) / (1 - POINT),
          articulation: null,
          position: id,
          figure: `correlation ${middle.toFixed(2)}`,
          sentence: `The ${named(id)} position of this section is nearly one point (correlation ${middle.toFixed(2)}): alone it seems too near for an orchestra.`,
          hear: heardAt(one, id),
        },
      ];
    const keys = monoKeys(list);
    if (keys.length === 0) return [];
    const names = keys.map((key) => pitchName(key, middleC));
    const where =
      names.length < 3
        ? names.join(' and ')
        : `${names.slice(0, -1).join(', ')} and ${names[names.length - 1]}`;
    return [
      {
        code: 'mono-keys',
        weight: 'fault',
        severity: 1 + keys.length / 10,
        articulation: null,
        position: id,
        figure: `one point at ${names.length > 1 ? `${names[0]} … ${names[names.length - 1]}` : names[0]}`,
        sentence: `The ${named(id)} position has both sides alike at ${where}, and not elsewhere: a line through there falls into one point.`,
        hear: heardAt(one, id, [keys[0], otherThan(keys, list)]),
      },
    ];
  });

/** Keys whose two sides are the same in most of what is recorded of them, where those of other keys are not. */
function monoKeys(list: readonly At[]): number[] {
  const byKey = new Map<number, number[]>();
  for (const { own } of list)
    for (const { key, correlation } of own.levels) {
      if (correlation === null) continue;
      const known = byKey.get(key);
      if (known) known.push(correlation);
      else byKey.set(key, [correlation]);
    }
  const keys = [...byKey]
    .map(([key, values]) => ({ key, value: medianOf(values) }))
    .sort((a, b) => a.key - b.key);
  const mono = keys.filter(({ value }) => value >= MONO);
  const others = keys.filter(({ value }) => value < MONO);
  if (mono.length === 0 || others.length < mono.length) return [];
  return medianOf(others.map(({ value }) => value)) < STEREO ? mono.map(({ key }) => key) : [];
}

/** A key to hear the difference by. */
const otherThan = (keys: readonly number[], list: readonly At[]): number =>
  list.flatMap(({ own }) => own.levels.map(({ key }) => key)).find((key) => !keys.includes(key)) ?? keys[0];

/** Positions whose waves are turned over. */
export const polarityFindings = (instrument: ReportedInstrument): Finding[] =>
  eachPosition(instrument, (id, list) => {
    const known = list.filter(({ own }) => own.isInverted !== null);
    const turned = known.filter(({ own }) => own.isInverted);
    if (turned.length === 0 || 2 * turned.length <= known.length) return [];
    const nearest = known[0].report.positions[0].id;
    return [
      {
        code: 'polarity',
        weight: 'fault',
        severity: 3,
        articulation: null,
        position: id,
        figure: 'turned over',
        sentence: `The waves of the ${named(id)} position are turned over against those of the ${named(nearest)} one; mixed, they take the body out of each other.`,
        hear: heardAt(best(turned), id),
      },
    ];
  });

/** What rings on in the room after all notes. */
export function ringingFindings(instrument: ReportedInstrument): Finding[] {
  const found = eachPositionRing(instrument);
  const groups: (typeof found)[] = [];
  for (const one of found) {
    const group = groups.find(([first]) => Math.abs(Math.log2(first.hertz / one.hertz)) < SAME_RING);
    if (group) group.push(one);
    else groups.push([one]);
  }
  return groups.flatMap((group): Finding[] => {
    const ids = [...new Set(group.map(({ id }) => id))];
    const techniques = new Set(group.map(({ at }) => at.report.articulation)).size;
    // One technique alone may have a note of its own there.
    if (techniques < Math.min(2, instrument.reports.length)) return [];
    const hertz = medianOf(group.map((one) => one.hertz));
    const excess = medianOf(group.map((one) => one.excessDb));
    const where = ids.length === 1 ? `in the ${named(ids[0])} position` : `in ${ids.map(named).join(', ')}`;
    return [
      {
        code: 'ringing',
        weight: 'fault',
        severity: 1 + excess / 20,
        articulation: null,
        position: ids.length === 1 ? ids[0] : null,
        figure: `${Math.round(hertz)} Hz`,
        sentence: `Something in the room rings on at ${Math.round(hertz)} Hz after all notes, ${where}: when the rest has died away it stands ${Math.round(excess)} dB out of it.`,
        hear: heardAt(group[0].at, ids[0]),
      },
    ];
  });
}

function eachPositionRing({ reports }: ReportedInstrument) {
  return reports.flatMap((report) =>
    report.positions.flatMap((own) =>
      own.ringing.map((one) => ({ ...one, id: own.id, at: { report, own } })),
    ),
  );
}
