import { metreTicks, type MetreMap } from './tempo-map.ts';

/** A tick as bar and beat, `12.3`, with the ticks past that beat where there are any, `12.3.240`. */
export function writePlace(metre: MetreMap, tick: number): string {
  const { bar, beat, tick: past } = metre.toBarBeat(tick);
  return past === 0 ? `${bar}.${beat}` : `${bar}.${beat}.${past}`;
}

/** The tick of a bar, `12`, a beat, `12.3`, or a place after it, `12.3.240`; undefined when there is none such in that bar. */
export function readPlace(metre: MetreMap, text: string): number | undefined {
  const match = /^\s*(\d{1,5})(?:[.:\s]+(\d{1,3}))?(?:[.:\s]+(\d{1,5}))?\s*$/.exec(text);
  if (!match) return undefined;
  const [bar, beat, past] = [match[1], match[2] ?? '1', match[3] ?? '0'].map(Number);
  if (bar < 1 || beat < 1) return undefined;
  const start = metre.barStart(bar);
  const { numerator, denominator } = metre.at(start);
  const ticks = metreTicks({ numerator, denominator }).beat;
  return beat > numerator || past >= ticks ? undefined : start + (beat - 1) * ticks + past;
}
