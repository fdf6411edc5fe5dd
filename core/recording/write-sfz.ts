import { layerWindows } from './windows.ts';
import type { HallModel } from '../rooms/index.ts';
import {
  ordersOf,
  recordedFor,
  takeFile,
  type InstrumentPlan,
  type LayerPlan,
  type NotePlan,
  type TakeOrder,
  type TechniquePlan,
} from './plan.ts';
import { loopFrames } from './studio.ts';

/** First key of the switches, low enough for every range but the lowest keyboards'. */
const FIRST_SWITCH = 0;
const PLAIN_RELEASE = 0.25;
/** A single layer that follows dynamics: falls this far, and closes its filter, from full to none. */
const RIDDEN = 'gain_cc1=17 cutoff=3200 fil_type=lpf_2p cutoff_cc1=3600';
const RIDDEN_DB = -9.4;
/** The same beside crossfaded layers: level alone, since a filter would let it speak later than the layers do. */
const RIDDEN_PLAIN = 'gain_cc1=17';

/** The SFZ text over an instrument's takes: one master per position, one keyswitch per technique. */
export function instrumentSfz(instrument: InstrumentPlan, hall: HallModel): string {
  const lines = [`// ${instrument.name}, ${hall.name}`];
  for (const mic of hall.mics) {
    lines.push('', `<master> master_label=${mic.name}`);
    instrument.techniques.forEach((technique, i) =>
      lines.push(...techniqueLines(instrument, technique, FIRST_SWITCH + i, mic)),
    );
  }
  return lines.join('\n') + '\n';
}

function techniqueLines(
  instrument: InstrumentPlan,
  technique: TechniquePlan,
  switchKey: number,
  mic: HallModel['mics'][number],
): string[] {
  const head = `sw_last=${switchKey} sw_label=${technique.label ?? technique.id}`;
  const source = technique.notesOf
    ? instrument.techniques.find(({ id }) => id === technique.notesOf)
    : technique;
  if (!source) return [];
  const context = { instrument, mic };
  return [
    ...noteLines(context, source, head, technique.moves ? 'trigger=first' : ''),
    ...releaseLines(context, source, head),
    ...moveLines(context, technique, head),
  ];
}

interface Context {
  instrument: InstrumentPlan;
  mic: HallModel['mics'][number];
}

const sampleOf = ({ mic }: Context, technique: TechniquePlan, order: TakeOrder) =>
  `sample=${takeFile(recordedFor(technique, order), mic.id)}`;

/** Keys a root serves among its neighbours, within the instrument's range. */
function spread(
  roots: readonly number[],
  root: number,
  { instrument }: Context,
  reach: number | undefined,
): { low: number; high: number } | undefined {
  const i = roots.indexOf(root);
  const bottom = reach === undefined ? instrument.low : Math.max(instrument.low, roots[0] - reach);
  const top =
    reach === undefined ? instrument.high : Math.min(instrument.high, roots[roots.length - 1] + reach);
  const low = i > 0 ? Math.floor((roots[i - 1] + root) / 2) + 1 : bottom;
  const high = i + 1 < roots.length ? Math.floor((root + roots[i + 1]) / 2) : top;
  return high >= low ? { low, high } : undefined;
}

