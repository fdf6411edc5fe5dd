import { ENGINE_RATE } from '../../units/index.ts';
import type { Radiate } from '../plan.ts';

/** Lets something in the instrument ring along: a two-pole resonator added to what is played. */
export function ringing(
  radiate: Radiate,
  { hertz, q, gain }: { hertz: number; q: number; gain: number },
): Radiate {
  const w = (2 * Math.PI * hertz) / ENGINE_RATE;
  const r = Math.exp(-w / (2 * q));
  const a1 = -2 * r * Math.cos(w);
  const a2 = r * r;
  // So much input that the resonator alone stands at 1 at its own pitch.
  const input = (1 - r) * Math.sqrt(1 - 2 * r * Math.cos(2 * w) + r * r);
  return (order, technique) =>
    radiate(order, technique).map((sound) => {
      let y1 = 0;
      let y2 = 0;
      for (let i = 0; i < sound.length; i++) {
        const y = input * sound[i] - a1 * y1 - a2 * y2;
        y2 = y1;
        y1 = y;
        sound[i] += gain * y;
      }
      return sound;
    });
}
