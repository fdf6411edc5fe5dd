import { articulationTerm } from '../../catalogue/index.ts';
import { resonancesOf } from '../../measure/index.ts';
import { pitchName } from '../../music/index.ts';
import { midiToHertz } from '../../units/index.ts';
import type { ArticulationReport } from '../figures.ts';
import { medianOf } from '../readings.ts';
import {
  milliseconds,
  signed,
  termName,
  type Finding,
  type ReportedInstrument,
  type Writing,
} from './finding.ts';
import { offNeighbours, usualSpread } from './neighbours.ts';

/** Cents off its neighbours; from about eight a held note is heard as out among others, a short one later. */
const CENTS = 8;
const SHORT_CENTS = 18;
/** So many times what roots usually differ by, and of what its recordings differ by, it must be as well. */
const USUAL = 4;
/** Cents within which something that rings on in the room pulls what is heard of a short note's pitch. */
const PULLED_CENTS = 80;
/** A loop shorter than this repeats faster than a vibrato and is heard as one. */
const LOOP_SECONDS = 0.2;
const SEAM = 0.85;
/** dB that a triad's band holds beyond its notes. */
const GROWTH_DB = 3;
/** dB by which a partial stands out of those around it, and LU by which a note with it is louder; else it is the instrument's colour. */
const RESONANCE_DB = 9;
const BOOM_LU = 6;

/** Roots that stand off their neighbours. */
export function tuningFindings(
  { articulation, tuning }: ArticulationReport,
  { reports }: ReportedInstrument,
  { middleC }: Writing,
): Finding[] {
  if (tuning.length < 4) return [];
  const isShort = articulationTerm(articulation).group === 'short';
  const rings = reports.flatMap(({ positions }) => positions.flatMap(({ ringing }) => ringing));
  const isPulled = (key: number) =>
    isShort && rings.some(({ hertz }) => Math.abs(1200 * Math.log2(hertz / midiToHertz(key))) < PULLED_CENTS);
  const off = offNeighbours(tuning.map(({ key, cents }) => ({ x: key, y: cents })));
  const usual = usualSpread(off);
  const audible = isShort ? SHORT_CENTS : CENTS;
  return tuning.flatMap(({ key, errorCents }, i): Finding[] => {
    const least = Math.max(audible, USUAL * usual, USUAL * errorCents);
    if (Math.abs(off[i]) < least || isPulled(key)) return [];
    return [
      {
        code: 'mistuned',
        weight: 'fault',
        severity: Math.abs(off[i]) / CENTS,
        articulation,
        position: null,
        figure: `${signed(off[i])} ¢ at ${pitchName(key, middleC)}`,
        sentence: `${termName(articulation)}: ${pitchName(key, middleC)} and the keys it serves stand ${Math.abs(Math.round(off[i]))} cents ${off[i] > 0 ? 'sharp' : 'flat'} against their neighbours.`,
        hear: { articulation, shape: 'pair', keys: [Math.max(0, key - 5), key, key + 7] },
      },
    ];
  });
}

/** Loops that stand still or do not join. */
export function sustainFindings(
  { articulation, sustains }: ArticulationReport,
  { middleC }: Writing,
): Finding[] {
  const found: Finding[] = [];
  const looped = sustains.filter((one) => one.repeatsAfterSeconds > 0);
  const still = looped.filter((one) => one.repeatsAfterSeconds < LOOP_SECONDS);
  if (still.length > 0)
    found.push({
      code: 'static-loop',
      weight: 'fault',
      severity: LOOP_SECONDS / still[0].repeatsAfterSeconds,
      articulation,
      position: null,
      figure: `${milliseconds(still[0].repeatsAfterSeconds)} ms`,
      sentence: `${termName(articulation)}: held notes repeat every ${milliseconds(still[0].repeatsAfterSeconds)} ms and move by ${still[0].movementDb.toFixed(1)} dB; anything longer than a second sounds frozen.`,
      hear: { articulation, shape: 'note', keys: [still[0].key] },
    });
  const bump = looped.reduce<(typeof looped)[number] | undefined>(
    (worst, one) => (one.seam < (worst?.seam ?? SEAM) ? one : worst),
    undefined,
  );
  if (bump)
    found.push({
      code: 'loop-bump',
      weight: 'fault',
      severity: 1 + SEAM - bump.seam,
      articulation,
      position: null,
      figure: `every ${bump.repeatsAfterSeconds.toFixed(1)} s at ${pitchName(bump.key, middleC)}`,
      sentence: `${termName(articulation)}: the loop of ${pitchName(bump.key, middleC)} does not join; a bump comes back every ${bump.repeatsAfterSeconds.toFixed(1)} s.`,
      hear: { articulation, shape: 'note', keys: [bump.key] },
    });
  return found;
}

