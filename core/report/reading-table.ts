import { articulationTerm, positionName } from '../catalogue/index.ts';
import { pitchName, type ArticulationId, type MiddleC } from '../music/index.ts';
import { TWO_SOURCES, type ArticulationReport, type PositionFigures } from './figures.ts';
import { reportLoudness, type HearIt } from './findings/index.ts';
import { fastestEvenSeconds, medianOf, noteValueAt, onsetSummary } from './readings.ts';

/** One figure of a technique, what it means for a player, and where to hear it. */
export interface Reading {
  figure: string;
  meaning: string;
  hear: HearIt | null;
}

/** What a reading is taken from. */
export interface ReadingSource {
  report: ArticulationReport;
  /** Everything measured of the same instrument, for what is told by comparison. */
  all: readonly ArticulationReport[];
  /** Position that is looked at; the nearest when it is not there. */
  position: string | undefined;
  middleC: MiddleC;
}

/** A line of the table of readings. */
export interface ReadingKind {
  id: string;
  name: string;
  /** Null where there is nothing to measure, for example vibrato of a drum. */
  read(source: ReadingSource): Reading | null;
}

const minus = (text: string) => text.replace('-', '−');
const fixed = (value: number, digits = 0) => minus(value.toFixed(digits));
const signed = (value: number, digits = 0) => `${value < 0 ? '' : '+'}${fixed(value, digits)}`;
const ms = (seconds: number) => Math.round(seconds * 1000);

/** How the seam of a loop is heard, by how alike both of its sides are, 0 … 1. */
function seamIn(likeness: number): string {
  if (likeness >= 0.95) return 'its seam is not heard';
  return likeness >= 0.85 ? 'its seam is hardly heard' : 'its seam is heard';
}

/** A step of the spectral centroid, octaves, in words. */
function brightnessIn(octaves: number): string {
  if (Math.abs(octaves) < 0.05) return 'as bright';
  return `${fixed(Math.abs(octaves), 1)} octaves ${octaves > 0 ? 'brighter' : 'darker'}`;
}

function positionOf({ report, position }: ReadingSource): PositionFigures | undefined {
  return report.positions.find((one) => one.id === position) ?? report.positions[0];
}

/** What is told in place of a figure that there is none of. */
const unmeasured = (why: string | undefined): Reading | null =>
  why === undefined ? null : { figure: '', meaning: `cannot be measured, because ${why}`, hear: null };

function middleKey({ range }: ArticulationReport): number {
  return range ? Math.round((range.low + range.high) / 2) : 60;
}

function hearing(
  { articulation }: { articulation: ArticulationId },
  shape: HearIt['shape'],
  keys: number[],
  position?: string,
): HearIt {
  return { articulation, shape, keys, ...(position === undefined ? {} : { position }) };
}

/** Standard deviation of the levels about a straight line over the keys: what is left when the range's own slope is gone. */
export function unevennessLu(levels: readonly { key: number; lufs: number }[]): number {
  const n = levels.length;
  if (n < 3) return 0;
  const mx = levels.reduce((sum, one) => sum + one.key, 0) / n;
  const my = levels.reduce((sum, one) => sum + one.lufs, 0) / n;
  let xy = 0;
  let xx = 0;
  for (const { key, lufs } of levels) {
    xy += (key - mx) * (lufs - my);
    xx += (key - mx) ** 2;
  }
  const slope = xx > 0 ? xy / xx : 0;
  return Math.sqrt(levels.reduce((sum, one) => sum + (one.lufs - my - slope * (one.key - mx)) ** 2, 0) / n);
}

