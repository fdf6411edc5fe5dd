import { XMLValidator } from 'fast-xml-parser';
import { parse, type PartInfo, type Score as XmlScore } from 'musicxml-io';
import { CORE_VOCABULARY, type Vocabulary } from '../catalogue/index.ts';
import { FarloError } from '../errors/index.ts';
import { BPM, STANDARD_BPM, type TempoChange } from '../music/index.ts';
import { clamp, TICKS_PER_QUARTER } from '../units/index.ts';
import { quoted } from './quoted.ts';
import { playedBars } from './score-bars.ts';
import { PartReader, type ScoreTold } from './score-part.ts';
import { channelOf, type Song, type SongTrack } from './song.ts';

const MOST_LETTERS = 100_000_000;
const MOST_NOTES = 1_000_000;
const MOST_PARTS = 1000;

/**
 * Reads a MusicXML score: each part becomes a track, as it sounds and in the order it is played. Signs, slurs and words become marks,
 * dynamics and hairpins a curve, syllables stay with their notes; what has no place is told.
 * @param text the document, unpacked and decoded
 * @throws FarloError naming the line
 */
export function readMusicXml(text: string, file: string, vocabulary: Vocabulary = CORE_VOCABULARY): Song {
  const score = documentOf(text, file);
  if (score.parts.length > MOST_PARTS)
    throw new FarloError('file.too-large', `More than ${MOST_PARTS} parts.`, { file });
  const { bars, metres, keys, told } = playedBars(score);
  const passed = new Map<string, number>();
  const common: ScoreTold = {
    tempos: [],
    moves: [],
    rehearsals: [],
    pass: (what) => void passed.set(what, (passed.get(what) ?? 0) + 1),
  };
  const last = bars.at(-1);
  const endTick = last ? last.startTick + last.ticks : 0;
  let count = 0;
  const tracks = score.parts.map((part, i): SongTrack => {
    const info = score.partList.find(
      (one): one is PartInfo => one.type === 'score-part' && one.id === part.id,
    );
    const reader = new PartReader(info, vocabulary, common);
    for (const bar of bars) {
      const measure = part.measures.at(bar.index);
      if (bar.index < part.measures.length && measure) reader.bar(measure, bar);
    }
    const track = reader.done(info?.name?.trim() || `Part ${i + 1}`, channelOf(i), endTick);
    count += track.notes.length;
    if (count > MOST_NOTES)
      throw new FarloError('file.too-large', `More than ${MOST_NOTES} notes, repeats played out.`, { file });
    return track;
  });
  const sentences = [...told];
  const tempos = temposOf(common, sentences);
  for (const [what, times] of passed)
    sentences.push(`Not taken: ${what}${times > 1 ? `, ${times} times` : ''}.`);
  return {
    tempos,
    metres,
    keys,
    texts: once(common.rehearsals),
    tracks,
    ...(sentences.length > 0 ? { told: sentences } : {}),
  };
}

/** The document as objects. @throws FarloError */
function documentOf(text: string, file: string): XmlScore {
  if (text.length > MOST_LETTERS)
    throw new FarloError('file.too-large', 'A score of more than 100 MB of text.', { file });
  // Entities of its own could make it grow without end; no score needs them.
  if (/<!ENTITY/i.test(text))
    throw new FarloError('file.unsupported', 'The file defines entities of its own, which no score needs.', {
      file,
    });
  if (!/<score-(partwise|timewise)\b/.test(text))
    throw new FarloError('file.not-this-format', 'This is not a MusicXML score.', { file });
  const valid = XMLValidator.validate(text);
  if (valid !== true)
    throw new FarloError('file.damaged', `The XML is damaged: ${quoted(valid.err.msg)}.`, {
      file,
      line: valid.err.line,
    });
  if (!/<score-partwise\b/.test(text))
    throw new FarloError(
      'file.unsupported',
      'The score is written bar by bar (“timewise”). Save it part by part (“partwise”), as is usual.',
      { file },
    );
  let score: XmlScore;
  try {
    score = parse(text);
  } catch (error) {
    throw new FarloError('file.damaged', `The score cannot be read: ${quoted((error as Error).message)}.`, {
      file,
    });
  }
  if (score.parts.every(({ measures }) => measures.length === 0))
    throw new FarloError('file.not-this-format', 'The score has no bars.', { file });
  return score;
}

function once<T extends { tick: number; text: string }>(list: readonly T[]): T[] {
  const byPlace = new Map(list.map((one) => [`${one.tick} ${one.text}`, one]));
  return [...byPlace.values()].sort((a, b) => a.tick - b.tick);
}

/** Tempos with those that move: a word for it holds until the next tempo that is set. */
function temposOf({ tempos, moves }: ScoreTold, told: string[]): TempoChange[] {
  // What is marked goes before what is only played, of the first part that says it.
  const byTick = new Map<number, { tick: number; bpm: number; isMarked: boolean }>();
  for (const one of tempos) {
    const known = byTick.get(one.tick);
    if (!known || (one.isMarked && !known.isMarked)) byTick.set(one.tick, one);
  }
  const set = [...byTick.values()].sort((a, b) => a.tick - b.tick);
  const words = [...new Map([...moves].reverse().map((one) => [one.tick, one])).values()].sort(
    (a, b) => a.tick - b.tick,
  );
  const list: TempoChange[] = [];
  const put = (tempo: TempoChange) => {
    if (list.at(-1)?.tick === tempo.tick) list.pop();
    list.push(tempo);
  };
  let before = STANDARD_BPM;
  let at = 0;
  const until = (tick: number, isIncluded: boolean) => {
    for (; at < set.length && (set[at].tick < tick || (isIncluded && set[at].tick === tick)); at++)
      put({ tick: set[at].tick, bpm: bounded(set[at].bpm, told) });
  };
  words.forEach(({ tick, word }, i) => {
    until(tick, true);
    const now = list.at(-1)?.bpm ?? STANDARD_BPM;
    if (/^(a )?tempo/.test(word)) {
      if (list.at(-1)?.tick !== tick) put({ tick, bpm: before });
      return;
    }
    before = now;
    const next = words.at(i + 1);
    const back = next && /^(a )?tempo/.test(next.word) ? next.tick : Infinity;
    const goal = set.slice(at).find((one) => one.isMarked && one.tick <= back);
    // Steps on the way to a tempo that is marked are how another program plays the way.
    if (goal) while (at < set.length && set[at] !== goal) at++;
    const to = goal ?? set.at(at);
    if (to && to.tick <= back) put({ tick, bpm: now, ramp: true });
    else
      told.push(
        `“${word}” at quarter ${Math.floor(tick / TICKS_PER_QUARTER) + 1} does not say where it leads; the tempo stays.`,
      );
  });
  until(Infinity, true);
  return list.length > 0 && list[0].tick > 0 ? [{ tick: 0, bpm: STANDARD_BPM }, ...list] : list;
}

function bounded(bpm: number, told: string[]): number {
  const held = clamp(bpm, BPM.low, BPM.high);
  if (held !== bpm) told.push(`A tempo of ${bpm} quarters a minute is taken as ${held}.`);
  return held;
}
