import { isBlackKey } from '#core/music/index.ts';

/** Where the keys of a drawn keyboard lie, in pixels from its left edge. */
export interface KeyGeometry {
  whites: readonly number[];
  /** White keys, then black ones: those drawn later lie on top. */
  keys: readonly number[];
  left: (key: number) => number;
  width: (key: number) => number;
  middle: (key: number) => number;
  /** The key whose middle is nearest to a place. */
  nearest: (x: number) => number;
}

/** Lays keys [low, high] out over a width. The ends are white keys. */
export function keyGeometry(low: number, high: number, total: number): KeyGeometry {
  const all = Array.from({ length: high - low + 1 }, (_, i) => low + i);
  const whites = all.filter((key) => !isBlackKey(key));
  const place = new Map(whites.map((key, i) => [key, i]));
  const white = Math.max(1, total - 1) / whites.length;
  const left = (key: number): number =>
    isBlackKey(key) ? left(key + 1) - white * 0.3 : (place.get(key) ?? whites.length) * white;
  const width = (key: number) => (isBlackKey(key) ? white * 0.6 : white);
  const middle = (key: number) => left(key) + width(key) / 2;
  const nearest = (x: number) =>
    all.reduce((best, key) => (Math.abs(middle(key) - x) < Math.abs(middle(best) - x) ? key : best), low);
  return { whites, keys: [...whites, ...all.filter(isBlackKey)], left, width, middle, nearest };
}

/** Colour of a drawn key, up or held down. */
export function keyFill(black: boolean, down: boolean): string {
  if (black) return down ? 'var(--cool)' : 'var(--black-key)';
  return down ? 'var(--cool-tint)' : 'var(--white-key)';
}
