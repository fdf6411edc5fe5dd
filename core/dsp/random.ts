/** 32-bit hash of a text (FNV-1a with a final avalanche), to seed randomness from the ids it concerns. */
export function hashText(text: string): number {
  let hash = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return mix(hash);
}

/** Avalanche of a 32-bit integer (murmur3 finaliser). */
export function mix(value: number): number {
  let h = value | 0;
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}

/** Seeded uniform numbers in [0, 1) (mulberry32). Equal seeds give equal sequences on every machine. */
export class Random {
  private state: number;
  constructor(seed: number | string) {
    this.state = typeof seed === 'string' ? hashText(seed) : seed >>> 0;
  }
  /** Next number in [0, 1). */
  next(): number {
    this.state = (this.state + 0x6d2b79f5) | 0;
    let t = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  }
  /** Next number in [low, high). */
  between(low: number, high: number): number {
    return low + (high - low) * this.next();
  }
  /** Nearly normal number, mean 0, deviation 1 (sum of four uniforms, scaled), within ±3.5. */
  normal(): number {
    return (this.next() + this.next() + this.next() + this.next() - 2) * 1.7320508;
  }
}
