import { metreTicks, type MetreMap, type TempoMap } from './tempo-map.ts';

/** A tick as bar and beat, `12.3`, with the ticks past that beat where there are any, `12.3.240`. */
export function writePlace(metre: MetreMap, tick: number): string {
  const { bar, beat, tick: past } = metre.toBarBeat(tick);
  return past === 0 ? `${bar}.${beat}` : `${bar}.${beat}.${past}`;
}

/** The tick of a bar, `12`, a beat, `12.3`, or a place after it, `12.3.240`; undefined when there is none such in that bar. */
export function readPlace(metre: MetreMap, text: string): number | undefined {
  const match = /^\s*(\d{1,5})(?:[.\s]+(\d{1,3}))?(?:[.\s]+(\d{1,5}))?\s*$/.exec(text);
  if (!match) return undefined;
  const [bar, beat, past] = [match[1], match[2] ?? '1', match[3] ?? '0'].map(Number);
  if (bar < 1 || beat < 1) return undefined;
  const start = metre.barStart(bar);
  const { numerator, denominator } = metre.at(start);
  const ticks = metreTicks({ numerator, denominator }).beat;
  return beat > numerator || past >= ticks ? undefined : start + (beat - 1) * ticks + past;
}

/** A time as minutes and seconds, `1:07.5`, to the thousandth; before the beginning with a minus sign. */
export function writeTime(seconds: number): string {
  const thousandths = Math.round(Math.abs(seconds) * 1000);
  const [minutes, rest] = [Math.floor(thousandths / 60_000), (thousandths % 60_000) / 1000];
  const whole = String(Math.floor(rest)).padStart(2, '0');
  const part = String(thousandths % 1000)
    .padStart(3, '0')
    .replace(/0+$/, '');
  return `${seconds < 0 && thousandths > 0 ? '−' : ''}${minutes}:${whole}${part && `.${part}`}`;
}

/** Seconds of a time as `writeTime` has it; undefined when it is none. */
export function readTime(text: string): number | undefined {
  const time = /^\s*(\d{1,4}):(\d{1,2}(?:[.,]\d{1,6})?)\s*$/.exec(text);
  if (!time) return undefined;
  const seconds = Number(time[2].replace(',', '.'));
  return seconds < 60 ? 60 * Number(time[1]) + seconds : undefined;
}

/** The tick of a place, as `readPlace` has it, or of a time in minutes and seconds, `1:07.5`; undefined when it is neither. */
export function readMoment(metre: MetreMap, tempo: TempoMap, text: string): number | undefined {
  const seconds = readTime(text);
  return seconds === undefined ? readPlace(metre, text) : Math.round(tempo.toTicks(seconds));
}

/** Frames a second of film and video: 29.97 is thirty in 1.001 seconds. */
export const FRAME_RATES = { '24': 24, '25': 25, '29.97': 30_000 / 1001, '30': 30 } as const;
export type FrameRate = keyof typeof FRAME_RATES;

/**
 * A time as hours, minutes, seconds and frames, `0:01:07:12`. Frames are counted without leaving any out: at 29.97 the seconds of the count
 * are a thousandth longer than those of the clock.
 */
export function writeFrames(seconds: number, rate: FrameRate): string {
  const fps = FRAME_RATES[rate];
  const perSecond = Math.round(fps);
  // A frame that has begun but for a rounding error has begun.
  const frames = Math.floor(Math.max(0, seconds) * fps + 1e-6);
  const whole = Math.floor(frames / perSecond);
  const two = (value: number) => String(value).padStart(2, '0');
  return `${Math.floor(whole / 3600)}:${two(Math.floor(whole / 60) % 60)}:${two(whole % 60)}:${two(frames % perSecond)}`;
}
