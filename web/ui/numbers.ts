/**
 * A number as people type it, with a comma or a long minus, with or without a unit behind it (`−3 dB`, `1,5`, `+2 semitones`);
 * undefined for everything else.
 */
export function toNumber(text: string): number | undefined {
  const match = /^\s*([+-]?(?:\d+\.?\d*|\.\d+))\s*(?:[%°]|\p{L}[\p{L}\s.]*)?\s*$/u.exec(
    text.replace(',', '.').replace('−', '-'),
  );
  return match ? Number(match[1]) : undefined;
}

/** Reads a number within bounds. @returns the number, or a sentence that tells the bounds */
export function numberWithin(low: number, high: number, unit = ''): (text: string) => number | string {
  const written = (value: number) => String(Math.round(value * 100) / 100).replace('-', '−');
  return (text) => {
    const value = toNumber(text);
    return value !== undefined && value >= low && value <= high
      ? value
      : `A number from ${written(low)} to ${written(high)}${unit && ` ${unit}`}.`;
  };
}

/** Reads a whole number within bounds. @param shift what is shown is this much higher than what is meant */
export function wholeWithin(low: number, high: number, shift = 0): (text: string) => number | string {
  return (text) => {
    const value = Number(text.trim());
    return text.trim() !== '' && Number.isInteger(value) && value >= low + shift && value <= high + shift
      ? value - shift
      : `A whole number from ${low + shift} to ${high + shift}.`;
  };
}

/** Reads per cent of a controller's way: `50` or `50 %` is its middle. */
export function controllerPercent(text: string): number | string {
  const per = numberWithin(0, 100, '%')(text);
  return typeof per === 'number' ? (per / 100) * 127 : per;
}
