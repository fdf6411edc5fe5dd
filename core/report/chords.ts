import { bandLevelDb, spectrumOf } from '../measure/index.ts';
import { zoneGain } from '../performance/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import type { ChordFigure } from './figures.ts';
import { lookedSpan, type Measuring } from './measuring.ts';
import { foremost, MIDDLE_TOUCH, rootsOf } from './zones.ts';

const SECONDS = 1;
const TRIAD = [0, 4, 7];
const LOW_MIDS = [180, 500] as const;
const PRESENCE = [2000, 3200] as const;

/**
 * How much more a major triad in the middle of the range holds in the low mids and in the presence region than its three
 * notes add up to (10·log10 of the sum of their powers). 0 where partials meet by chance only; more where they meet in step.
 * Undefined where the notes cannot be heard.
 */
export function chordFigure(context: Measuring, positions: readonly string[]): ChordFigure | undefined {
  const zones = context.layers.flatMap((layer) => layer.zones).filter((zone) => zone.take === 0);
  const roots = rootsOf(zones);
  const key = roots[roots.length >> 1];
  const frames = Math.round(SECONDS * ENGINE_RATE);
  const notes = TRIAD.map((step) => {
    const reach = zones.filter((zone) => key + step >= zone.keyLow && key + step <= zone.keyHigh);
    const zone = foremost(reach, MIDDLE_TOUCH);
    if (!zone) return undefined;
    const mix = [new Float32Array(frames), new Float32Array(frames)];
    let heard = false;
    for (const position of positions) {
      const audio = context.sound(zone, position);
      if (!audio) continue;
      heard = true;
      const { from } = lookedSpan(zone, audio, context);
      const pace = (2 ** ((key + step - zone.rootKey) / 12) * audio.rate) / ENGINE_RATE;
      const gain = zoneGain(zone, MIDDLE_TOUCH);
      mix.forEach((out, c) => {
        const channel = audio.channels[Math.min(c, audio.channels.length - 1)];
        for (let i = 0; i < frames; i++) {
          const place = from + i * pace;
          const at = Math.floor(place);
          if (at + 1 >= channel.length) break;
          out[i] += gain * (channel[at] + (place - at) * (channel[at + 1] - channel[at]));
        }
      });
    }
    return heard ? mix : undefined;
  });
  if (notes.some((note) => note === undefined)) return undefined;
  const sounding = notes as Float32Array[][];
  const chord = [0, 1].map((c) =>
    sounding[0][c].map((value, i) => value + sounding[1][c][i] + sounding[2][c][i]),
  );
  const whole = spectrumOf(chord, ENGINE_RATE, 0, frames);
  const single = sounding.map((note) => spectrumOf(note, ENGINE_RATE, 0, frames));
  const growth = ([low, high]: readonly [number, number]) => {
    const sum = single.reduce((total, one) => total + 10 ** (bandLevelDb(one, low, high) / 10), 0);
    const grown = bandLevelDb(whole, low, high) - 10 * Math.log10(Math.max(sum, 1e-20));
    // A little below nothing is nothing, without a sign.
    return Math.round(10 * grown) / 10 || 0;
  };
  return { key, lowMidsDb: growth(LOW_MIDS), presenceDb: growth(PRESENCE) };
}
