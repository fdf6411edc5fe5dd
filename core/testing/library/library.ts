import { Random } from '../../dsp/index.ts';
import { writeWav } from '../../formats/index.ts';
import { midiToHertz } from '../../units/index.ts';
import { isAt, plant, type Fault } from './faults.ts';
import { heardAt, playedFor, stageOf, tailOf, type Place, type Stage } from './stage.ts';
import { DIES_AWAY, playersOf, playersOfNote, TIMBRES, type Timbre } from './timbres.ts';

/**
 * A library made by seed, as somebody elsewhere might have recorded it: one of six timbres, three positions, one of two rates, layers by
 * dynamics or by velocity, SFZ or bare recordings with telling names. Everything about it is known, and faults are planted in it.
 */
export interface SeededLibrary {
  seed: number;
  timbre: Timbre;
  rate: number;
  stage: Stage;
  players: number;
  roots: number[];
  /** How it comes to Farlo: files by path. */
  files: Map<string, Uint8Array>;
  /** For bare recordings: what their names say. */
  pattern: string | undefined;
  faults: Fault[];
}

/** How held notes end. */
interface Ends {
  /** In which a tone falls to nothing. */
  fallSeconds: number;
  /** So much of the end was kept, the last of it faded out; all of it unless given. */
  keptSeconds?: number;
}

/** A recording before it is written. */
export interface Take {
  articulation: string;
  key: number;
  layer: number;
  take: number;
  place: Place['id'];
  part: 'note' | 'end';
  channels: [Float32Array, Float32Array];
}

const ROOTS = 6;
const BEFORE_SECONDS = 0.008;
const SHORTS = { staccato: 0.18, staccatissimo: 0.1, spiccato: 0.14, portato: 0.3 } as const;
const HELD_SECONDS = 2;
const LOOP_SECONDS = [1, 1.9] as const;
/** Dynamics layers as loud as they are played, soft to loud, dB. */
const LAYERS_DB = { 2: [-7, 0], 3: [-11, -5, 0] } as const;
const NOTES = ['C', 'C#', 'D', 'D#', 'E', 'F', 'F#', 'G', 'G#', 'A', 'A#', 'B'];

/** What ends at once when it is short. */
const SHORT_END_SECONDS = 0.03;
/** Of an end that was not kept whole so much is faded. */
const FADE_SECONDS = 0.15;

export const HISS_DBFS = -92;

/** Ends by seed: sudden and slow ones, every second kept only for a while. */
function endsOf(random: Random): Ends {
  const fallSeconds = random.between(0.02, 0.1);
  return random.next() < 0.5 ? { fallSeconds } : { fallSeconds, keptSeconds: random.between(0.5, 0.9) };
}

/** @param count faults to plant, of different kinds */
export function seededLibrary(seed: number, count: number): SeededLibrary {
  const random = new Random(`library ${seed}`);
  const timbre = TIMBRES[seed % TIMBRES.length];
  const rate = random.next() < 0.3 ? 44_100 : 48_000;
  const road = random.next() < 0.6 ? 'sfz' : 'names';
  const byVelocity = road === 'sfz' && random.next() < 0.4;
  const layers = random.next() < 0.5 ? 2 : 3;
  const looped = road === 'sfz' && !DIES_AWAY.has(timbre);
  const low = Math.round(random.between(46, 62));
  const step = random.next() < 0.5 ? 3 : 4;
  const roots = Array.from({ length: ROOTS }, (_, i) => low + i * step);
  const stage = stageOf(random);
  const faults = plant(count, { random, roots, layers, looped, players: playersOf(timbre) });
  for (const fault of faults)
    if (fault.kind === 'ring') stage.ring = { hertz: fault.hertz, seconds: 2.5 * stage.decaySeconds };
  const ends = endsOf(new Random(`ends ${seed}`));
  const takes = recordedTakes(
    { seed, timbre, rate, roots, layers, byVelocity, looped, ends, stage, faults },
    -32 + random.between(-3, 3),
  );
  const files = new Map<string, Uint8Array>();
  for (const take of takes)
    files.set(fileOf(take), writeWav({ rate, format: 'i24', channels: take.channels }));
  if (road === 'sfz') files.set('Tide.sfz', sfzOf(takes, { layers, byVelocity, looped, rate, roots }));
  return {
    seed,
    timbre,
    rate,
    stage,
    roots,
    files,
    faults,
    players: playersOf(timbre),
    pattern: road === 'names' ? '{articulation}_{note}_{layer}_{take}_{position}' : undefined,
  };
}

interface Recording {
  seed: number;
  timbre: Timbre;
  rate: number;
  roots: readonly number[];
  layers: 2 | 3;
  byVelocity: boolean;
  looped: boolean;
  ends: Ends;
  stage: Stage;
  faults: readonly Fault[];
}

