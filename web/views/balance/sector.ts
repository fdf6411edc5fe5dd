import type { Family } from '#core/catalogue/index.ts';
import type { Seat } from '#core/mixing/index.ts';

/** Sections as they are drawn on the plan, metres: along their row, and from its front to its back. */
const SIZES: Record<Family, readonly [width: number, depth: number]> = {
  strings: [2.5, 1.7],
  choir: [4, 1],
  brass: [2.1, 0.9],
  percussion: [2.1, 0.9],
  winds: [1.45, 1],
  keys: [1.6, 0.9],
  other: [1.6, 0.9],
};

/** A part of a ring around the conductor: closed from its inner to its outer border, or an arc where both are the same. */
export function sectorPath(
  middle: { x: number; y: number },
  inner: number,
  outer: number,
  halfDegrees: number,
): string {
  const turn = Math.atan2(middle.x, middle.y);
  const half = (halfDegrees * Math.PI) / 180;
  const at = (radius: number, angle: number) =>
    `${(radius * Math.sin(angle)).toFixed(3)} ${(-radius * Math.cos(angle)).toFixed(3)}`;
  const arc = `M${at(outer, turn - half)}A${outer} ${outer} 0 0 1 ${at(outer, turn + half)}`;
  if (inner === outer) return arc;
  return `${arc}L${at(inner, turn + half)}A${inner} ${inner} 0 0 0 ${at(inner, turn - half)}Z`;
}

/** How a section is drawn at its seat. @param seat a section of its own is as wide as its family usually sits */
export function shapeOf(
  seat: Seat & { tracks: readonly { name: string }[] },
  family: Family,
): { path: string; width: number } {
  const isSolo = /^solo\b/i.test(seat.tracks[0].name);
  const [width, depth] = isSolo ? [1.5, 0.8] : SIZES[family];
  const radius = Math.max(1, Math.hypot(seat.x, seat.y));
  const halfDegrees = Math.min(40, ((width / 2 / radius) * 180) / Math.PI);
  return {
    path: sectorPath(seat, Math.max(0.4, radius - depth / 2), radius + depth / 2, halfDegrees),
    width,
  };
}
