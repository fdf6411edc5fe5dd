/** Figures as the balance writes them, with a long minus; a dash where nothing is known. */
export const signed = (value: number | undefined, digits = 1): string =>
  value === undefined || !Number.isFinite(value)
    ? '–'
    : `${value > 0 ? '+' : ''}${value.toFixed(digits)}`.replace('-', '−');

/** Loudness in LUFS. */
export const lufs = (value: number | undefined): string =>
  value === undefined || !Number.isFinite(value) ? '–' : value.toFixed(1).replace('-', '−');
