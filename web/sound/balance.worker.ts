import {
  arrivalsOf,
  combOf,
  DistancePath,
  isHeard,
  letGoOf,
  lightMix,
  mixDown,
  repairOf,
  seatMix,
  SectionForms,
  solve,
  truePeakOf,
  withLevels,
  type Aims,
  type Apart,
  type Arrival,
  type Comb,
  type Freedom,
  type HallPower,
  type LightMix,
  type MixFigures,
  type Proposal,
  type Repair,
  type SeatAims,
  type Seated,
} from '#core/balance/index.ts';
import { renderApart, type ApartOrder } from '#core/deliver/index.ts';
import { SoundMemory } from '#core/engine/index.ts';
import { spectrumOf, thirdOctavesOf } from '#core/measure/index.ts';
import { PLAIN_POSITION, type TrackMix } from '#core/mixing/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import type { SharedRoom } from './page-memory.ts';

/** A section that is to be measured: what it plays in the passage, and a note that is held and let go. */
export interface MeasureOrder {
  trackId: string;
  instrumentId: string;
  passage: ApartOrder;
  /** Notes with the frames at which they begin and a hand lets go; none for what cannot be held. */
  notes: readonly (Pick<ApartOrder, 'events' | 'frames'> & { onset: number; stop: number })[];
  mix: TrackMix;
  hall: HallPower;
  shared: SharedRoom;
}

/** One position of a section by itself. */
export interface PositionMeasured {
  /** At 0 dB. */
  loudness: number;
  depthDb: number | undefined;
  /** Right against left as recorded, dB. */
  balanceDb: number;
  /** Power in third-octave bands at 0 dB. */
  bands: number[];
}

/** What was measured of a section. */
export interface SectionMeasured {
  /** Nothing of it is heard in the passage. */
  isSilent: boolean;
  arrivals: Arrival[];
  positions: Record<string, PositionMeasured>;
  comb: Comb;
  repair: Repair | undefined;
  /** True peak of its mix when it was measured, without the hall, dBTP. */
  truePeakDb: number;
}

/** Figures of a mix, and where it stands between near and far. */
export interface SectionFigures extends MixFigures {
  /** 0 near … 1 far; undefined where it has left the path, or there is none. */
  place: number | undefined;
  /** Depth of both ends of the path; undefined where there is none. */
  reach: readonly [nearest: number, furthest: number] | undefined;
}

export type BalanceRequest =
  | { kind: 'measure'; order: MeasureOrder }
  | { kind: 'figures'; trackId: string; mix: TrackMix }
  | { kind: 'place'; trackId: string; mix: TrackMix; place: number }
  | { kind: 'seat'; trackId: string; mix: TrackMix; aims: SeatAims; hall: boolean }
  | { kind: 'light'; trackId: string; mix: TrackMix; most: 1 | 2 }
  | { kind: 'solve'; trackId: string; mix: TrackMix; aims: Aims; freedom: Freedom };

export interface BalanceAnswers {
  measure: SectionMeasured;
  figures: SectionFigures | undefined;
  place: Record<string, number> | undefined;
  light: LightMix | undefined;
  seat: Seated | undefined;
  solve: Proposal | undefined;
}

export type BalanceAnswer =
  { id: number; result: BalanceAnswers[keyof BalanceAnswers] } | { id: number; failed: string };

/** Sections that were measured, by track. */
const known = new Map<string, SectionForms>();
/** Direct sound against the room of an instrument's positions, as most of them together told it. */
const ratiosOf = new Map<string, ReadonlyMap<string, number>>();

self.onmessage = ({ data: { id, request } }: MessageEvent<{ id: number; request: BalanceRequest }>) => {
  const answer = (message: BalanceAnswer) => self.postMessage(message);
  try {
    answer({ id, result: handle(request) });
  } catch (error) {
    answer({ id, failed: (error as Error).message });
  }
};

function handle(request: BalanceRequest): BalanceAnswers[keyof BalanceAnswers] {
  if (request.kind === 'measure') return measure(request.order);
  const forms = known.get(request.trackId);
  if (!forms) return undefined;
  switch (request.kind) {
    case 'figures': {
      const path = pathOf(forms, request.mix);
      const reach = path && ([path.nearest, path.furthest] as const);
      return { ...forms.figures(request.mix), place: path?.placeOf(request.mix), reach };
    }
    case 'place':
      return pathOf(forms, request.mix)?.at(request.place);
    case 'light':
      return lightMix(forms, request.mix, request.most);
    case 'seat':
      return seatMix(forms, request.mix, request.aims, { hall: request.hall });
    case 'solve':
      return solve(forms, request.mix, request.aims, request.freedom);
  }
}

/** The path of a section, where there is one. */
function pathOf(forms: SectionForms, mix: TrackMix): DistancePath | undefined {
  try {
    return new DistancePath(forms, mix);
  } catch {
    return undefined;
  }
}

function measure({
  trackId,
  instrumentId,
  passage,
  notes,
  mix,
  hall,
  shared,
}: MeasureOrder): SectionMeasured {
  const room = () => SoundMemory.within(shared.memory, shared.room);
  const apart = renderApart(passage, room());
  const isSilent = apart.every(({ left, right }) => !left.some(Boolean) && !right.some(Boolean));
  if (isSilent) {
    known.delete(trackId);
    return {
      isSilent,
      arrivals: [],
      positions: {},
      comb: { notches: [], lossDb: 0 },
      repair: undefined,
      truePeakDb: -Infinity,
    };
  }
  const arrivals = arrivalsOf(apart);
  const held = notes.flatMap(
    (note) => letGoOf(renderApart({ ...passage, ...note }, room()), note.onset, note.stop, arrivals) ?? [],
  );
  const told = ratiosOf.get(instrumentId);
  const forms = new SectionForms(apart, held, arrivals, mix, hall, told);
  if (forms.ratios.size >= (told?.size ?? 0)) ratiosOf.set(instrumentId, forms.ratios);
  known.set(trackId, forms);
  return {
    isSilent,
    arrivals,
    positions: Object.fromEntries(forms.ids.map((id) => [id, positionOf(forms, apart, mix, id)])),
    comb: combOf(apart, mix),
    repair: repairOf(apart, mix, arrivals),
    truePeakDb: truePeakOf(apart, mix),
  };
}

function positionOf(forms: SectionForms, apart: Apart, mix: TrackMix, id: string): PositionMeasured {
  const dry = { ...mix, gainDb: 0, pan: 0, hallSendDb: -60 };
  const own = mix.positions[id];
  const only = withLevels(dry, forms.ids, { [id]: 0 });
  only.positions[id] = { ...only.positions[id], pan: 0, width: 1 };
  const { loudness, depthDb, balanceDb } = forms.figures(only);
  const alone = {
    ...dry,
    positions: { [id]: { ...PLAIN_POSITION, eq: isHeard(own) ? own.eq : undefined, levelDb: 0 } },
  };
  const bands = thirdOctavesOf(spectrumOf(mixDown(apart, alone), ENGINE_RATE, 0, apart[0].left.length));
  return { loudness, depthDb, balanceDb, bands: bands.map((db) => 10 ** (db / 10)) };
}
