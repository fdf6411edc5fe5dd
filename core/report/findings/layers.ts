import { pitchName } from '../../music/index.ts';
import { counted } from '../../units/index.ts';
import {
  TWO_SOURCES,
  type ArticulationReport,
  type KeyLevel,
  type LayerCurve,
  type LayerStep,
  type PositionFigures,
} from '../figures.ts';
import { medianOf } from '../readings.ts';
import { signed, termName, type Finding, type ReportedInstrument, type Writing } from './finding.ts';
import { offNeighbours, ofFew, usualSpread } from './neighbours.ts';

/** LU that held notes jump by within eight steps of the controller, on most of the keys that are looked at. */
const STEP_LU = 5;
/** Steps of the controller within which keys have the same step. */
const SAME_STEP = 8;
/** LU that one layer of one key stands off that of its neighbours, its other layers aside: a crescendo breaks there. */
const KEY_LU = 2;
/** So many times as much where one position alone tells it: that may be its room. */
const ALONE = 1.75;
/** Share of it that a second position must show. */
const AGREEING = 0.6;
/** Octaves of spectral centroid that it stands off. */
const KEY_OCTAVES = 0.3;
/** So many times what keys usually differ by it must be as well. */
const USUAL = 3.2;
const FEWEST_KEYS = 5;
/** So many times as far off its own neighbours as the other one a layer must be, to be the one that is odd of two. */
const SURE = 2;
/** Controller steps over which a soloist must be heard twice for it to be told. */
const LONG_OVERLAP = 40;

/** Layers that do not join: on all keys, on one, or two of them side by side. */
export function layerFindings(
  report: ArticulationReport,
  { kind }: ReportedInstrument,
  { middleC }: Writing,
): Finding[] {
  const { articulation, curves } = report;
  // Across the keys of an ensemble the next key may be another instrument.
  const found: Finding[] = kind === 'ensemble' ? [] : keyLayerFindings(report, { middleC });
  const ridden = curves.filter((curve) => curve.controller === 'dynamics');
  const steps = ridden.flatMap(({ key, steps: list }) => list.map((step) => ({ key, ...step })));
  const worst = commonStep(ridden);
  if (worst && Math.abs(worst.stepLu) >= STEP_LU)
    found.push({
      code: 'layer-step',
      weight: 'fault',
      severity: Math.abs(worst.stepLu) / STEP_LU,
      articulation,
      position: null,
      figure: `${signed(worst.stepLu, 1)} LU`,
      sentence: `${termName(articulation)}: at controller ${worst.at} the next layer takes over with a jump of ${signed(worst.stepLu, 1)} LU and ${signed(worst.stepOctaves, 1)} octaves of brightness. A slow crescendo will break there.`,
      hear: { articulation, shape: 'rise', keys: [worst.key] },
    });
  const blended = steps.filter((step) => step.overlap >= LONG_OVERLAP && step.coherence < TWO_SOURCES);
  if (kind === 'solo' && blended.length > 0)
    found.push({
      code: 'two-sources',
      weight: 'note',
      severity: 1,
      articulation,
      position: null,
      figure: counted(blended[0].overlap, 'step'),
      sentence: `${termName(articulation)}: over ${blended[0].overlap} steps of the controller around ${blended[0].at} two recordings of ${pitchName(blended[0].key, middleC)} sound side by side; a soloist may seem to be two.`,
      hear: { articulation, shape: 'rise', keys: [blended[0].key] },
    });
  return found;
}

/** The greatest step that most keys have at about the same place, as the key in the middle has it. */
function commonStep(curves: readonly LayerCurve[]): (LayerStep & { key: number }) | undefined {
  const steps = curves.flatMap(({ key, steps: list }) => list.map((step) => ({ key, ...step })));
  const common = steps.flatMap((step) => {
    const own = curves.flatMap(({ key, steps: list }) => {
      const near = list.filter(({ at }) => Math.abs(at - step.at) <= SAME_STEP);
      return near.length === 0
        ? []
        : [{ key, ...near.reduce((a, b) => (Math.abs(b.stepLu) > Math.abs(a.stepLu) ? b : a)) }];
    });
    own.sort((a, b) => a.stepLu - b.stepLu);
    return 2 * own.length > curves.length ? [own[own.length >> 1]] : [];
  });
  return common.reduce<(typeof common)[number] | undefined>(
    (most, one) => (Math.abs(one.stepLu) > Math.abs(most?.stepLu ?? 0) ? one : most),
    undefined,
  );
}

/** How far a layer of a key stands off its neighbours, the other layers of the key aside. */
interface Off {
  key: number;
  layer: number;
  value: number;
  /** Whether it may as well be the other one of two layers that is off the other way; told of the upper one. */
  isEither?: boolean;
}

