import { EQ_KINDS, type EqBand, type PositionMix } from '../mixing/index.ts';
import { clamp } from '../units/index.ts';

/** One band of a kept mix: of a position, or (empty) of the whole track. */
export interface KeptBand extends EqBand {
  positionId: string;
  active: boolean;
}

/** How one track was mixed. */
export interface KeptTrack {
  /** Its id in the template it was kept from, and its name, by which another template knows it. */
  id: string;
  name: string;
  gainDb: number;
  pan: number;
  hallSendDb: number;
  positions: Record<string, Required<Omit<PositionMix, 'eq' | 'elsewhere'>>>;
  bands: KeptBand[];
}

/** A mix of all tracks as it is kept: what they are and play is no part of it. */
export interface KeptMix {
  tracks: KeptTrack[];
}

const MOST_TRACKS = 2000;

/** A mix as text. */
export function writeMix(mix: KeptMix): string {
  return JSON.stringify(mix);
}

/**
 * Reads a mix from text. Numbers out of range are brought into it.
 * @returns undefined when it is none
 */
export function readMix(text: string): KeptMix | undefined {
  let parsed: unknown;
  try {
    parsed = JSON.parse(text);
  } catch {
    return undefined;
  }
  const list = (parsed as { tracks?: unknown } | null)?.tracks;
  if (!Array.isArray(list) || list.length > MOST_TRACKS) return undefined;
  const tracks: KeptTrack[] = [];
  for (const one of list as Record<string, unknown>[]) {
    if (typeof one !== 'object' || one === null) return undefined;
    const { id, name, positions, bands } = one;
    if (typeof id !== 'string' || typeof name !== 'string') return undefined;
    tracks.push({
      id,
      name,
      gainDb: number(one.gainDb, -60, 12, 0),
      pan: number(one.pan, -1, 1, 0),
      hallSendDb: number(one.hallSendDb, -60, 12, -60),
      positions: Object.fromEntries(
        Object.entries((positions ?? {}) as Record<string, Record<string, unknown>>).map(([key, own]) => [
          key,
          {
            levelDb: number(own?.levelDb, -60, 12, -60),
            pan: number(own?.pan, -1, 1, 0),
            width: number(own?.width, 0, 2, 1),
            delayMs: number(own?.delayMs, 0, 100, 0),
            sendDb: number(own?.sendDb, -60, 12, 0),
            muted: own?.muted === true,
            inverted: own?.inverted === true,
          },
        ]),
      ),
      bands: (Array.isArray(bands) ? (bands as Record<string, unknown>[]) : []).flatMap(
        (band): KeptBand[] => {
          const shape = EQ_KINDS.find((kind) => kind === band?.shape);
          if (!shape) return [];
          return [
            {
              positionId: typeof band.positionId === 'string' ? band.positionId : '',
              shape,
              hertz: number(band.hertz, 20, 20_000, 1000),
              gainDb: number(band.gainDb, -18, 18, 0),
              q: number(band.q, 0.2, 8, 0.8),
              active: band.active !== false,
            },
          ];
        },
      ),
    });
  }
  return { tracks };
}

function number(value: unknown, low: number, high: number, rest: number): number {
  return typeof value === 'number' && Number.isFinite(value) ? clamp(value, low, high) : rest;
}
