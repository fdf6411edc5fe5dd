/** A direction for people: “in the middle”, “24° left”. @param azimuth radians, to the right positive */
export function directionText(azimuth: number): string {
  const degrees = Math.round((azimuth * 180) / Math.PI);
  if (degrees === 0) return 'in the middle';
  return `${Math.abs(degrees)}° ${degrees < 0 ? 'left' : 'right'}`;
}

/** A distance for people. */
export const metresText = (metres: number): string => `${metres.toFixed(1)} m`;
