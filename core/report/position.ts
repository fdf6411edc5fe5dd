import type { Zone } from '../catalogue/index.ts';
import {
  centroidOfSpectrum,
  loudnessOfSpectrum,
  noiseFloorDb,
  spectrumOf,
  thirdOctavesOf,
  widthOf,
  type Spectrum,
  type Width,
} from '../measure/index.ts';
import { zoneGain } from '../performance/index.ts';
import { gainToDb } from '../units/index.ts';
import type { HeardApart } from './apart.ts';
import type { Ends } from './ends.ts';
import type { KeyLevel, PositionFigures } from './figures.ts';
import { lookedSpan, rounded, type Measuring } from './measuring.ts';
import { ringingAt } from './ringing.ts';
import { MIDDLE_TOUCH, rootsOf, type HeardSample } from './zones.ts';

/** What lies further below the strongest partial is breath and hiss. */
const TONE_DB = 42;
/** Longer than what is usual: sections beat, and their level with them. */
const LOOKED_SECONDS = 1.2;

interface Looked {
  zone: Zone;
  layer: number;
  audio: HeardSample;
  spectrum: Spectrum;
  span: { from: number; to: number; onset: number };
}

/** Figures of one position of an articulation. */
export function measurePosition(
  context: Measuring,
  id: string,
  heard: HeardApart | undefined,
  ends: Ends,
  bytes: number,
): PositionFigures {
  const looked = lookedAt(context, id);
  const middle = middlingSpectra(looked);
  const loudness = middle.map(loudnessOfSpectrum).filter((value) => value > -90);
  const loudnessLufs = loudness.length > 0 ? rounded(meanOf(loudness)) : null;
  const noiseDb = noiseOf(context, id);
  return {
    id,
    levels: levelsOf(context, looked),
    loudnessLufs,
    thirds: middle.length > 0 ? meanThirds(middle) : null,
    width: meanWidth(looked),
    noiseDb,
    noiseBelowDb: noiseDb === null || loudnessLufs === null ? null : rounded(loudnessLufs - noiseDb),
    decay: ends.decay,
    directToRoomDb: ends.directToRoomDb,
    tailSeconds: ends.tailSeconds,
    arrivalSeconds: heard ? rounded(heard.arrivalSeconds) : null,
    isInverted: heard?.isInverted ?? null,
    ringing: ringingAt(context, id, ends.decay?.seconds),
    bytes,
    why: {
      ...ends.why,
      ...(noiseDb === null
        ? { noise: 'its recordings begin at once and leave no quiet place in which hiss could be heard' }
        : {}),
      ...(heard ? {} : { arrival: 'it has too little in common with the nearest position' }),
    },
  };
}

/** First takes of a position. All of a key are looked at equally long: what is struck grows darker while it rings. */
function lookedAt(context: Measuring, id: string): Looked[] {
  const found = context.layers.flatMap(({ zones }, layer) =>
    zones.flatMap((zone) => {
      const audio = zone.take === 0 ? context.sound(zone, id) : undefined;
      return audio ? [{ zone, layer, audio, span: lookedSpan(zone, audio, context, LOOKED_SECONDS) }] : [];
    }),
  );
  const seconds = new Map<number, number>();
  for (const { zone, audio, span } of found) {
    const own = (span.to - span.from) / audio.rate;
    seconds.set(zone.rootKey, Math.min(own, seconds.get(zone.rootKey) ?? own));
  }
  return found.map((one) => {
    const { audio, zone, span } = one;
    const frames = Math.max(1, Math.round((seconds.get(zone.rootKey) ?? 0) * audio.rate));
    const own = { ...span, to: span.from + frames };
    return { ...one, span: own, spectrum: spectrumOf(audio.channels, audio.rate, own.from, own.to) };
  });
}

/** Loudness of every root in every layer at that layer's own touch; zones heard together are added by power. */
function levelsOf(context: Measuring, looked: readonly Looked[]): KeyLevel[] {
  return context.layers.flatMap(({ touch }, layer) =>
    rootsOf(looked.filter((one) => one.layer === layer).map((one) => one.zone)).flatMap((key) => {
      const own = looked.filter((one) => one.layer === layer && one.zone.rootKey === key);
      const spectrum = weighted(own, (zone) => zoneGain(zone, touch));
      const lufs = loudnessOfSpectrum(spectrum);
      const width = meanWidth(own);
      return lufs > -90
        ? [
            {
              key,
              layer,
              lufs: rounded(lufs),
              centroidHz: Math.round(centroidOfSpectrum(spectrum, TONE_DB)),
              correlation: width?.correlation ?? null,
            },
          ]
        : [];
    }),
  );
}

/** What each root sounds like at a middling touch. */
function middlingSpectra(looked: readonly Looked[]): Spectrum[] {
  const within = ({ zone }: Looked) =>
    MIDDLE_TOUCH.velocity >= zone.velocityLow && MIDDLE_TOUCH.velocity <= zone.velocityHigh;
  return rootsOf(looked.map((one) => one.zone)).flatMap((key) => {
    const own = looked.filter((one) => one.zone.rootKey === key && within(one));
    return own.length > 0 ? [weighted(own, (zone) => zoneGain(zone, MIDDLE_TOUCH))] : [];
  });
}

function weighted(looked: readonly Looked[], gainOf: (zone: Zone) => number): Spectrum {
  const power = new Float64Array(looked[0].spectrum.power.length);
  for (const { zone, spectrum } of looked) {
    const gain = gainOf(zone) ** 2;
    if (gain > 0) for (let k = 0; k < power.length; k++) power[k] += gain * spectrum.power[k];
  }
  return { power, binHz: looked[0].spectrum.binHz };
}

function meanThirds(spectra: readonly Spectrum[]): number[] {
  const power = new Float64Array(spectra[0].power.length);
  for (const one of spectra) for (let k = 0; k < power.length; k++) power[k] += one.power[k] / spectra.length;
  return thirdOctavesOf({ power, binHz: spectra[0].binHz }).map(rounded);
}

function meanWidth(looked: readonly Looked[]): Width | null {
  const list = looked.flatMap(({ audio, span }) => widthOf(audio.channels, span.from, span.to) ?? []);
  if (list.length === 0) return null;
  return {
    correlation: rounded(meanOf(list.map((one) => one.correlation))),
    sideDb: rounded(meanOf(list.map((one) => one.sideDb))),
  };
}

/** Hiss where nothing else sounds, as loud as it is played at a middling touch: median over the recordings. */
function noiseOf(context: Measuring, id: string): number | null {
  const heard: number[] = [];
  for (const { zones } of context.layers)
    for (const zone of zones) {
      const audio = context.sound(zone, id);
      const gain = audio ? zoneGain(zone, MIDDLE_TOUCH) : 0;
      if (!audio || gain <= 0) continue;
      const floor = noiseFloorDb(audio.channels, audio.rate, lookedSpan(zone, audio, context).onset);
      if (floor !== undefined) heard.push(floor + gainToDb(gain));
    }
  if (heard.length < 3) return null;
  return rounded(heard.sort((a, b) => a - b)[heard.length >> 1]);
}

const meanOf = (list: readonly number[]) => list.reduce((sum, value) => sum + value, 0) / list.length;
