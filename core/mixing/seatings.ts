import type { Family } from '../catalogue/index.ts';
import { onStage, type Seat } from './seating.ts';

/** A way to seat an orchestra. */
export type Seating = 'usual' | 'facing' | 'wide';

/** Conventional ways to seat an orchestra, and what they are called. */
export const SEATINGS: Record<Seating, string> = {
  usual: 'Violins together, low strings right',
  facing: 'Violins facing each other',
  wide: 'Wide, for film',
};

/** Degrees from the middle, to the right positive, and metres from the conductor. */
type Place = readonly [degrees: number, metres: number];

const ANYWHERE: Record<Family, Place> = {
  strings: [0, 5],
  winds: [0, 6.33],
  brass: [20, 8.31],
  percussion: [-30, 9.63],
  keys: [-48, 7.65],
  choir: [0, 11.28],
  other: [40, 9.63],
};

/** Words of a section's name, by commas, and its place. */
type Seated = readonly [words: string, place: Place];

/** Words of a section's name, the first that is found counts, and its place as usual. */
const PLACES: readonly Seated[] = [
  ['solo violin,leader', [-24, 1.9]],
  ['solo cello', [24, 1.9]],
  ['violins ii,violins 2,second violins,2nd violins', [-21, 4]],
  ['violins,violin', [-60, 3.7]],
  ['violas,viola', [18, 4]],
  ['cellos,cello,celli', [57, 3.8]],
  ['basses,double bass,contrabass', [62, 6.3]],
  ['piccolo', [-28, 6.2]],
  ['flute 2,flutes 2', [0, 6.1]],
  ['flute,flutes', [-14, 6.1]],
  ['oboe,oboes,english horn', [14, 6.1]],
  ['bass clarinet', [-19, 7.4]],
  ['clarinet,clarinets', [-6.5, 7.4]],
  ['bassoon,bassoons', [6.5, 7.4]],
  ['horns b', [-37, 8.7]],
  ['horn,horns', [-39, 7.3]],
  ['trumpet,trumpets', [21, 8.7]],
  ['trombone,trombones', [36, 8.6]],
  ['tuba', [50, 8.4]],
  ['timpani', [1, 9]],
  ['bass drum', [-13, 10]],
  ['snare drum,side drum', [-25.5, 10.1]],
  ['cymbal,cymbals,gong', [-0.5, 10.2]],
  ['glockenspiel,bells', [-38, 10.2]],
  ['marimba,xylophone,vibraphone', [-50.5, 10.2]],
  ['harp,harps', [-51, 6.1]],
  ['piano', [-59, 8.4]],
  ['celesta', [-68, 6.7]],
  ['women,sopranos,altos,boys', [-11, 11.4]],
  ['men,tenors', [11, 11.4]],
];

/** Where a seating departs from the usual one. */
const OTHERWISE: Record<Exclude<Seating, 'usual'>, readonly Seated[]> = {
  facing: [
    ['solo violin', [-24, 1.9]],
    ['solo cello', [24, 1.9]],
    ['violins ii,violins 2,second violins,2nd violins', [60, 3.7]],
    ['cellos,cello,celli', [-21, 4]],
  ],
  wide: [
    ['solo violin', [-9, 1.9]],
    ['solo cello', [9, 1.9]],
    ['violins ii,violins 2,second violins,2nd violins', [-24, 4.6]],
    ['violins,violin', [-66, 5]],
    ['violas,viola', [16, 4.6]],
    ['cellos,cello,celli', [60, 5]],
    ['basses,double bass,contrabass', [66, 7.6]],
    ['harp,harps', [-62, 7]],
    ['celesta', [-73, 7.6]],
    ['piano', [-62, 9]],
    ['trombone,trombones', [38, 9.4]],
    ['tuba', [51, 9.4]],
  ],
};

/**
 * Where a section sits by convention, told from its name, or else its family.
 * @param name of the section, for example “Violins II, short”
 */
export function conventionalSeat(seating: Seating, { name, family }: { name: string; family: Family }): Seat {
  const words = ` ${name.toLowerCase().replace(/[^a-z0-9]+/g, ' ')} `;
  const found = (list: typeof PLACES) =>
    list.find(([hints]) => hints.split(',').some((hint) => words.includes(` ${hint} `)))?.[1];
  const own = seating === 'usual' ? undefined : found(OTHERWISE[seating]);
  const [degrees, metres] = own ?? found(PLACES) ?? ANYWHERE[family];
  const angle = (degrees / 180) * Math.PI;
  return onStage({ x: metres * Math.sin(angle), y: metres * Math.cos(angle) });
}

/** A section and where it sits. */
export interface SeatOf extends Seat {
  name: string;
}

/** A seating as text, a line per section: its name, to the right and to the back in metres, by tabulators. */
export function writeSeating(seats: readonly SeatOf[]): string {
  return seats.map(({ name, x, y }) => `${name.replace(/[\t\n]/g, ' ')}\t${x}\t${y}`).join('\n');
}

/** Reads a seating; lines that are none are passed over. */
export function readSeating(text: string): SeatOf[] {
  return text.split('\n').flatMap((line): SeatOf[] => {
    const [name, x, y] = line.split('\t');
    const seat = { x: Number(x), y: Number(y) };
    return name && Number.isFinite(seat.x) && Number.isFinite(seat.y) && y !== undefined
      ? [{ name, ...onStage(seat) }]
      : [];
  });
}