function noteLines(context: Context, technique: TechniquePlan, head: string, trigger: string): string[] {
  const { notes } = technique;
  if (!notes) return [];
  const { instrument } = context;
  const lines: string[] = [];
  const { takes } = notes;
  const loop = loopFrames(technique);
  const play = loop
    ? `loop_mode=loop_continuous loop_start=${loop.start} loop_end=${loop.end - 1} ampeg_release=${notes.releaseSeconds ?? PLAIN_RELEASE}`
    : 'loop_mode=one_shot';
  const groups = new Map<string, string[]>();
  for (const order of ordersOf(technique)) {
    if (order.slot !== 'note') continue;
    const keys = spread(notes.roots, order.root, context, notes.reach);
    if (!keys) continue;
    const plain = notes.vibrato && !order.vibrato;
    const layer = notes.layers[order.layer];
    const group = [
      head,
      trigger,
      play,
      `amp_veltrack=${Math.round(notes.velocityTrack * 100)}`,
      takes > 1 ? `seq_length=${takes} seq_position=${order.take + 1}` : '',
      notes.keyTrack === undefined ? '' : `pitch_keytrack=${notes.keyTrack}`,
      notes.vibrato ? (plain ? 'xfout_locc77=8 xfout_hicc77=100' : 'xfin_locc77=8 xfin_hicc77=100') : '',
      loudness(notes, order.layer, plain ?? false),
      volume(instrument, notes, layer, plain ?? false),
    ];
    const text = `<group> ${group.filter(Boolean).join(' ')}`;
    const region = `<region> lokey=${keys.low} hikey=${keys.high} pitch_keycenter=${rootFor(technique, order)} ${sampleOf(context, technique, order)}`;
    groups.set(text, [...(groups.get(text) ?? []), region]);
  }
  for (const [group, regions] of groups) lines.push(group, ...regions);
  return lines;
}

/** A stand-in of another root keeps that root as its pitch. */
const rootFor = (technique: TechniquePlan, order: TakeOrder) => recordedFor(technique, order).root;

function loudness(notes: NotePlan, at: number, plain: boolean): string {
  const count = notes.layers.length;
  if (plain) return RIDDEN_PLAIN;
  if (notes.ridden) return RIDDEN;
  if (count === 1) return '';
  if (notes.control === 'velocity') {
    const edge = (step: number) => Math.round((127 * step) / count);
    return `lovel=${edge(at) + 1} hivel=${edge(at + 1)}`;
  }
  return layerWindows(at, count, notes.windows);
}

function volume(instrument: InstrumentPlan, notes: NotePlan, layer: LayerPlan, plain: boolean): string {
  const gain =
    instrument.trimDb -
    instrument.inputDb -
    layer.tapeDb +
    (notes.gainDb ?? 0) +
    (plain || notes.ridden ? RIDDEN_DB : 0);
  return `volume=${Math.round(gain * 100) / 100}`;
}

function releaseLines(context: Context, technique: TechniquePlan, head: string): string[] {
  const { releases } = technique;
  if (!releases) return [];
  const gain = context.instrument.trimDb - context.instrument.inputDb - releases.layer.tapeDb + RIDDEN_DB;
  return [
    `<group> ${head} trigger=release amp_veltrack=0 gain_cc1=17 volume=${Math.round(gain * 100) / 100}`,
    ...ordersOf(technique).flatMap((order) => {
      const keys =
        order.slot === 'release' ? spread(releases.roots, order.root, context, undefined) : undefined;
      return keys
        ? [
            `<region> lokey=${keys.low} hikey=${keys.high} pitch_keycenter=${order.root} ${sampleOf(context, technique, order)}`,
          ]
        : [];
    }),
  ];
}

function moveLines(context: Context, technique: TechniquePlan, head: string): string[] {
  const { moves } = technique;
  if (!moves) return [];
  const { instrument } = context;
  const { low, high } = instrument;
  const gain = instrument.trimDb - instrument.inputDb - moves.layer.tapeDb + RIDDEN_DB;
  const lines = [
    `<group> ${head} trigger=legato amp_veltrack=0 ampeg_release=0.2 volume=${Math.round(gain * 100) / 100} ${RIDDEN}`,
  ];
  for (const order of ordersOf(technique)) {
    const keys = order.slot === 'move' ? spread(moves.roots, order.root, context, undefined) : undefined;
    if (!keys) continue;
    for (let key = keys.low; key <= keys.high; key++) {
      const from = key - order.interval;
      if (from < low || from > high) continue;
      lines.push(
        `<region> key=${key} pitch_keycenter=${order.root} sw_previous=${from} ${sampleOf(context, technique, order)}`,
      );
    }
  }
  return lines;
}