/** One finding for the layer that stands off most, in level and in brightness. */
function keyLayerFindings(report: ArticulationReport, { middleC }: Writing): Finding[] {
  const { articulation, layers } = report;
  if (layers < 2) return [];
  const levels = worstOf(report, (one) => one.lufs, KEY_LU);
  const colours = worstOf(report, (one) => Math.log2(Math.max(20, one.centroidHz)), KEY_OCTAVES);
  const place = ({ key, layer, isEither }: Off) =>
    `${isEither ? 'the upper of the two layers' : `layer ${layer + 1}`} of ${pitchName(key, middleC)}`;
  // Which of two it is that stands off may not be known: then what is known is told, that they do not fit each other.
  const against = ({ isEither }: Off, others: string) =>
    isEither ? 'against the lower than beside it' : others;
  return [
    ...levels.map((one): Finding => ({
      code: 'layer-step',
      weight: 'fault',
      severity: Math.abs(one.value) / KEY_LU,
      articulation,
      position: null,
      figure: `${signed(one.value, 1)} LU at ${pitchName(one.key, middleC)}`,
      sentence: `${termName(articulation)}: ${place(one)} is ${Math.abs(one.value).toFixed(1)} LU ${one.value > 0 ? 'louder' : 'softer'} ${against(one, 'than beside it, the other layers of the note aside')}. A crescendo will break there.`,
      hear: { articulation, shape: 'rise', keys: [one.key] },
    })),
    ...colours.map((one): Finding => ({
      code: 'layer-colour',
      weight: 'fault',
      severity: Math.abs(one.value) / KEY_OCTAVES,
      articulation,
      position: null,
      figure: `${Math.abs(one.value).toFixed(1)} octaves at ${pitchName(one.key, middleC)}`,
      sentence: `${termName(articulation)}: ${place(one)} is ${one.value > 0 ? 'brighter' : 'darker'} ${against(one, 'than beside it')}, by ${Math.abs(one.value).toFixed(1)} octaves of its spectrum’s middle. A crescendo changes colour there.`,
      hear: { articulation, shape: 'rise', keys: [one.key] },
    })),
  ];
}

function worstOf(report: ArticulationReport, valueOf: (one: KeyLevel) => number, least: number): Off[] {
  const keys = [...new Set(report.positions.flatMap(({ levels }) => levels.map(({ key }) => key)))].sort(
    (a, b) => a - b,
  );
  if (keys.length < FEWEST_KEYS) return [];
  const layers = Array.from({ length: report.layers }, (_, layer) => layer);
  // Rooms favour one tone here and another there: the position whose keys differ least tells best.
  const [best, second] = report.positions
    .map((position) => offsOf(position, layers, keys, valueOf))
    .filter((list) => list.length > 0)
    .map((list) => ({ list, usual: usualSpread(list.map(({ value }) => value)) }))
    .sort((a, b) => a.usual - b.usual) as (
    { list: (Off & { alone: number })[]; usual: number } | undefined
  )[];
  // Where no other position agrees, it must not be chance that most of a few keys differ little.
  const deviations = second ? USUAL : ofFew(USUAL, keys.length - 1);
  const standing = (best?.list ?? []).filter(({ key, layer, value }) => {
    if (Math.abs(value) < (second ? least : ALONE * least)) return false;
    if (Math.abs(value) < deviations * (best?.usual ?? 0)) return false;
    const there = second?.list.find((one) => one.key === key && one.layer === layer);
    return !there || there.value * Math.sign(value) >= AGREEING * Math.abs(value);
  });
  // Of two layers each stands off the other: it is the one that stands off its own neighbours.
  const weight = (one: Off & { alone: number }) => Math.abs(one.value) + Math.abs(one.alone);
  const [most] = standing.sort((a, b) => weight(b) - weight(a));
  if (most === undefined) return [];
  const other = best?.list.find(({ key, layer }) => key === most.key && layer === 1 - most.layer);
  const isEither =
    report.layers === 2 && other !== undefined && Math.abs(most.alone) < SURE * Math.abs(other.alone);
  return [isEither ? { ...most, value: most.layer === 1 ? most.value : -most.value, isEither } : most];
}

/** Every layer against the others of its key first: what a room adds to a tone it adds to all of them. Then against its neighbours. */
function offsOf(
  { levels }: PositionFigures,
  layers: readonly number[],
  keys: readonly number[],
  valueOf: (one: KeyLevel) => number,
): (Off & { alone: number })[] {
  const valueAt = new Map(levels.map((one) => [`${one.key} ${one.layer}`, valueOf(one)]));
  return layers.flatMap((layer) => {
    const own = keys.flatMap((key) => {
      const value = valueAt.get(`${key} ${layer}`);
      const others = layers.flatMap((other) =>
        other === layer ? [] : (valueAt.get(`${key} ${other}`) ?? []),
      );
      return value === undefined || others.length === 0
        ? []
        : [{ key, value, against: value - medianOf(others) }];
    });
    const off = offNeighbours(own.map(({ key, against }) => ({ x: key, y: against })));
    const alone = offNeighbours(own.map(({ key, value }) => ({ x: key, y: value })));
    return own.map(({ key }, i) => ({ key, layer, value: off[i], alone: alone[i] }));
  });
}