/** Triads that hold more than their notes. */
export function chordFindings({ articulation, chords }: ArticulationReport, { middleC }: Writing): Finding[] {
  return chords.flatMap(({ key, lowMidsDb, presenceDb }): Finding[] => {
    const [most, where] =
      lowMidsDb >= presenceDb ? [lowMidsDb, 'the low mids'] : [presenceDb, 'the presence region'];
    if (most < GROWTH_DB) return [];
    return [
      {
        code: 'triad-growth',
        weight: 'note',
        severity: most / GROWTH_DB,
        articulation,
        position: null,
        figure: `${signed(most, 1)} dB`,
        sentence: `${termName(articulation)}: a triad on ${pitchName(key, middleC)} holds ${most.toFixed(1)} dB more in ${where} than its notes add up to.`,
        hear: { articulation, shape: 'chord', keys: [key, key + 4, key + 7] },
      },
    ];
  });
}

/** Whether a note with a partial at a frequency is louder than its neighbours in every layer taken together. */
function boomsAt({ partials, positions }: ArticulationReport, hertz: number): boolean {
  const near = (one: number) => Math.abs(1200 * Math.log2(one / hertz)) < 60;
  const keys = partials
    .flat()
    .filter((note) => note.some((partial) => near(partial.hertz)))
    .map((note) => Math.round(69 + 12 * Math.log2(note[0].hertz / 440)));
  const levels = positions[0]?.levels ?? [];
  return [...new Set(keys)].some((key) => {
    const excesses = [...new Set(levels.map((one) => one.layer))].flatMap((layer) => {
      const own = levels.filter((one) => one.layer === layer);
      const at = own.findIndex((one) => one.key === key);
      const [below, above] = [own[at - 1], own[at + 1]];
      return at < 0 || !below || !above ? [] : [own[at].lufs - (below.lufs + above.lufs) / 2];
    });
    return excesses.length > 0 && excesses.reduce((a, b) => a + b, 0) / excesses.length >= BOOM_LU;
  });
}

/** Frequencies at which held notes boom. */
export function resonanceFindings({ reports }: ReportedInstrument, { middleC }: Writing): Finding[] {
  const held = reports.find((report) => report.articulation === 'long' && report.partials.length > 0);
  if (!held) return [];
  return resonancesOf(held.partials, RESONANCE_DB)
    .filter(({ hertz }) => boomsAt(held, hertz))
    .slice(0, 2)
    .map((one): Finding => {
      const key = Math.round(69 + 12 * Math.log2(one.hertz / 440));
      return {
        code: 'resonance',
        weight: 'fault',
        severity: one.excessDb / RESONANCE_DB,
        articulation: held.articulation,
        position: null,
        figure: `${Math.round(one.hertz)} Hz, +${one.excessDb.toFixed(0)} dB`,
        sentence: `Something rings along at ${Math.round(one.hertz)} Hz (${pitchName(key, middleC)}): partials that fall there stand ${one.excessDb.toFixed(0)} dB out of what their neighbours lead one to expect. Notes on it will boom or bite.`,
        hear: { articulation: held.articulation, shape: 'pair', keys: [key - 2, key, key + 2] },
      };
    });
}

/** Seconds that moves of some neighbouring intervals land later than the rest. */
const SLOW_SECONDS = 0.06;
const SLOW_INTERVALS = 3;

/** Moves of at least three neighbouring intervals in one direction that land late against all others. */
export function moveFindings({ articulation, moves, range }: ArticulationReport): Finding[] {
  const usual = medianOf(moves.filter((one) => one.interval !== 0).map((one) => one.seconds));
  for (const side of [moves.filter((one) => one.interval > 0), moves.filter((one) => one.interval < 0)]) {
    let run: typeof moves = [];
    let best: typeof moves = [];
    for (const one of side) {
      run = one.seconds - usual > SLOW_SECONDS ? [...run, one] : [];
      if (run.length > best.length) best = run;
    }
    if (best.length < SLOW_INTERVALS) continue;
    const late = medianOf(best.map((one) => one.seconds)) - usual;
    const widths = best.map((one) => Math.abs(one.interval)).sort((a, b) => a - b);
    const middle = range ? Math.round((range.low + range.high) / 2) : 60;
    return [
      {
        code: 'slow-move',
        weight: 'fault',
        severity: late / SLOW_SECONDS,
        articulation,
        position: null,
        figure: `${signed(milliseconds(late))} ms`,
        sentence: `${termName(articulation)}: moves ${side[0].interval > 0 ? 'upwards' : 'downwards'} of ${widths[0]} to ${widths[widths.length - 1]} semitones land ${milliseconds(late)} ms later than the others. Played by hand, wide leaps lag behind steps.`,
        hear: { articulation, shape: 'move', keys: [middle, middle + best[0].interval] },
      },
    ];
  }
  return [];
}
