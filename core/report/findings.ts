import { articulationTerm, markedSeconds, positionName, type InstrumentKind } from '../catalogue/index.ts';
import { resonancesOf } from '../measure/index.ts';
import { pitchName, type ArticulationId, type MiddleC } from '../music/index.ts';
import type { ArticulationReport } from './figures.ts';
import { fastestEvenSeconds, medianOf, noteValueAt, onsetSummary } from './readings.ts';

/** What a finding is about. */
export type FindingCode =
  | 'layer-step'
  | 'two-sources'
  | 'late-short'
  | 'repeated-take'
  | 'borrowed-take'
  | 'mistuned'
  | 'static-loop'
  | 'loop-bump'
  | 'out-of-level'
  | 'noisy'
  | 'mono-point'
  | 'resonance'
  | 'slow-move'
  | 'missing-technique'
  | 'no-length'
  | 'triad-growth'
  | 'uneven-keys'
  | 'trouble';

/** Where a finding can be heard: what the engine is to play. */
export interface HearIt {
  articulation: ArticulationId;
  shape: 'note' | 'repeat' | 'rise' | 'chord' | 'move' | 'pair';
  keys: number[];
  velocity?: number;
  /** Only this position, where the finding is about one. */
  position?: string;
  /** Second articulation of a pair. */
  against?: ArticulationId;
}

/** Something that measuring found, in words for players. */
export interface Finding {
  code: FindingCode;
  /** `fault`: something is wrong; `note`: worth knowing. */
  weight: 'fault' | 'note';
  articulation: ArticulationId | null;
  position: string | null;
  /** The figure by itself, short. */
  figure: string;
  sentence: string;
  hear: HearIt | null;
}

/** What must be known of an instrument to read its reports. */
export interface ReportedInstrument {
  name: string;
  kind: InstrumentKind;
  reports: readonly ArticulationReport[];
}

/** From where on a figure is a finding. The reasons stand beside each. */
const LIMIT = {
  /** LU a held note jumps by within eight steps of the controller; a crossfade of like layers stays below 3. */
  stepLu: 5,
  /** Seconds a short note may speak late, and by which its takes may differ, before a line limps. */
  lateSeconds: 0.035,
  unevenSeconds: 0.02,
  /** Cents off its neighbours; from about ten on single notes are heard as out. */
  cents: 14,
  /** A loop shorter than this repeats faster than a vibrato and is heard as one. */
  loopSeconds: 0.2,
  seam: 0.85,
  /** LU louder, against the instrument's middle, than the same technique of its siblings; or than its own kind. */
  outOfLevelLu: 7,
  outOfKindLu: 11,
  fewestSiblings: 3,
  fewestTechniques: 4,
  /** Hiss above this, as it is played, comes through when several sections play softly. */
  noiseDb: -72,
  /** A section whose close position correlates more than this stands in one point. */
  correlation: 0.86,
  /** dB by which a partial stands out of those around it. */
  resonanceDb: 9,
  /** LU by which a note with such a partial is louder than its neighbours; else it is the colour of the instrument. */
  boomLu: 6,
  /** Seconds that moves of some neighbouring intervals land later than the rest. */
  slowSeconds: 0.06,
  slowIntervals: 3,
  /** Share of the siblings that have a technique which this one lacks. */
  siblingShare: 0.7,
  /** dB that a triad's band holds beyond its notes. */
  growthDb: 3,
  /** LU that one key lies off the line through its neighbours. */
  unevenLu: 8,
  coherence: 0.3,
  overlap: 40,
} as const;

/** Sentences need to name keys. */
interface Writing {
  middleC: MiddleC;
}

/**
 * Everything that stands out in an instrument's reports, faults first.
 * @param siblings instruments of the same family and library, which tell what is usual there; without it
 */