/** All readings, in the order in which people ask for them. */
export const READINGS: readonly ReadingKind[] = [
  {
    id: 'speaks',
    name: 'Speaks after',
    read: ({ report }) => {
      const summary = onsetSummary(report.onsets);
      if (!summary) return null;
      const { medianSeconds, spreadSeconds, worstKey } = summary;
      const meaning =
        spreadSeconds >= 0.02
          ? 'takes differ; fast lines limp'
          : medianSeconds >= 0.035
            ? 'late: start it ahead of the beat'
            : medianSeconds >= 0.015
              ? 'a little late'
              : 'at once';
      const takes = report.takes > 1 ? `takes of a note differ by up to ${ms(spreadSeconds)} ms` : '';
      return {
        figure: `${ms(medianSeconds)} ms`,
        meaning: [meaning, takes, `keys by ${ms(summary.overKeysSeconds)} ms`].filter(Boolean).join('; '),
        hear: hearing(report, 'repeat', [worstKey]),
      };
    },
  },
  {
    id: 'lead',
    name: 'Lead it needs',
    read: ({ report }) => {
      const summary = onsetSummary(report.onsets);
      if (!summary) return null;
      const lead = medianOf(report.onsets.map((one) => one.seconds + one.riseSeconds * 0.5));
      return {
        figure: `${ms(lead)} ms`,
        meaning: 'started so much earlier, it stands on the beat',
        hear: null,
      };
    },
  },
  {
    id: 'fastest',
    name: 'Fastest even repetition',
    read: ({ report }) => {
      const summary = onsetSummary(report.onsets);
      if (!summary || articulationTerm(report.articulation).group !== 'short') return null;
      return {
        figure: noteValueAt(fastestEvenSeconds(summary)),
        meaning: 'played by hand, faster lines turn uneven',
        hear: hearing(report, 'repeat', [summary.worstKey]),
      };
    },
  },
  {
    id: 'takes',
    name: 'Takes',
    read: ({ report }) => {
      const count = (kind: 'repeated' | 'borrowed') =>
        new Set(report.sameTakes.filter((one) => one.kind === kind).map((one) => `${one.key} ${one.take}`))
          .size;
      const [repeated, borrowed] = [count('repeated'), count('borrowed')];
      const words = [
        repeated > 0 ? `${repeated} repeated` : '',
        borrowed > 0 ? `${borrowed} borrowed from another key` : '',
      ].filter(Boolean);
      const first = report.sameTakes[0];
      return {
        figure: String(report.takes),
        meaning: words.join(', ') || (report.takes > 1 ? 'all different' : 'every repetition is the same'),
        hear: hearing(report, 'repeat', [first?.key ?? middleKey(report)]),
      };
    },
  },
  {
    id: 'steps',
    name: 'Layer steps',
    read: ({ report }) => {
      const curves = report.curves.filter((one) => one.controller === 'dynamics');
      const steps = (curves.length > 0 ? curves : report.curves).flatMap((curve) =>
        curve.steps.map((step) => ({ ...step, key: curve.key })),
      );
      if (steps.length === 0) return null;
      const worst = steps.reduce((a, b) => (Math.abs(b.stepLu) > Math.abs(a.stepLu) ? b : a));
      const two = steps.some((step) => step.overlap >= 20 && step.coherence < TWO_SOURCES);
      return {
        figure: `${signed(worst.stepLu, 1)} LU, ${brightnessIn(worst.stepOctaves)}, at ${worst.at}`,
        meaning: [
          Math.abs(worst.stepLu) >= 3 ? 'a crescendo breaks there' : 'joined smoothly',
          two ? 'two sources in the blend' : '',
        ]
          .filter(Boolean)
          .join('; '),
        hear: hearing(report, 'rise', [worst.key]),
      };
    },
  },
  {
    id: 'even',
    name: 'Evenness over the keys',
    read: (source) => {
      const { report, middleC } = source;
      const own = positionOf(source);
      const levels = (own?.levels ?? []).filter((one) => one.layer === report.layers >> 1);
      if (levels.length < 3) return null;
      const loudest = levels.reduce((a, b) => (b.lufs > a.lufs ? b : a));
      const softest = levels.reduce((a, b) => (b.lufs < a.lufs ? b : a));
      const off = unevennessLu(levels);
      return {
        figure: `± ${fixed(off, 1)} LU`,
        meaning: `${off < 1.5 ? 'even' : off < 3 ? 'as players are' : 'uneven'}; softest ${pitchName(softest.key, middleC)}, loudest ${pitchName(loudest.key, middleC)}`,
        hear: hearing(report, 'pair', [softest.key, loudest.key], own?.id),
      };
    },
  },
  {
    id: 'loudness',
    name: 'Loudness',
    read: ({ report, all }) => {
      const level = reportLoudness(report);
      if (level === null) return null;
      const middle = medianOf(all.flatMap((one) => reportLoudness(one) ?? []));
      return {
        figure: `${fixed(level, 1)} LUFS`,
        meaning:
          all.length > 1
            ? `${signed(level - middle, 1)} LU against the instrument’s other techniques`
            : 'nothing else is measured to hold it against',
        hear: hearing(report, 'note', [middleKey(report)]),
      };
    },
  },
  {
    id: 'tuning',
    name: 'Tuning',
    read: ({ report, middleC }) => {
      if (report.tuning.length === 0) return null;
      const middle = medianOf(report.tuning.map((one) => one.cents));
      const worst = report.tuning.reduce((a, b) =>
        Math.abs(b.cents - middle) > Math.abs(a.cents - middle) ? b : a,
      );
      const drift = report.tuning.reduce((a, b) => (Math.abs(b.driftCents) > Math.abs(a.driftCents) ? b : a));
      return {
        figure: `${signed(middle, 0)} ¢; ${signed(worst.cents, 0)} ¢ at ${pitchName(worst.key, middleC)}`,
        meaning: `drifts by ${fixed(Math.abs(drift.driftCents), 0)} ¢ at most`,
        hear: hearing(report, 'pair', [worst.key - 2, worst.key, worst.key + 2]),
      };
    },
  },
  {
    id: 'held',
    name: 'Held notes',
    read: ({ report }) => {
      if (report.sustains.length === 0) return null;
      const movement = medianOf(report.sustains.map((one) => one.movementDb));
      const looped = report.sustains.filter((one) => one.repeatsAfterSeconds > 0);
      const first = looped[0] ?? report.sustains[0];
      const seam = looped.reduce((least, one) => Math.min(least, one.seam), 1);
      return {
        figure: `move by ${fixed(movement, 1)} dB`,
        meaning:
          looped.length > 0
            ? `repeat every ${medianOf(looped.map((one) => one.repeatsAfterSeconds)).toFixed(2)} s, ${seamIn(seam)}`
            : 'no loop: they end when the recording does',
        hear: hearing(report, 'note', [first.key]),
      };
    },
  },
  {
    id: 'vibrato',
    name: 'Vibrato',
    read: ({ report }) => {
      const list = report.vibrato.filter((one) => one.cents > 3);
      if (list.length === 0) return null;
      const cents = list.map((one) => one.cents);
      const ridden = list.some((one) => one.ridden);
      return {
        figure: `${medianOf(list.map((one) => one.hertz)).toFixed(1)} Hz, ± ${Math.round(Math.min(...cents))}…${Math.round(Math.max(...cents))} ¢`,
        meaning: ridden ? 'brought in by its controller' : 'always there; it cannot be taken out',
        hear: hearing(report, 'note', [list[0].key]),
      };
    },
  },
  {
    id: 'moves',
    name: 'Moves land after',
    read: ({ report }) => {
      const moves = report.moves.filter((one) => one.interval !== 0);
      if (moves.length === 0) return null;
      const slowest = moves.reduce((a, b) => (b.seconds > a.seconds ? b : a));
      const quickest = moves.reduce((a, b) => (b.seconds < a.seconds ? b : a));
      const middle = middleKey(report);
      return {
        figure: `${ms(quickest.seconds)}…${ms(slowest.seconds)} ms`,
        meaning: `slowest over ${Math.abs(slowest.interval)} semitones ${slowest.interval > 0 ? 'up' : 'down'}; by hand, lines up to ${noteValueAt(Math.max(0.06, slowest.seconds))}`,
        hear: hearing(report, 'move', [middle, middle + slowest.interval]),
      };
    },
  },
  {
    id: 'decay',
    name: 'Decay time',
    read: (source) => {
      const own = positionOf(source);
      if (!own?.decay) return unmeasured(own?.why.decay);
      const { seconds, rangeDb } = own.decay;
      return {
        figure: `${seconds.toFixed(1)} s`,
        meaning: `${seconds > 2 ? 'long room' : seconds > 1.1 ? 'hall' : 'dry'}; from ${rangeDb} dB of decay`,
        hear: hearing(source.report, 'note', [middleKey(source.report)], own.id),
      };
    },
  },
  {
    id: 'tail',
    name: 'Tail to −60 dB',
    read: (source) => {
      const own = positionOf(source);
      if (own?.tailSeconds === null || own === undefined) return unmeasured(own?.why.tailSeconds);
      return {
        figure: `${own.tailSeconds.toFixed(1)} s`,
        meaning: `in the ${positionName(own.id).toLowerCase()} position`,
        hear: hearing(source.report, 'note', [middleKey(source.report)], own.id),
      };
    },
  },
  {
    id: 'direct',
    name: 'Direct against room',
    read: (source) => {
      const own = positionOf(source);
      if (!own || own.directToRoomDb === null) return unmeasured(own?.why.directToRoomDb);
      const db = own.directToRoomDb;
      return {
        figure: `${signed(db, 1)} dB`,
        meaning:
          db > 10
            ? 'near and dry'
            : db > 3
              ? 'present, with room'
              : db >= -3
                ? 'as much room as direct sound'
                : 'the room leads',
        hear: hearing(source.report, 'note', [middleKey(source.report)], own.id),
      };
    },
  },
  {
    id: 'arrives',
    name: 'Arrives after the nearest',
    read: (source) => {
      const own = positionOf(source);
      if (!own || own === source.report.positions[0]) return null;
      if (own.arrivalSeconds === null) return unmeasured(own.why.arrival);
      return {
        figure: `${(own.arrivalSeconds * 1000).toFixed(1)} ms`,
        meaning: `about ${(own.arrivalSeconds * 343).toFixed(1)} m farther away${own.isInverted ? '; its waves are turned over' : ''}`,
        hear: null,
      };
    },
  },
  {
    id: 'width',
    name: 'Width',
    read: (source) => {
      const own = positionOf(source);
      if (!own?.width) return null;
      const { correlation, sideDb } = own.width;
      return {
        figure: `correlation ${fixed(correlation, 2)}, sides ${fixed(sideDb, 0)} dB`,
        meaning:
          correlation > 0.995
            ? 'a bare mono point'
            : correlation > 0.85
              ? 'narrow'
              : correlation < 0
                ? 'out of phase; thin in mono'
                : 'wide',
        hear: hearing(source.report, 'note', [middleKey(source.report)], own.id),
      };
    },
  },
  {
    id: 'noise',
    name: 'Noise floor',
    read: (source) => {
      const own = positionOf(source);
      if (!own || own.noiseDb === null) return unmeasured(own?.why.noise);
      return {
        figure: `${fixed(own.noiseDb, 0)} dBFS`,
        meaning:
          own.noiseBelowDb === null ? 'as it is played' : `${fixed(own.noiseBelowDb, 0)} dB under its notes`,
        hear: hearing(source.report, 'note', [middleKey(source.report)], own.id),
      };
    },
  },
  {
    id: 'triad',
    name: 'Triad against its notes',
    read: ({ report }) => {
      if (report.chords.length === 0) return null;
      const worst = report.chords.reduce((a, b) =>
        Math.max(b.lowMidsDb, b.presenceDb) > Math.max(a.lowMidsDb, a.presenceDb) ? b : a,
      );
      const most = Math.max(worst.lowMidsDb, worst.presenceDb);
      return {
        figure: `low mids ${signed(worst.lowMidsDb, 1)}, presence ${signed(worst.presenceDb, 1)} dB`,
        meaning: most >= 3 ? 'chords thicken' : 'chords stay clear',
        hear: hearing(report, 'chord', [worst.key, worst.key + 4, worst.key + 7]),
      };
    },
  },
  {
    id: 'range',
    name: 'Range',
    read: ({ report, middleC }) =>
      report.range
        ? {
            figure: `${pitchName(report.range.low, middleC)} to ${pitchName(report.range.high, middleC)}`,
            meaning: `${report.range.high - report.range.low + 1} keys, ${report.layers} ${report.layers === 1 ? 'layer' : 'layers'}`,
            hear: hearing(report, 'pair', [report.range.low, report.range.high]),
          }
        : null,
  },
];
