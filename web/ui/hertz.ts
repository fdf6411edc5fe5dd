/** A frequency as it is written: `400 Hz`, `2.5 kHz`. */
export function hertzText(hertz: number): string {
  return hertz >= 1000 ? `${Math.round(hertz / 10) / 100} kHz` : `${Math.round(hertz)} Hz`;
}

/** Said where something else was typed. */
export const A_FREQUENCY = 'A frequency, such as 400 Hz or 2.5 kHz.';

/** “2.5 kHz”, “2.5”, “2500” or “400 Hz” in hertz: nothing below 20 Hz can be meant. Undefined for what is no number. */
export function parseHertz(text: string): number | undefined {
  const value = Number(text.replace(',', '.').replace(/[^\d.]/g, ''));
  const hertz = /k/i.test(text) || value < 20 ? value * 1000 : value;
  return hertz > 0 ? hertz : undefined;
}
