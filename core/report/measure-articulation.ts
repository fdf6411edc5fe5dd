import {
  articulationTerm,
  byNearness,
  layersAndTakes,
  memoryBytes,
  playableRange,
  samplesOf,
  type Articulation,
  type Instrument,
  type Zone,
} from '../catalogue/index.ts';
import {
  attackEnvelope,
  HOP_SECONDS,
  livelinessOf,
  onsetOfEnvelope,
  pitchTrackCents,
  spectrumOf,
  troubleOf,
  vibratoOf,
} from '../measure/index.ts';
import { zoneGain } from '../performance/index.ts';
import { gainToDb } from '../units/index.ts';
import { heardApart } from './apart.ts';
import { chordFigure } from './chords.ts';
import {
  REPORT_REVISION,
  type ArticulationReport,
  type OnsetFigure,
  type SustainFigure,
  type TroubledSample,
  type TuningFigure,
  type VibratoFigure,
} from './figures.ts';
import { endsOf } from './ends.ts';
import { frameOf, lookedSpan, monoOf, rounded, type Measuring } from './measuring.ts';
import { layerCurve, type LookedZone } from './layer-curve.ts';
import { moveFigures } from './moves.ts';
import { driftOf, pitchOf, tuningOf } from './tuning.ts';
import { partialsOf, strongestPartialHz } from './partials.ts';
import { measurePosition } from './position.ts';
import { sameTakes } from './same-takes.ts';
import {
  foremost,
  isRidden,
  layersOf,
  lowMiddleHigh,
  rootsOf,
  rulerOf,
  type HeardSample,
  type SampleSource,
} from './zones.ts';

/** Techniques whose pitch moves by intention, so that tuning says nothing. */
const MOVING = new Set(['trill half', 'trill whole', 'fall', 'cluster', 'noises', 'consonants']);

/**
 * Measures one articulation from all its positions. Pure and slow: for workers.
 * @param source recordings by sample id
 * @param progress told the share done, 0…1
 */
export function measureArticulation(
  instrument: Instrument,
  articulation: Articulation,
  source: SampleSource,
  progress: (share: number) => void,
): ArticulationReport {
  const positions = instrument.positions.map(({ id }) => id).sort(byNearness);
  const troubled: TroubledSample[] = [];
  const sound = soundSamples(articulation, positions, source, troubled);
  progress(0.1);
  const layers = layersOf(articulation);
  const near = positions.find((id) => articulation.zones.some((zone) => sound(zone, id) !== undefined));
  const { layers: layerCount, takes } = layersAndTakes(articulation);
  const report: ArticulationReport = {
    revision: REPORT_REVISION,
    articulation: articulation.id,
    name: articulation.name,
    range: playableRange(articulation) ?? null,
    layers: layerCount,
    takes,
    bytes: memoryBytes(instrument, samplesOf(articulation, positions)),
    troubled,
    positions: [],
    onsets: [],
    sameTakes: [],
    curves: [],
    tuning: [],
    sustains: [],
    vibrato: [],
    moves: moveFigures(articulation, near),
    chords: [],
    partials: [],
  };
  if (near === undefined || layers.length === 0) return report;
  const context: Measuring = { articulation, layers, near, sound: (zone, id = near) => sound(zone, id) };
  const apart = heardApart(context, positions);
  endsOf(context, positions, apart).forEach((ends, i) => {
    const id = positions[i];
    const bytes = memoryBytes(instrument, samplesOf(articulation, [id]));
    report.positions.push(measurePosition(context, id, apart.get(id), ends, bytes));
    progress(0.1 + (0.5 * (i + 1)) / positions.length);
  });
  report.onsets = onsetsOf(context);
  report.sameTakes = sameTakes(context);
  progress(0.7);
  report.curves = curvesOf(context);
  progress(0.8);
  Object.assign(report, tonesOf(context, positions));
  progress(0.95);
  const chord = chordFigure(context, positions);
  if (chord) report.chords.push(chord);
  return report;
}

/** Looks every recording over once; those in trouble are told and left out. */
function soundSamples(
  articulation: Articulation,
  positions: readonly string[],
  source: SampleSource,
  troubled: TroubledSample[],
): (zone: Zone, position: string) => HeardSample | undefined {
  const known = new Map<string, HeardSample | undefined>();
  for (const zone of articulation.zones)
    for (const position of positions) {
      const id = zone.samples[position]?.sample;
      if (id === undefined || known.has(id)) continue;
      const audio = source(id);
      const trouble = audio ? troubleOf(audio.channels, audio.rate) : 'missing';
      if (trouble) troubled.push({ position, key: zone.rootKey, trouble });
      // What is clipped can still be measured; the reader is told.
      known.set(id, trouble === undefined || trouble === 'clipped' ? audio : undefined);
    }
  return (zone, position) => {
    const id = zone.samples[position]?.sample;
    return id === undefined ? undefined : known.get(id);
  };
}

const RISE_POINTS = 100;