export function findingsOf(
  instrument: ReportedInstrument,
  siblings: readonly ReportedInstrument[],
  writing: Writing = { middleC: 4 },
): Finding[] {
  const { reports } = instrument;
  const single = reports.flatMap((report) => [
    ...layerFindings(report, instrument, writing),
    ...onsetFindings(report),
    ...takeFindings(report, writing),
    ...tuningFindings(report, writing),
    ...sustainFindings(report, writing),
    ...moveFindings(report),
    ...chordFindings(report, writing),
    ...keyFindings(report, instrument, writing),
    ...troubleFindings(report, writing),
    ...lengthFindings(report),
  ]);
  const whole = [
    ...noiseFindings(instrument),
    ...widthFindings(instrument),
    ...resonanceFindings(instrument, writing),
    ...levelFindings(instrument, siblings),
    ...missingFindings(instrument, siblings),
  ];
  return [...merged(single), ...whole].sort(
    (a, b) => Number(a.weight === 'note') - Number(b.weight === 'note'),
  );
}

/** Techniques that share their recordings share their findings: the first of them speaks for all. */
function merged(findings: readonly Finding[]): Finding[] {
  const seen = new Map<string, Finding>();
  for (const one of findings) {
    const name = `${one.code} ${one.figure} ${one.position ?? ''} ${one.hear?.keys.join() ?? ''} ${one.hear?.position ?? ''}`;
    const known = seen.get(name);
    // A report of the plain technique is the one to hear it by.
    if (!known || (one.articulation === 'long' && known.articulation !== 'long')) seen.set(name, one);
  }
  return [...seen.values()];
}

const termName = (id: ArticulationId) => articulationTerm(id).name;
const signed = (value: number, digits = 0) => `${value < 0 ? '−' : '+'}${Math.abs(value).toFixed(digits)}`;
const milliseconds = (seconds: number) => Math.round(seconds * 1000);

function layerFindings(
  { articulation, curves }: ArticulationReport,
  { kind }: ReportedInstrument,
  { middleC }: Writing,
): Finding[] {
  const found: Finding[] = [];
  const ridden = curves.filter((curve) => curve.controller === 'dynamics');
  const steps = ridden.flatMap(({ key, steps: list }) => list.map((step) => ({ key, ...step })));
  const worst = steps.reduce<(typeof steps)[number] | undefined>(
    (most, step) => (Math.abs(step.stepLu) > Math.abs(most?.stepLu ?? 0) ? step : most),
    undefined,
  );
  if (worst && Math.abs(worst.stepLu) >= LIMIT.stepLu)
    found.push({
      code: 'layer-step',
      weight: 'fault',
      articulation,
      position: null,
      figure: `${signed(worst.stepLu, 1)} LU`,
      sentence: `${termName(articulation)}: at controller ${worst.at} the next layer takes over with a jump of ${signed(worst.stepLu, 1)} LU and ${signed(worst.stepOctaves, 1)} octaves of brightness. A slow crescendo will break there.`,
      hear: { articulation, shape: 'rise', keys: [worst.key] },
    });
  const blended = steps.filter((step) => step.overlap >= LIMIT.overlap && step.coherence < LIMIT.coherence);
  if (kind === 'solo' && blended.length > 0)
    found.push({
      code: 'two-sources',
      weight: 'note',
      articulation,
      position: null,
      figure: `${blended[0].overlap} steps`,
      sentence: `${termName(articulation)}: over ${blended[0].overlap} steps of the controller around ${blended[0].at} two recordings of ${pitchName(blended[0].key, middleC)} sound side by side; a soloist may seem to be two.`,
      hear: { articulation, shape: 'rise', keys: [blended[0].key] },
    });
  return found;
}

function onsetFindings(report: ArticulationReport): Finding[] {
  const { articulation } = report;
  if (articulationTerm(articulation).group !== 'short') return [];
  const summary = onsetSummary(report.onsets);
  if (!summary || (summary.medianSeconds < LIMIT.lateSeconds && summary.spreadSeconds < LIMIT.unevenSeconds))
    return [];
  const limp = noteValueAt(fastestEvenSeconds(summary));
  const how = [
    summary.medianSeconds >= LIMIT.lateSeconds ? 'late' : '',
    summary.spreadSeconds >= LIMIT.unevenSeconds ? 'unevenly' : '',
  ].filter(Boolean);
  return [
    {
      code: 'late-short',
      weight: 'fault',
      articulation,
      position: null,
      figure: `${milliseconds(summary.medianSeconds)} ± ${milliseconds(summary.spreadSeconds / 2)} ms`,
      sentence: `${termName(articulation)} speaks ${milliseconds(summary.medianSeconds)} ms after the key, ${how.join(' and ')}: played by hand, lines faster than ${limp} will limp.`,
      hear: { articulation, shape: 'repeat', keys: [summary.worstKey] },
    },
  ];
}

