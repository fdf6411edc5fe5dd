import type { Family, InstrumentKind, LibraryFacts } from '../catalogue/index.ts';
import type { HallModel } from '../rooms/index.ts';
import type { Gesture, Player } from './players.ts';

/** What is to be recorded, as data: libraries, instruments, techniques, and each single take. */

/** One loudness at which notes are recorded. */
export interface LayerPlan {
  /** 0 very soft … 1 very loud: decides the tone. */
  force: number;
  /** Loudness of the players, 1 = full tone. */
  amplitude: number;
  /** Gain on tape, so that soft layers use the bits too; the SFZ takes it back. */
  tapeDb: number;
}

/** One thing the players are asked to play. */
export interface TakeOrder {
  technique: string;
  slot: 'note' | 'release' | 'move';
  root: number;
  layer: number;
  take: number;
  vibrato: boolean;
  /** Move: semitones from the old pitch to the root. */
  interval: number;
}

/** A tone to be played: its force chooses the wave, its gesture everything else. Several are added. */
export interface Strand {
  force: number;
  gesture: Gesture;
}

/** How one player performs an order. */
export type Performance = (order: TakeOrder, layer: LayerPlan, player: number) => Strand[];

/** Recorded beginnings of notes. */
export interface NotePlan {
  roots: readonly number[];
  layers: readonly LayerPlan[];
  takes: number;
  /** Recorded with vibrato and without, to be blended; `plainLayers` only the middle layer without. */
  vibrato?: boolean;
  seconds: number;
  /** Held for as long as the key is: frames [start, end) are repeated. */
  loopSeconds?: readonly [number, number];
  /** What chooses between layers. */
  control: 'dynamics' | 'velocity';
  /** One layer alone whose level and tone follow dynamics. */
  ridden?: boolean;
  velocityTrack: number;
  releaseSeconds?: number;
  keyTrack?: number;
  /** Keys beyond the outermost roots that are served too. */
  reach?: number;
  perform: Performance;
  /** Whole gain of the technique, dB. */
  gainDb?: number;
  /** Windows of the layers over dynamics, where they are not the usual ones. */
  windows?: readonly (readonly [number, number, number, number])[];
}

/** Recorded moves between two pitches. */
export interface MovePlan {
  roots: readonly number[];
  intervals: readonly number[];
  layer: LayerPlan;
  beforeSeconds: number;
  afterSeconds: number;
  perform: Performance;
}

export interface TechniquePlan {
  /** Its name in the house vocabulary, and the label in the SFZ. */
  id: string;
  label?: string;
  notes?: NotePlan;
  /** Uses the notes and releases of another technique. */
  notesOf?: string;
  releases?: { roots: readonly number[]; seconds: number; layer: LayerPlan; perform: Performance };
  moves?: MovePlan;
  colour?: Colour;
  /** A take that stands in for another: nothing of its own is recorded. */
  instead?: (order: TakeOrder) => Partial<TakeOrder> | undefined;
}

/** How a technique changes the tone itself. */
export interface Colour {
  /** dB per octave above 500 Hz. */
  tiltDb?: number;
  /** Takes the fundamental away by as much, dB. */
  thinDb?: number;
  /** Only this many partials. */
  partials?: number;
}

/** Sound of an order before it reaches a microphone: one mono buffer per player, at one metre. */
export type Radiate = (order: TakeOrder, technique: TechniquePlan) => Float32Array[];

export interface InstrumentPlan {
  name: string;
  slug: string;
  family: Family;
  kind: InstrumentKind;
  /** Players the library speaks of. */
  playerCount: number;
  players: readonly Player[];
  low: number;
  high: number;
  techniques: readonly TechniquePlan[];
  radiate: Radiate;
  /** Level at which it is to be played, dB against the players' own. */
  trimDb: number;
  /** Gain of the desk, so that the tape is well used; the SFZ takes it back. */
  inputDb: number;
  tags: readonly string[];
}

/** An instrument put together from what others recorded: nothing new goes onto the disk. */
export interface CompiledPlan {
  name: string;
  slug: string;
  kind: InstrumentKind;
  playerCount: number;
  tags: readonly string[];
  /** Which recorded instrument, by slug of library and instrument, serves which keys. */
  parts: readonly { library: string; instrument: string; low: number; high: number }[];
  /** What a light edition keeps; everything unless given. */
  keep?: { positions: readonly string[]; layers: number; takes: number; techniques: readonly string[] };
}

export interface LibraryPlan {
  slug: string;
  name: string;
  maker: string;
  hall: HallModel;
  facts: LibraryFacts;
  instruments: readonly InstrumentPlan[];
  compiled: readonly CompiledPlan[];
  /** Change this when the sound changes. */
  revision: number;
}

/** Recipe under which what was recorded is known. */
export function recipeOf(library: Pick<LibraryPlan, 'slug' | 'revision'>): string {
  return `${library.slug}-${library.revision}`;
}

/** The order that is really recorded for one, after stand-ins. */
export function recordedFor(technique: TechniquePlan, order: TakeOrder): TakeOrder {
  const other = technique.instead?.(order);
  return other ? { ...order, ...other } : order;
}

/** Everything of a technique that there is to play back, in the order in which it becomes useful. */
export function ordersOf(technique: TechniquePlan): TakeOrder[] {
  const orders: TakeOrder[] = [];
  const add = (order: Partial<TakeOrder> & Pick<TakeOrder, 'slot' | 'root'>) =>
    orders.push({ technique: technique.id, layer: 0, take: 0, vibrato: false, interval: 0, ...order });
  const { notes, releases, moves } = technique;
  if (notes)
    for (const vibrato of notes.vibrato ? [true, false] : [false])
      for (let layer = 0; layer < notes.layers.length; layer++) {
        // Without vibrato the middle layer alone is recorded; it is ridden.
        if (notes.vibrato && !vibrato && layer !== plainLayer(notes)) continue;
        for (let take = 0; take < notes.takes; take++)
          for (const root of notes.roots) add({ slot: 'note', root, layer, take, vibrato });
      }
  if (releases) for (const root of releases.roots) add({ slot: 'release', root });
  if (moves)
    for (const root of moves.roots)
      for (const interval of moves.intervals) add({ slot: 'move', root, interval });
  return orders;
}

/** Which layer stands for playing without vibrato. */
export function plainLayer(notes: NotePlan): number {
  return notes.layers.length >> 1;
}

/** Path of a take's file for a position, below the instrument's folder. */
export function takeFile(order: TakeOrder, position: string): string {
  const parts = [order.slot, String(order.root)];
  if (order.vibrato) parts.push('vib');
  if (order.slot === 'move') parts.push(`${order.interval >= 0 ? 'up' : 'down'}${Math.abs(order.interval)}`);
  parts.push(`l${order.layer + 1}`, `t${order.take + 1}`);
  return `samples/${order.technique}/${parts.join('-')}-${position}.wav`;
}
