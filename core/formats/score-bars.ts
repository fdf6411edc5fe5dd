import { generatePlaybackSequence } from 'musicxml-io/query';
import type { Measure, MeasureAttributes, Score as XmlScore } from 'musicxml-io';
import { METRE, metreTicks, transposedFifths, type KeyChange, type MetreChange } from '../music/index.ts';
import { TICKS_PER_QUARTER } from '../units/index.ts';

/** A bar as it is played: which one of those written, and where it begins. */
export interface PlayedBar {
  index: number;
  startTick: number;
  /** Where its written contents begin: later in an upbeat, which fills the end of its bar. */
  contentTick: number;
  ticks: number;
}

/** The bars of a score in the order of playing, with the metres and key signatures that makes. */
export interface PlayedBars {
  bars: PlayedBar[];
  metres: MetreChange[];
  keys: KeyChange[];
  told: string[];
}

/** More bars nobody plays: what repeats without end is cut off here. */
export const MOST_BARS = 20_000;
const WHOLE = 4 * TICKS_PER_QUARTER;

interface WrittenBar {
  metre: Omit<MetreChange, 'tick'>;
  /** Sounding signature. */
  fifths: number;
  /** How far the notes reach; 0 where there are none. */
  reach: number;
}

/** Ticks of a division. */
export const ticksOf = (divisions: number | undefined) =>
  divisions !== undefined && divisions > 0 ? TICKS_PER_QUARTER / divisions : undefined;

/** Attributes of a bar, where they stand: those in front, then those in between. */
export function attributesOf(measure: Measure): MeasureAttributes[] {
  return [
    ...(measure.attributes ? [measure.attributes] : []),
    ...measure.entries.flatMap((entry) => (entry.type === 'attributes' ? [entry.attributes] : [])),
  ];
}

/** Semitones from the written to the sounding pitch. */
export function soundingShift({ transpose, transposes }: MeasureAttributes): number | undefined {
  const own = transpose ?? transposes?.[0];
  return own && own.chromatic + 12 * (own.octaveChange ?? 0);
}

/** Works out the order of bars (repeats, endings, jumps played out) and how long each is. */
export function playedBars(score: XmlScore): PlayedBars {
  const told: string[] = [];
  const written = writtenBars(score, told);
  let order = generatePlaybackSequence(score).map(({ measureIndex }) => measureIndex);
  if (order.length > MOST_BARS) {
    told.push(`Only the first ${MOST_BARS} bars are taken, repeats counted.`);
    order = order.slice(0, MOST_BARS);
  }
  // A part that is longer than the one that tells the order is played to its end.
  const longest = score.parts.reduce((most, { measures }) => Math.max(most, measures.length), 0);
  const first = score.parts.at(0)?.measures.length ?? 0;
  for (let index = first; index < longest && order.length < MOST_BARS; index++) order.push(index);
  if (order.length > longest) told.push(`Repeats are played out: ${longest} bars become ${order.length}.`);
  const bars: PlayedBar[] = [];
  const metres: MetreChange[] = [];
  const keys: KeyChange[] = [];
  let at = 0;
  order.forEach((index, place) => {
    const { metre, fifths, reach } = written[index];
    const full = metreTicks(metre).bar;
    const isUpbeat = place === 0 && reach > 0 && reach < full;
    const own = isUpbeat || reach === 0 || reach === full ? metre : metreOf(reach, metre);
    const { bar } = metreTicks(own);
    const last = metres.at(-1);
    if (!last || last.numerator !== own.numerator || last.denominator !== own.denominator)
      metres.push({ tick: at, ...own });
    if ((keys.at(-1)?.fifths ?? 0) !== fifths) keys.push({ tick: at, fifths });
    bars.push({ index, startTick: at, contentTick: isUpbeat ? at + full - reach : at, ticks: bar });
    at += bar;
  });
  return { bars, metres, keys, told };
}