function takeFindings(
  { articulation, sameTakes, takes }: ArticulationReport,
  { middleC }: Writing,
): Finding[] {
  return (['repeated', 'borrowed'] as const).flatMap((kind): Finding[] => {
    const own = sameTakes.filter((one) => one.kind === kind);
    if (own.length === 0) return [];
    const { key, take, otherKey, otherTake } = own[0];
    const keys = new Set(own.map((one) => one.key)).size;
    const perNote = new Map<string, number>();
    for (const { key: at, layer } of own)
      perNote.set(`${at} ${layer}`, (perNote.get(`${at} ${layer}`) ?? 0) + 1);
    return [
      {
        code: `${kind}-take`,
        weight: 'fault',
        articulation,
        position: null,
        figure: `${Math.max(...perNote.values())} of ${takes} takes on ${keys} ${keys === 1 ? 'root' : 'roots'}`,
        sentence:
          kind === 'repeated'
            ? `${termName(articulation)}: take ${take + 1} of ${pitchName(key, middleC)} is take ${otherTake + 1} again, as on ${keys} ${keys === 1 ? 'root' : 'roots'}. A row of the same note turns mechanical sooner than ${takes} takes promise.`
            : `${termName(articulation)}: take ${take + 1} of ${pitchName(key, middleC)} is borrowed from ${pitchName(otherKey, middleC)}, moved in pitch. Rows change colour from note to note.`,
        hear: { articulation, shape: 'repeat', keys: [key] },
      },
    ];
  });
}

function tuningFindings({ articulation, tuning }: ArticulationReport, { middleC }: Writing): Finding[] {
  if (tuning.length < 4) return [];
  return tuning.flatMap(({ key, cents }, i): Finding[] => {
    // The four nearest, also at the ends of the range, so that one that is off does not drag its neighbour along.
    const around = tuning
      .map((one, k) => ({ cents: one.cents, far: Math.abs(k - i) }))
      .filter((one) => one.far > 0)
      .sort((a, b) => a.far - b.far)
      .slice(0, 4)
      .map((one) => one.cents);
    const off = cents - medianOf(around);
    if (Math.abs(off) < LIMIT.cents) return [];
    return [
      {
        code: 'mistuned',
        weight: 'fault',
        articulation,
        position: null,
        figure: `${signed(off)} ¢ at ${pitchName(key, middleC)}`,
        sentence: `${termName(articulation)}: ${pitchName(key, middleC)} and the keys it serves stand ${Math.abs(Math.round(off))} cents ${off > 0 ? 'sharp' : 'flat'} against their neighbours.`,
        hear: { articulation, shape: 'pair', keys: [Math.max(0, key - 5), key, key + 7] },
      },
    ];
  });
}

function sustainFindings({ articulation, sustains }: ArticulationReport, { middleC }: Writing): Finding[] {
  const found: Finding[] = [];
  const looped = sustains.filter((one) => one.repeatsAfterSeconds > 0);
  const still = looped.filter((one) => one.repeatsAfterSeconds < LIMIT.loopSeconds);
  if (still.length > 0)
    found.push({
      code: 'static-loop',
      weight: 'fault',
      articulation,
      position: null,
      figure: `${milliseconds(still[0].repeatsAfterSeconds)} ms`,
      sentence: `${termName(articulation)}: held notes repeat every ${milliseconds(still[0].repeatsAfterSeconds)} ms and move by ${still[0].movementDb.toFixed(1)} dB; anything longer than a second sounds frozen.`,
      hear: { articulation, shape: 'note', keys: [still[0].key] },
    });
  const bump = looped.reduce<(typeof looped)[number] | undefined>(
    (worst, one) => (one.seam < (worst?.seam ?? LIMIT.seam) ? one : worst),
    undefined,
  );
  if (bump)
    found.push({
      code: 'loop-bump',
      weight: 'fault',
      articulation,
      position: null,
      figure: `likeness ${bump.seam.toFixed(2)}`,
      sentence: `${termName(articulation)}: the loop of ${pitchName(bump.key, middleC)} does not join; a bump comes back every ${bump.repeatsAfterSeconds.toFixed(1)} s.`,
      hear: { articulation, shape: 'note', keys: [bump.key] },
    });
  return found;
}