function recordedTakes(session: Recording, levelDb: number): Take[] {
  const { seed, rate, stage, faults, roots, layers, byVelocity } = session;
  const tails = new Map(
    stage.places.map(({ id }) => [id, tailOf(stage, new Random(`tail ${seed} ${id}`), rate)]),
  );
  const takes: Take[] = [];
  const record = (
    articulation: string,
    key: number,
    layer: number,
    take: number,
    force: number,
    gainDb: number,
  ) => {
    const held = articulation === 'long' ? HELD_SECONDS : SHORTS[articulation as keyof typeof SHORTS];
    const place = { articulation, key, layer, take };
    let source = { key, take };
    let [cents, late, dull, louder] = [0, 0, false, 0];
    for (const fault of faults) {
      if (!isAt(fault, place)) continue;
      if (fault.kind === 'repeated') source = { key, take: fault.same };
      if (fault.kind === 'borrowed') source = { key: fault.from, take };
      if (fault.kind === 'mistuned') cents = fault.cents;
      if (fault.kind === 'late') late = fault.seconds;
      if (fault.kind === 'layer-bright') dull = true;
      if (fault.kind === 'layer-level' || fault.kind === 'loud') louder += fault.db;
    }
    const random = new Random(`take ${seed} ${articulation} ${source.key} ${layer} ${source.take}`);
    const moved = key - source.key;
    const note = {
      timbre: session.timbre,
      hertz: midiToHertz(source.key) * 2 ** ((cents + random.between(-1.5, 1.5)) / 1200),
      seconds: held,
      force: dull ? force - 1.2 : force,
      endSeconds: articulation === 'long' ? session.ends.fallSeconds : SHORT_END_SECONDS,
    };
    const level = 10 ** ((levelDb + gainDb + louder + random.between(-0.4, 0.4)) / 20);
    const played = playedFor(playersOfNote(note, random, rate, 0), tails.values());
    const startFrame = Math.round((BEFORE_SECONDS + late + random.between(0, 0.002)) * rate);
    for (const spot of stage.places) {
      const tail = tails.get(spot.id);
      if (!tail) continue;
      const frames = startFrame + Math.round((spot.arrivalSeconds + held + stage.decaySeconds * 1.1) * rate);
      let channels = heardAt(played, spot, tail, rate, frames, startFrame);
      finish(channels, { ...place, place: spot.id }, source, faults, level, seed);
      // What is borrowed brings its room and its hiss along, moved.
      if (moved !== 0) channels = faster(channels, 2 ** (moved / 12));
      if (articulation === 'long' && session.looped)
        takes.push(...cutForLoop(channels, { ...place, place: spot.id }, startFrame, session));
      else takes.push({ ...place, place: spot.id, part: 'note', channels });
    }
  };
  for (const key of roots) {
    for (let layer = 0; layer < layers; layer++)
      record('long', key, layer, 0, layer / (layers - 1), byVelocity ? 0 : LAYERS_DB[layers][layer]);
    for (let take = 0; take < 3; take++) record('staccato', key, 0, take, 0.6, 0);
    for (const other of ['staccatissimo', 'spiccato', 'portato']) record(other, key, 0, 0, 0.6, 0);
  }
  return takes;
}

/** Read faster, straight between frames of a wave that is first read four times as finely by a windowed sine. */
function faster(channels: [Float32Array, Float32Array], ratio: number): [Float32Array, Float32Array] {
  return channels.map((channel) => {
    const out = new Float32Array(Math.floor((channel.length - 40) / ratio));
    const cut = Math.min(1, 1 / ratio);
    for (let i = 0; i < out.length; i++) {
      const place = i * ratio;
      const at = Math.floor(place);
      let sum = 0;
      for (let k = at - 15; k <= at + 16; k++) {
        const x = place - k;
        const arc = Math.PI * x * cut;
        const sinc = Math.abs(x) < 1e-9 ? 1 : Math.sin(arc) / arc;
        sum += (channel[k] ?? 0) * cut * sinc * (0.5 + 0.5 * Math.cos((Math.PI * x) / 16.5));
      }
      out[i] = sum;
    }
    return out;
  }) as [Float32Array, Float32Array];
}

/** Level, hiss and what is planted on positions. */
function finish(
  channels: [Float32Array, Float32Array],
  at: Omit<Take, 'channels' | 'part'>,
  source: { key: number; take: number },
  faults: readonly Fault[],
  level: number,
  seed: number,
): void {
  // A recording that serves twice brings its own hiss.
  const random = new Random(
    `hiss ${seed} ${at.articulation} ${source.key} ${at.layer} ${source.take} ${at.place}`,
  );
  let hissDb = HISS_DBFS;
  let sign = 1;
  let mono = false;
  for (const fault of faults) {
    if (fault.kind === 'hiss' && fault.place === at.place) hissDb = fault.dbfs;
    if (fault.kind === 'polarity' && fault.place === at.place) sign = -1;
    if (fault.kind === 'mono' && fault.place === at.place && fault.keys.includes(at.key)) mono = true;
  }
  const [left, right] = channels;
  // A uniform number between −1 and 1 has a power of a third.
  const hiss = Math.sqrt(3) * 10 ** (hissDb / 20);
  for (let i = 0; i < left.length; i++) {
    left[i] = sign * level * left[i] + hiss * random.between(-1, 1);
    right[i] = sign * level * right[i] + hiss * random.between(-1, 1);
    if (mono) left[i] = right[i] = (left[i] + right[i]) / 2;
  }
}

