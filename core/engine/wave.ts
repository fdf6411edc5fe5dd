import { PROBE_STEP, type Hearing } from './joining.ts';
import type { Layer } from './layer.ts';
import { FORMAT_SCALE } from './prepared.ts';

/**
 * Adds the wave of a layer as one channel, as it is to be from `from` frames from now on, every `PROBE_STEP` frames, straight
 * between frames.
 * @param gain, ratio at which it sounds; @param ending whether a loop that ends with the key is over
 */
export function addWave(
  layer: Layer,
  ending: boolean,
  gain: number,
  ratio: number,
  out: Float64Array,
  points: number,
  from: number,
  { loudness, positions }: Hearing,
): void {
  const loop = layer.loopNow(ending);
  for (let p = 0; p < positions; p++) {
    const source = layer.zone.sources[p];
    if (!source || loudness[p] === 0) continue;
    const { data, channels, frames, format } = source;
    const factor = layer.zone.factors[p];
    const scale = gain * loudness[p] * FORMAT_SCALE[format];
    for (let i = 0; i < points; i++) {
      let place = layer.phase + (from + i * PROBE_STEP) * ratio;
      if (loop && place >= loop.end) place = loop.start + ((place - loop.start) % (loop.end - loop.start));
      place *= factor;
      const at = place | 0;
      if (place < 0 || at + 1 >= frames) continue;
      const first = at * channels;
      const a = data[first] + data[first + channels - 1];
      const b = data[first + channels] + data[first + 2 * channels - 1];
      out[i] += scale * (a + (place - at) * (b - a));
    }
  }
}