/** When every take speaks at the nearest position, and how long it takes to its height. */
function onsetsOf(context: Measuring): OnsetFigure[] {
  const list: OnsetFigure[] = [];
  context.layers.forEach(({ zones }, layer) => {
    for (const zone of zones) {
      if (isRidden(zone)) continue;
      const audio = context.sound(zone);
      if (!audio) continue;
      const envelope = attackEnvelope(
        audio.channels,
        audio.rate,
        frameOf(zone, zone.startFrame, audio, context),
      );
      const seconds = onsetOfEnvelope(envelope);
      const first = Math.floor(seconds / HOP_SECONDS);
      let height = 0;
      for (let i = first; i < Math.min(envelope.length, first + RISE_POINTS); i++)
        height = Math.max(height, envelope[i]);
      let top = first;
      while (top < envelope.length && envelope[top] < height / 2) top++;
      list.push({
        key: zone.rootKey,
        layer,
        take: zone.take,
        seconds: rounded(seconds),
        riseSeconds: rounded(Math.max(0, top * HOP_SECONDS - seconds)),
      });
    }
  });
  return list;
}

/** Loudness and brightness along the controller, for a low, a middle and a high root. */
function curvesOf(context: Measuring) {
  const zones = context.layers.flatMap((layer) => layer.zones).filter((zone) => zone.take === 0);
  const controller = rulerOf(zones);
  return lowMiddleHigh(rootsOf(zones)).flatMap((root) => {
    const looked = zones.flatMap((zone): LookedZone[] => {
      const audio = zone.rootKey === root ? context.sound(zone) : undefined;
      return audio ? [{ zone, audio, ...lookedSpan(zone, audio, context, 1) }] : [];
    });
    if (looked.length === 0) return [];
    // All are looked at over the same span, so that their waves can be added.
    const from = Math.max(...looked.map((one) => one.from));
    const to = Math.max(from + 1, Math.min(...looked.map((one) => one.to)));
    return [
      layerCurve(
        looked.map((one) => ({ ...one, from, to })),
        root,
        controller,
      ),
    ];
  });
}

/** Tuning, vibrato, sustain and partials of the recorded roots, at the nearest position. */
function tonesOf(context: Measuring, positions: readonly string[]) {
  const { id } = context.articulation;
  const { group } = articulationTerm(id);
  const tuning: TuningFigure[] = [];
  const vibrato: VibratoFigure[] = [];
  const sustains: SustainFigure[] = [];
  const pitches = new Map<number, number>();
  const pitched = group !== 'pattern' && !MOVING.has(id);
  const middle = context.layers[context.layers.length >> 1];
  const roots = rootsOf(middle.zones);
  const few = new Set(lowMiddleHigh(roots));
  for (const root of roots) {
    const own = middle.zones.filter((zone) => zone.rootKey === root && zone.take === 0);
    const zone = foremost(own, { ...middle.touch, vibrato: 0 });
    const audio = zone && context.sound(zone);
    const heard = zone && pitched ? pitchOf(context, zone, context.near) : undefined;
    if (!zone || !audio || !heard) continue;
    const span = lookedSpan(zone, audio, context, 1.2);
    const mono = monoOf(audio);
    const spectrum = spectrumOf(audio.channels, audio.rate, span.from, span.to);
    const partial = strongestPartialHz(spectrum, heard.hertz);
    const track =
      group === 'short'
        ? new Float64Array(0)
        : pitchTrackCents(mono, audio.rate, partial, span.from, span.to);
    tuning.push({ ...tuningOf(context, root, positions), driftCents: rounded(driftOf(track)) });
    pitches.set(root, heard.hertz);
    if (group === 'long' || group === 'connected')
      for (const one of few.has(root) ? own : []) {
        const its = context.sound(one);
        const found = its && vibratoOf(monoOf(its), its.rate, partial, span.from, span.to + its.rate / 2);
        if (found)
          vibrato.push({
            key: root,
            ridden: isRidden(one),
            hertz: rounded(found.hertz),
            cents: rounded(found.cents),
          });
      }
  }
  if (group === 'long' || group === 'connected')
    context.layers.forEach(({ zones }, layer) => {
      for (const zone of zones) {
        const audio = zone.take === 0 && !isRidden(zone) ? context.sound(zone) : undefined;
        if (!audio) continue;
        const { loop } = zone;
        const place = (frame: number) => frameOf(zone, frame, audio, context);
        const figures = livelinessOf(
          audio.channels,
          audio.rate,
          lookedSpan(zone, audio, context, 1.5),
          loop && { start: place(loop.start), end: place(loop.end) },
        );
        sustains.push({
          key: zone.rootKey,
          layer,
          movementDb: rounded(figures.movementDb),
          repeatsAfterSeconds: rounded(figures.repeatsAfterSeconds),
          seam: rounded(figures.seam),
        });
      }
    });
  return { tuning, vibrato, sustains, partials: group === 'short' ? [] : partialSets(context, pitches) };
}

/** Partials of all notes, once for every layer, with and without vibrato. @param pitches heard pitch by root, in hertz */
function partialSets(context: Measuring, pitches: ReadonlyMap<number, number>) {
  return context.layers.flatMap(({ zones, touch }) =>
    [false, true].flatMap((ridden) => {
      const notes = [...pitches].flatMap(([root, hertz]) => {
        const zone = zones.find((one) => one.rootKey === root && one.take === 0 && isRidden(one) === ridden);
        const audio = zone && context.sound(zone);
        if (!zone || !audio) return [];
        const span = lookedSpan(zone, audio, context, 1);
        const spectrum = spectrumOf(audio.channels, audio.rate, span.from, span.to);
        return [
          partialsOf(spectrum, hertz, gainToDb(zoneGain(zone, { ...touch, vibrato: ridden ? 127 : 0 }))),
        ];
      });
      return notes.length >= 3 ? [notes] : [];
    }),
  );
}