/** The held part with a loop that closes, and what is recorded of its end. */
function cutForLoop(
  channels: [Float32Array, Float32Array],
  at: Omit<Take, 'channels' | 'part'>,
  startFrame: number,
  { faults, rate, ends: { fallSeconds, keptSeconds = Infinity } }: Recording,
): Take[] {
  const letGo = startFrame + Math.round((HELD_SECONDS - fallSeconds - 0.005) * rate);
  const [from, to] = LOOP_SECONDS.map((seconds) => Math.round(seconds * rate));
  const bumps = faults.some((fault) => fault.kind === 'loop-bump' && isAt(fault, at));
  const kept = Math.min(channels[0].length, letGo + Math.round(keptSeconds * rate));
  const end = channels.map((channel) => channel.slice(letGo, kept)) as Take['channels'];
  const fade = kept < channels[0].length ? Math.round(FADE_SECONDS * rate) : 0;
  for (const channel of end) for (let i = 0; i < fade; i++) channel[channel.length - 1 - i] *= i / fade;
  const note = channels.map((channel) => channel.slice(0, letGo)) as Take['channels'];
  const blend = Math.round(0.12 * rate);
  if (!bumps)
    for (const channel of note)
      for (let i = 0; i < blend; i++) {
        const x = ((i + 1) / blend) * (Math.PI / 2);
        const k = to - blend + i;
        channel[k] = Math.cos(x) * channel[k] + Math.sin(x) * channel[from - blend + i];
      }
  return [
    { ...at, part: 'note', channels: note },
    { ...at, part: 'end', channels: end },
  ];
}

const noteName = (key: number) => `${NOTES[key % 12]}${Math.floor(key / 12) - 1}`;

/** Path of a recording; its name says everything, as the pattern reads it. */
export function fileOf({ articulation, key, layer, take, place, part }: Omit<Take, 'channels'>): string {
  const word = part === 'end' ? `${articulation}-end` : articulation;
  return `sounds/${word}_${noteName(key)}_l${layer + 1}_rr${take + 1}_${place}.wav`;
}

interface Written {
  layers: number;
  byVelocity: boolean;
  looped: boolean;
  rate: number;
  roots: readonly number[];
}

function sfzOf(takes: readonly Take[], { layers, byVelocity, looped, rate, roots }: Written): Uint8Array {
  const lines: string[] = [];
  const switches = [...new Set(takes.map(({ articulation }) => articulation))];
  const [from, to] = LOOP_SECONDS.map((seconds) => Math.round(seconds * rate));
  const edges =
    layers === 2
      ? [[40, 90]]
      : [
          [25, 55],
          [75, 110],
        ];
  for (const [n, articulation] of switches.entries()) {
    lines.push(`<global> ampeg_release=0.2`);
    lines.push(
      `<master> sw_lokey=0 sw_hikey=${switches.length - 1} sw_default=0 sw_last=${n} sw_label=${articulation}`,
    );
    for (const take of takes.filter((one) => one.articulation === articulation)) {
      const { key, layer } = take;
      const i = roots.indexOf(key);
      const high = i + 1 < roots.length ? Math.floor((key + roots[i + 1]) / 2) : key + 2;
      const lowKey = i > 0 ? Math.floor((key + roots[i - 1]) / 2) + 1 : key - 2;
      const words = [`sample=${fileOf(take)}`, `lokey=${lowKey} hikey=${high} pitch_keycenter=${key}`];
      if (take.part === 'end') words.push('trigger=release');
      else if (articulation === 'long')
        words.push(looped ? `loop_mode=loop_continuous loop_start=${from} loop_end=${to - 1}` : '');
      else words.push('loop_mode=one_shot');
      if (articulation === 'staccato') words.push(`seq_length=3 seq_position=${take.take + 1}`);
      if (articulation === 'long' && byVelocity)
        words.push(
          `lovel=${Math.round((127 * layer) / layers) + 1} hivel=${Math.round((127 * (layer + 1)) / layers)}`,
        );
      else if (articulation === 'long') {
        words.push('amp_veltrack=0');
        if (layer > 0) words.push(`xfin_locc1=${edges[layer - 1][0]} xfin_hicc1=${edges[layer - 1][1]}`);
        if (layer < layers - 1) words.push(`xfout_locc1=${edges[layer][0]} xfout_hicc1=${edges[layer][1]}`);
      }
      lines.push(`<region> ${words.join(' ')}`);
    }
  }
  return new TextEncoder().encode(lines.join('\n'));
}
