import { arrivalsOf, LEAST_CERTAINTY, type ApartPosition } from '../balance/index.ts';
import type { Zone } from '../catalogue/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import { frameOf, type Measuring } from './measuring.ts';
import { isRidden, type HeardSample } from './zones.ts';

/** When a position hears the players, after the nearest, and whether its waves are turned over against it. */
export interface HeardApart {
  arrivalSeconds: number;
  isInverted: boolean;
}

/** So much of each note is laid end to end: its beginning, which tells most. */
const NOTE_FRAMES = 16_384;
const MOST_NOTES = 16;
/** Notes fade into each other: cuts at one place in both positions would be what they have most in common. */
const FADE_FRAMES = 2400;

/**
 * Arrivals and polarity of positions against the nearest, told by what their waves have in common: hiss, which they have not, is held
 * out, and so is how slowly a room rises. A position of which nothing can be told is left out.
 * @param positions near to far
 */
export function heardApart(context: Measuring, positions: readonly string[]): Map<string, HeardApart> {
  const heard = new Map<string, HeardApart>([[context.near, { arrivalSeconds: 0, isInverted: false }]]);
  for (const id of positions) {
    if (id === context.near) continue;
    const zones = spread(
      context.layers.flatMap((layer) =>
        layer.zones.filter(
          (zone) =>
            !isRidden(zone) && context.sound(zone) !== undefined && context.sound(zone, id) !== undefined,
        ),
      ),
      MOST_NOTES,
    );
    if (zones.length === 0) continue;
    const [near, own] = arrivalsOf([context.near, id].map((one) => endToEnd(context, zones, one)));
    if (own === undefined || own.certainty < LEAST_CERTAINTY) continue;
    heard.set(id, {
      arrivalSeconds: own.delaySeconds - near.delaySeconds,
      isInverted: own.isInverted,
    });
  }
  return heard;
}

/** At most so many of a list, from all over it. */
function spread<T>(list: readonly T[], most: number): T[] {
  if (list.length <= most) return [...list];
  return Array.from({ length: most }, (_, i) => list[Math.floor(((i + 0.5) * list.length) / most)]);
}

/** Beginnings of notes, one after the other, each at the same loudness: the nearest position decides by how much it is turned up. */
function endToEnd(context: Measuring, zones: readonly Zone[], id: string): ApartPosition {
  const sides = [0, 1].map(() => new Float32Array(zones.length * NOTE_FRAMES));
  zones.forEach((zone, n) => {
    const [audio, near] = [context.sound(zone, id), context.sound(zone)];
    if (!audio || !near) return;
    const gain = 1 / Math.max(1e-6, heightOf(near, zone, context));
    const step = audio.rate / ENGINE_RATE;
    const start = frameOf(zone, zone.startFrame, audio, context);
    sides.forEach((side, c) => {
      const channel = audio.channels[Math.min(c, audio.channels.length - 1)];
      for (let i = 0; i < NOTE_FRAMES; i++) {
        const place = start + i * step;
        const at = Math.floor(place);
        if (at + 1 >= channel.length) break;
        const edge = Math.min(1, (i + 1) / 96, (NOTE_FRAMES - i) / FADE_FRAMES);
        const fade = gain * Math.sin((edge * Math.PI) / 2) ** 2;
        side[n * NOTE_FRAMES + i] = fade * (channel[at] + (place - at) * (channel[at + 1] - channel[at]));
      }
    });
  });
  return { id, left: sides[0], right: sides[1] };
}

function heightOf(audio: HeardSample, zone: Zone, context: Measuring): number {
  const start = frameOf(zone, zone.startFrame, audio, context);
  let top = 0;
  for (const channel of audio.channels)
    for (let i = start; i < Math.min(channel.length, start + NOTE_FRAMES); i++)
      top = Math.max(top, Math.abs(channel[i]));
  return top;
}
