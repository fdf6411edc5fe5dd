import { articulationTerm, type Zone } from '../catalogue/index.ts';
import {
  decayOf,
  directToRoomDb,
  loudnessOfSpectrum,
  noiseFloorDb,
  powerEvery5ms,
  spectrumOf,
  tailSeconds,
  thirdOctavesOf,
  widthOf,
  type Decay,
  type Spectrum,
  type Width,
} from '../measure/index.ts';
import { zoneGain } from '../performance/index.ts';
import { gainToDb } from '../units/index.ts';
import type { KeyLevel, PositionFigures } from './figures.ts';
import { frameOf, lookedSpan, rounded, type Measuring } from './measuring.ts';
import { lowMiddleHigh, MIDDLE_TOUCH, rootsOf, type HeardSample } from './zones.ts';

interface Looked {
  zone: Zone;
  layer: number;
  audio: HeardSample;
  spectrum: Spectrum;
  span: { from: number; to: number; onset: number };
}

/** Figures of one position of an articulation. */
export function measurePosition(context: Measuring, id: string, bytes: number): PositionFigures {
  const looked = context.layers.flatMap(({ zones }, layer) =>
    zones.flatMap((zone): Looked[] => {
      const audio = zone.take === 0 ? context.sound(zone, id) : undefined;
      if (!audio) return [];
      const span = lookedSpan(zone, audio, context);
      return [
        { zone, layer, audio, span, spectrum: spectrumOf(audio.channels, audio.rate, span.from, span.to) },
      ];
    }),
  );
  const middle = middlingSpectra(looked);
  const loudness = middle.map(loudnessOfSpectrum).filter((value) => value > -90);
  const loudnessLufs = loudness.length > 0 ? rounded(meanOf(loudness)) : null;
  const noiseDb = noiseOf(context, id);
  const ends = endsOf(context, id, looked);
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
    arrivalSeconds: arrivalOf(context, id, looked),
    bytes,
  };
}

/** Loudness of every root in every layer at that layer's own touch; zones heard together are added by power. */
function levelsOf(context: Measuring, looked: readonly Looked[]): KeyLevel[] {
  return context.layers.flatMap(({ touch }, layer) =>
    rootsOf(looked.filter((one) => one.layer === layer).map((one) => one.zone)).flatMap((key) => {
      const own = looked.filter((one) => one.layer === layer && one.zone.rootKey === key);
      const lufs = loudnessOfSpectrum(weighted(own, (zone) => zoneGain(zone, touch)));
      return lufs > -90 ? [{ key, layer, lufs: rounded(lufs) }] : [];
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

/** Hiss before the notes, as loud as it is played at a middling touch: median over the recordings. */
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

/** How notes end there: from recorded releases where there are any, otherwise from short notes that ring out by themselves. */
function endsOf(
  context: Measuring,
  id: string,
  looked: readonly Looked[],
): { decay: Decay | null; directToRoomDb: number | null; tailSeconds: number | null } {
  const decays: Decay[] = [];
  const ratios: number[] = [];
  const tails: number[] = [];
  const { group } = articulationTerm(context.articulation.id);
  const releases = context.articulation.zones.filter((zone) => zone.role === 'release');
  for (const { zone, audio, span } of lowMiddleHigh(looked)) {
    const release = releases.find((one) => one.rootKey === zone.rootKey) ?? releases[0];
    const end = release && context.sound(release, id);
    if (release && end && group !== 'short') {
      // The held tone, then its recorded end, as loud as they are played.
      const held = Math.min(Math.round(0.25 * audio.rate), span.to - span.from);
      const start = frameOf(release, release.startFrame, end, context);
      const joined = audio.channels.map((channel, c) => {
        const own = end.channels[Math.min(c, end.channels.length - 1)];
        const out = new Float32Array(held + own.length - start);
        const share = zoneGain(release, MIDDLE_TOUCH) / Math.max(1e-9, zoneGain(zone, MIDDLE_TOUCH));
        out.set(channel.subarray(span.to - held, span.to));
        for (let i = start; i < own.length; i++) out[held + i - start] = own[i] * share;
        return out;
      });
      // The hand lets go at the beginning of the recorded end; bow or breath take a moment longer.
      const letGo = endOfNote({ channels: joined, rate: audio.rate }, 0);
      if (letGo !== undefined) note(joined, audio.rate, letGo - Math.round(1.5 * audio.rate), letGo);
    } else if (group === 'short') {
      const letGo = endOfNote(audio, span.onset);
      if (letGo !== undefined) note(audio.channels, audio.rate, span.onset, letGo);
    }
  }
  function note(channels: readonly Float32Array[], rate: number, onset: number, letGo: number) {
    const length = channels[0].length;
    const decay = decayOf(channels, rate, letGo + Math.round(0.02 * rate), length);
    if (decay) decays.push(decay);
    const ratio = directToRoomDb(channels, rate, onset, letGo, length);
    if (ratio !== undefined) ratios.push(ratio);
    tails.push(tailSeconds(channels, rate, letGo));
  }
  decays.sort((a, b) => a.seconds - b.seconds);
  ratios.sort((a, b) => a - b);
  tails.sort((a, b) => a - b);
  const decay = decays[decays.length >> 1] as Decay | undefined;
  return {
    decay: decay ? { seconds: rounded(decay.seconds), rangeDb: decay.rangeDb } : null,
    directToRoomDb: ratios.length > 0 ? rounded(ratios[ratios.length >> 1]) : null,
    tailSeconds: tails.length > 0 ? rounded(tails[tails.length >> 1]) : null,
  };
}

/** Frame at which a short note is over: the last time it stands within 4 dB of its height. */
function endOfNote({ channels, rate }: HeardSample, onset: number): number | undefined {
  const power = powerEvery5ms(channels, rate, onset, channels[0].length);
  const height = power.reduce((most, value) => Math.max(most, value), 0);
  if (!(height > 0)) return undefined;
  let last = power.length - 1;
  while (last > 0 && power[last] < height * 0.4) last--;
  return onset + Math.round((last + 1) * 0.005 * rate);
}

/** How much later than the nearest position the sound is here: median over some notes. */
function arrivalOf(context: Measuring, id: string, looked: readonly Looked[]): number | null {
  const apart = lowMiddleHigh(looked).flatMap(({ zone, audio, span }) => {
    const near = context.sound(zone);
    if (!near || context.near === id) return context.near === id ? [0] : [];
    const start = frameOf(zone, zone.startFrame, near, context);
    const first = (lookedSpan(zone, near, context).onset - start) / near.rate;
    return [(span.onset - frameOf(zone, zone.startFrame, audio, context)) / audio.rate - first];
  });
  return apart.length === 0 ? null : rounded(apart.sort((a, b) => a - b)[apart.length >> 1]);
}

const meanOf = (list: readonly number[]) => list.reduce((sum, value) => sum + value, 0) / list.length;
