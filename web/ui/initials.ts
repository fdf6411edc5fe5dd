/** First letters of the first two words of a name. */
export const initials = (name: string): string =>
  name
    .split(/\s+/)
    .map((word) => word[0])
    .join('')
    .slice(0, 2)
    .toUpperCase();
