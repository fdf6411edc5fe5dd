import { articulationTerm } from '../catalogue/index.ts';
import { powerEvery5ms, ringsIn, STEP_SECONDS, type Tail } from '../measure/index.ts';
import type { Ringing } from './figures.ts';
import { lookedSpan, type Measuring } from './measuring.ts';

/** What rings on at a position after all notes alike, from recorded ends and from short notes. @param decaySeconds of the room there */
export function ringingAt(context: Measuring, id: string, decaySeconds: number | undefined): Ringing[] {
  if (decaySeconds === undefined) return [];
  const { group } = articulationTerm(context.articulation.id);
  const zones =
    group === 'short'
      ? context.layers.flatMap((layer) => layer.zones.filter(({ take }) => take === 0))
      : context.articulation.zones.filter(({ role }) => role === 'release');
  const tails = zones.flatMap((zone): Tail[] => {
    const audio = context.sound(zone, id);
    if (!audio) return [];
    const start = group === 'short' ? lookedSpan(zone, audio, context).onset : 0;
    const power = powerEvery5ms(audio.channels, audio.rate, start, audio.channels[0].length);
    let last = power.length - 1;
    const height = power.reduce((most, value) => Math.max(most, value), 0);
    while (last > 0 && power[last] < height * 0.4) last--;
    return [
      { ...audio, key: zone.rootKey, from: start + Math.round((last + 1) * STEP_SECONDS * audio.rate) },
    ];
  });
  return ringsIn(tails, decaySeconds);
}