/** The metre of a bar that is shorter or longer than its signature says, in the largest notes that fill it. */
function metreOf(
  ticks: number,
  { denominator: usual }: Omit<MetreChange, 'tick'>,
): Omit<MetreChange, 'tick'> {
  const fits = (denominator: number) =>
    ticks % (WHOLE / denominator) === 0 && ticks / (WHOLE / denominator) <= METRE.mostBeats;
  const denominator = [usual, ...METRE.beats.filter((one) => one >= 4)].find(fits);
  return denominator === undefined
    ? { numerator: Math.max(1, Math.min(METRE.mostBeats, Math.ceil(ticks / (WHOLE / 16)))), denominator: 16 }
    : { numerator: ticks / (WHOLE / denominator), denominator };
}

function writtenBars({ parts }: XmlScore, told: string[]): WrittenBar[] {
  const count = parts.reduce((most, { measures }) => Math.max(most, measures.length), 0);
  const bars: WrittenBar[] = Array.from({ length: count }, () => ({
    metre: { numerator: 4, denominator: 4 },
    fifths: 0,
    reach: 0,
  }));
  const metres = new Map<number, Omit<MetreChange, 'tick'>>();
  const keys = new Map<number, { part: number; fifths: number }>();
  parts.forEach(({ measures }, part) => {
    let scale = TICKS_PER_QUARTER;
    let shift = 0;
    measures.forEach((measure, i) => {
      for (const attributes of attributesOf(measure)) {
        shift = soundingShift(attributes) ?? shift;
        const time = attributes.time ?? attributes.times?.[0];
        const metre = time && metreFrom(time);
        if (metre && !metres.has(i)) metres.set(i, metre);
        else if (time && !metre && !metres.has(i))
          told.push(
            `Bar ${measure.number} has no metre that can be counted (“${time.beats}/${time.beatType}”); its notes tell how long it is.`,
          );
        const key = attributes.key ?? attributes.keys?.[0];
        // Of one part the last in a bar holds; of several the first part tells.
        if (
          key &&
          Number.isInteger(key.fifths) &&
          Math.abs(key.fifths) <= 7 &&
          (keys.get(i)?.part ?? part) === part
        )
          keys.set(i, { part, fifths: transposedFifths(key.fifths, shift) });
      }
      const reached = reachOf(measure, scale);
      scale = reached.scale;
      bars[i].reach = Math.max(bars[i].reach, Math.round(reached.ticks));
    });
  });
  let metre: Omit<MetreChange, 'tick'> = { numerator: 4, denominator: 4 };
  let fifths = 0;
  bars.forEach((bar, i) => {
    bar.metre = metre = metres.get(i) ?? metre;
    bar.fifths = fifths = keys.get(i)?.fifths ?? fifths;
  });
  return bars;
}

function metreFrom({
  beats,
  beatType,
  senzaMisura,
}: {
  beats: string;
  beatType: number;
  senzaMisura?: boolean;
}): Omit<MetreChange, 'tick'> | undefined {
  const numerator = beats.split('+').reduce((sum, one) => sum + Number(one), 0);
  const fits =
    !senzaMisura &&
    Number.isInteger(numerator) &&
    numerator >= 1 &&
    numerator <= METRE.mostBeats &&
    METRE.beats.includes(beatType);
  return fits ? { numerator, denominator: beatType } : undefined;
}

/** How far notes and rests of a bar reach, and the length of a division behind it. */
function reachOf(measure: Measure, before: number): { ticks: number; scale: number } {
  let scale = ticksOf(measure.attributes?.divisions) ?? before;
  let at = 0;
  let most = 0;
  for (const entry of measure.entries) {
    if (entry.type === 'attributes') scale = ticksOf(entry.attributes.divisions) ?? scale;
    else if (entry.type === 'backup') at = Math.max(0, at - entry.duration * scale);
    else if (entry.type === 'forward' || (entry.type === 'note' && !entry.chord && !entry.grace))
      at += entry.duration * scale;
    most = Math.max(most, at);
  }
  return { ticks: most, scale };
}