/** Moves of at least three neighbouring intervals in one direction that land late against all others. */
function moveFindings({ articulation, moves, range }: ArticulationReport): Finding[] {
  const usual = medianOf(moves.filter((one) => one.interval !== 0).map((one) => one.seconds));
  for (const side of [moves.filter((one) => one.interval > 0), moves.filter((one) => one.interval < 0)]) {
    let run: typeof moves = [];
    let best: typeof moves = [];
    for (const one of side) {
      run = one.seconds - usual > LIMIT.slowSeconds ? [...run, one] : [];
      if (run.length > best.length) best = run;
    }
    if (best.length < LIMIT.slowIntervals) continue;
    const late = medianOf(best.map((one) => one.seconds)) - usual;
    const widths = best.map((one) => Math.abs(one.interval)).sort((a, b) => a - b);
    const middle = range ? Math.round((range.low + range.high) / 2) : 60;
    return [
      {
        code: 'slow-move',
        weight: 'fault',
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

function chordFindings({ articulation, chords }: ArticulationReport, { middleC }: Writing): Finding[] {
  return chords.flatMap(({ key, lowMidsDb, presenceDb }): Finding[] => {
    const [most, where] =
      lowMidsDb >= presenceDb ? [lowMidsDb, 'the low mids'] : [presenceDb, 'the presence region'];
    if (most < LIMIT.growthDb) return [];
    return [
      {
        code: 'triad-growth',
        weight: 'note',
        articulation,
        position: null,
        figure: `${signed(most, 1)} dB`,
        sentence: `${termName(articulation)}: a triad on ${pitchName(key, middleC)} holds ${most.toFixed(1)} dB more in ${where} than its notes add up to.`,
        hear: { articulation, shape: 'chord', keys: [key, key + 4, key + 7] },
      },
    ];
  });
}

/** A key that lies off the line between its neighbours in the layer heard at a middling touch. */
function keyFindings(
  { articulation, positions, layers }: ArticulationReport,
  { kind }: ReportedInstrument,
  { middleC }: Writing,
): Finding[] {
  if (kind === 'ensemble') return [];
  const levels = (positions[0]?.levels ?? []).filter((one) => one.layer === layers >> 1);
  let worst: { key: number; off: number } | undefined;
  for (let i = 1; i + 1 < levels.length; i++) {
    const off = levels[i].lufs - (levels[i - 1].lufs + levels[i + 1].lufs) / 2;
    if (Math.abs(off) > Math.abs(worst?.off ?? LIMIT.unevenLu)) worst = { key: levels[i].key, off };
  }
  if (!worst) return [];
  return [
    {
      code: 'uneven-keys',
      weight: 'note',
      articulation,
      position: null,
      figure: `${signed(worst.off, 1)} LU`,
      sentence: `${termName(articulation)}: ${pitchName(worst.key, middleC)} is ${Math.abs(worst.off).toFixed(1)} LU ${worst.off > 0 ? 'louder' : 'softer'} than its neighbours.`,
      hear: { articulation, shape: 'pair', keys: [worst.key - 2, worst.key, worst.key + 2] },
    },
  ];
}

function troubleFindings({ articulation, troubled }: ArticulationReport, { middleC }: Writing): Finding[] {
  const kinds = [...new Set(troubled.map((one) => one.trouble))];
  return kinds.map((kind): Finding => {
    const own = troubled.filter((one) => one.trouble === kind);
    const places = own
      .slice(0, 4)
      .map((one) => `${pitchName(one.key, middleC)} (${positionName(one.position).toLowerCase()})`)
      .join(', ');
    return {
      code: 'trouble',
      weight: 'fault',
      articulation,
      position: null,
      figure: `${own.length} ${kind}`,
      sentence: `${termName(articulation)}: ${own.length} ${own.length === 1 ? 'recording is' : 'recordings are'} ${kind}: ${places}${own.length > 4 ? ' …' : ''}. ${kind === 'clipped' ? 'Its figures stand, but its peaks are cut off.' : 'No figures were taken from them.'}`,
      hear:
        kind === 'missing'
          ? null
          : { articulation, shape: 'note', keys: [own[0].key], position: own[0].position },
    };
  });
}

/** Rolls and swells must say how long they take, or they cannot be made to arrive on a beat. */
function lengthFindings({ articulation, name, range }: ArticulationReport): Finding[] {
  const { group } = articulationTerm(articulation);
  const timed = group === 'dynamic' || articulationTerm(articulation).id === 'roll';
  if (!timed || markedSeconds({ name }) !== undefined || !range) return [];
  return [
    {
      code: 'no-length',
      weight: 'fault',
      articulation,
      position: null,
      figure: 'no length',
      sentence: `${name || termName(articulation)} does not say how many seconds it takes to its arrival; it cannot be made to land on a beat.`,
      hear: { articulation, shape: 'note', keys: [Math.round((range.low + range.high) / 2)] },
    },
  ];
}

function noiseFindings({ reports }: ReportedInstrument): Finding[] {
  const ids = new Set(reports.flatMap((report) => report.positions.map((one) => one.id)));
  return [...ids].flatMap((id): Finding[] => {
    const heard = reports.flatMap((report) => {
      const own = report.positions.find((one) => one.id === id);
      return own && own.noiseDb !== null
        ? [{ report, noiseDb: own.noiseDb, below: own.noiseBelowDb ?? 0 }]
        : [];
    });
    const middle = medianOf(heard.map((one) => one.noiseDb));
    if (heard.length < 2 || middle < LIMIT.noiseDb) return [];
    const { report, below } = heard.find((one) => one.report.articulation === 'long') ?? heard[0];
    return [
      {
        code: 'noisy',
        weight: 'fault',
        articulation: null,
        position: id,
        figure: `${middle.toFixed(0).replace('-', '−')} dBFS`,
        sentence: `The ${positionName(id).toLowerCase()} position hisses at ${middle.toFixed(0).replace('-', '−')} dBFS, ${Math.round(below)} dB under its notes; several sections of it will be heard in quiet places.`,
        hear: {
          articulation: report.articulation,
          shape: 'note',
          keys: [report.range ? Math.round((report.range.low + report.range.high) / 2) : 60],
          position: id,
        },
      },
    ];
  });
}

function widthFindings({ reports, kind }: ReportedInstrument): Finding[] {
  // A soloist is a point by nature; a section should not be.
  if (kind === 'solo') return [];
  const ids = new Set(reports.flatMap((report) => report.positions.map((one) => one.id)));
  return [...ids].flatMap((id): Finding[] => {
    const widths = reports.flatMap((report) => report.positions.find((one) => one.id === id)?.width ?? []);
    const middle = medianOf(widths.map((one) => one.correlation));
    if (widths.length === 0 || middle < LIMIT.correlation) return [];
    const first = reports.find((report) => report.articulation === 'long') ?? reports[0];
    return [
      {
        code: 'mono-point',
        weight: 'fault',
        articulation: null,
        position: id,
        figure: `correlation ${middle.toFixed(2)}`,
        sentence: `The ${positionName(id).toLowerCase()} position of this section is nearly one point (correlation ${middle.toFixed(2)}): alone it seems too near for an orchestra.`,
        hear: {
          articulation: first.articulation,
          shape: 'note',
          keys: [first.range ? Math.round((first.range.low + first.range.high) / 2) : 60],
          position: id,
        },
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
    return excesses.length > 0 && excesses.reduce((a, b) => a + b, 0) / excesses.length >= LIMIT.boomLu;
  });
}

function resonanceFindings({ reports }: ReportedInstrument, { middleC }: Writing): Finding[] {
  const held = reports.find((report) => report.articulation === 'long' && report.partials.length > 0);
  if (!held) return [];
  return resonancesOf(held.partials, LIMIT.resonanceDb)
    .filter(({ hertz }) => boomsAt(held, hertz))
    .slice(0, 2)
    .map((one): Finding => {
      const key = Math.round(69 + 12 * Math.log2(one.hertz / 440));
      return {
        code: 'resonance',
        weight: 'fault',
        articulation: held.articulation,
        position: null,
        figure: `${Math.round(one.hertz)} Hz, +${one.excessDb.toFixed(0)} dB`,
        sentence: `Something rings along at ${Math.round(one.hertz)} Hz (${pitchName(key, middleC)}): partials that fall there stand ${one.excessDb.toFixed(0)} dB out of what their neighbours lead one to expect. Notes on it will boom or bite.`,
        hear: { articulation: held.articulation, shape: 'pair', keys: [key - 2, key, key + 2] },
      };
    });
}

/** Loudness of a report: its loudest position at a middling touch. */
export function reportLoudness({ positions }: ArticulationReport): number | null {
  const list = positions.flatMap((one) => one.loudnessLufs ?? []);
  return list.length > 0 ? Math.max(...list) : null;
}

function levelFindings(instrument: ReportedInstrument, siblings: readonly ReportedInstrument[]): Finding[] {
  const own = againstMiddle(instrument);
  const others = siblings.map(againstMiddle);
  return instrument.reports.flatMap((report): Finding[] => {
    const { articulation } = report;
    const { group } = articulationTerm(articulation);
    const level = own.get(articulation);
    // How loud a recorded swell is depends on where in it one listens.
    if (level === undefined || group === 'dynamic' || group === 'pattern') return [];
    const usual = others.flatMap((one) => one.get(articulation) ?? []);
    const kind = instrument.reports
      .filter((one) => one !== report && articulationTerm(one.articulation).group === group)
      .flatMap((one) => own.get(one.articulation) ?? []);
    const bySiblings = usual.length >= LIMIT.fewestSiblings && own.size >= LIMIT.fewestTechniques;
    if (!bySiblings && kind.length < 3) return [];
    const off = level - medianOf(bySiblings ? usual : kind);
    if (off < (bySiblings ? LIMIT.outOfLevelLu : LIMIT.outOfKindLu)) return [];
    const neighbour = instrument.reports.find((one) => one.articulation === 'long') ?? instrument.reports[0];
    return [
      {
        code: 'out-of-level',
        weight: 'fault',
        articulation,
        position: null,
        figure: `${signed(off, 1)} LU`,
        sentence: `${termName(articulation)} is ${off.toFixed(1)} LU louder against the rest of the instrument than ${bySiblings ? 'in its neighbours' : 'techniques of its kind'}; a change of technique will jump.`,
        hear: {
          articulation,
          shape: 'pair',
          keys: [report.range ? Math.round((report.range.low + report.range.high) / 2) : 60],
          against: neighbour.articulation,
        },
      },
    ];
  });
}

/** Loudness of every articulation against the median of all of them. */
function againstMiddle({ reports }: ReportedInstrument): Map<ArticulationId, number> {
  const levels = reports.flatMap((report) => {
    const level = reportLoudness(report);
    return level === null ? [] : [[report.articulation, level] as const];
  });
  const middle = medianOf(levels.map(([, level]) => level));
  return new Map(levels.map(([id, level]) => [id, level - middle]));
}

function missingFindings(instrument: ReportedInstrument, siblings: readonly ReportedInstrument[]): Finding[] {
  const alike = siblings.filter((one) => one.kind === instrument.kind && one.reports.length > 0);
  if (alike.length < LIMIT.fewestSiblings) return [];
  const own = new Set(instrument.reports.map((report) => report.articulation));
  const all = new Set(alike.flatMap((one) => one.reports.map((report) => report.articulation)));
  const lacking = [...all].filter(
    (id) =>
      !own.has(id) &&
      alike.filter((one) => one.reports.some((report) => report.articulation === id)).length / alike.length >=
        LIMIT.siblingShare,
  );
  if (lacking.length === 0) return [];
  return [
    {
      code: 'missing-technique',
      weight: 'fault',
      articulation: null,
      position: null,
      figure: `${lacking.length} missing`,
      sentence: `${instrument.name} lacks ${lacking.map(termName).join(', ')}, which the other sections of the library have; marks of these will be played by stand-ins.`,
      hear: null,
    },
  ];
}

/** Instruments that tell what is usual for one: of the same family, in the same library. */
export function siblingsOf<T extends { id: string; family: string }>(one: T, library: readonly T[]): T[] {
  return library.filter((other) => other.id !== one.id && other.family === one.family);
}
