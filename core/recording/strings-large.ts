import { ENGINE_RATE, midiToHertz } from '../units/index.ts';
import { HARBOUR_HALL } from './hall.ts';
import { bowedWave, play, seatSection, type Gesture } from './players.ts';
import { Session, type StereoTake } from './session.ts';

/** Change this when the sound changes: libraries recorded by another recipe are recorded anew. */
export const STRINGS_LARGE_RECIPE = 'wrenlow-strings-large-4';

/** Names and facts of the invented library. */
export const STRINGS_LARGE = {
  slug: 'wrenlow-strings-large',
  library: 'Wrenlow Strings, large',
  maker: 'Wrenlow Sound',
  room: HARBOUR_HALL.name,
  instrument: 'Violins I',
  players: 10,
} as const;

const LOWEST = 55;
const HIGHEST = 94;
const LAYER_FORCE = [0.12, 0.5, 0.92];
const LAYER_AMPLITUDE = [0.22, 0.5, 1];
/** Gain on tape per layer, so that soft layers use the bits too; the SFZ takes it back. */
const LAYER_TAPE_DB = [10, 4, -2];
/** The whole library sits this much lower than its tape, so that one loud section leaves room for an orchestra. */
const TRIM_DB = -8;
const SHORT_FORCE = [0.3, 0.9];
const SHORT_TAPE_DB = [4, -2];
const LONG_SECONDS = 2.5;
const LOOP = { start: Math.round(0.9 * ENGINE_RATE), end: Math.round(2.4 * ENGINE_RATE) };
const LOOP_BLEND_FRAMES = Math.round(0.35 * ENGINE_RATE);
const TRANSITION_BEFORE = 0.16;
const TRANSITION_AFTER = 0.32;
/** Dynamics windows of three layers over controller 1: [in low, in high, out low, out high]. */
const LAYER_WINDOWS = [
  [0, 0, 24, 64],
  [24, 64, 76, 116],
  [76, 116, 127, 127],
];

type Kind = 'long' | 'staccato' | 'pizzicato' | 'tremolo' | 'transition' | 'release';

/** One thing the players are asked to play. */
export interface TakeOrder {
  kind: Kind;
  root: number;
  layer: number;
  take: number;
  vibrato: boolean;
  /** Transition: semitones from the old pitch to the root. */
  interval: number;
}

/** A finished take: every position, ready for 16 bits. */
export interface RecordedTake {
  order: TakeOrder;
  positions: Map<string, StereoTake>;
}

const LONG_ROOTS = range(56, 92, 4);
const PLUCKED_ROOTS = range(56, 84, 4);
const TRANSITION_ROOTS = range(57, 92, 5);

function range(from: number, to: number, step: number): number[] {
  return Array.from({ length: Math.floor((to - from) / step) + 1 }, (_, i) => from + i * step);
}

/** Everything there is to record, in the order in which it becomes useful. */
export function takeOrders(): TakeOrder[] {
  const orders: TakeOrder[] = [];
  const add = (order: Partial<TakeOrder> & { kind: Kind; root: number }) =>
    orders.push({ layer: 0, take: 0, vibrato: false, interval: 0, ...order });
  for (const vibrato of [true, false])
    for (const layer of [0, 1, 2]) for (const root of LONG_ROOTS) add({ kind: 'long', root, layer, vibrato });
  for (const layer of [0, 1, 2]) for (const root of LONG_ROOTS) add({ kind: 'release', root, layer });
  for (const layer of [0, 1])
    for (let take = 0; take < 4; take++)
      for (const root of LONG_ROOTS) add({ kind: 'staccato', root, layer, take });
  for (let take = 0; take < 3; take++)
    for (const root of PLUCKED_ROOTS) add({ kind: 'pizzicato', root, take });
  for (const layer of [0, 1]) for (const root of LONG_ROOTS) add({ kind: 'tremolo', root, layer });
  for (const root of TRANSITION_ROOTS)
    for (let interval = -12; interval <= 12; interval++)
      if (interval !== 0 && root - interval >= LOWEST && root - interval <= HIGHEST)
        add({ kind: 'transition', root, interval });
  return orders;
}

/** Path of a take's file for a position, below the library's folder. */
export function takeFile(order: TakeOrder, position: string): string {
  const parts = [order.kind, String(order.root)];
  if (order.kind === 'long') parts.push(order.vibrato ? 'vib' : 'plain');
  if (order.kind === 'transition')
    parts.push(`${order.interval > 0 ? 'up' : 'down'}${Math.abs(order.interval)}`);
  parts.push(`l${order.layer + 1}`, `t${order.take + 1}`);
  return `samples/${order.kind}/${parts.join('-')}-${position}.wav`;
}

const players = seatSection('Wrenlow violin', STRINGS_LARGE.players, { x: -2.2, y: 0.6, z: 1.15 });
let session: Session | undefined;

const smooth = (x: number) => (x <= 0 ? 0 : x >= 1 ? 1 : x * x * (3 - 2 * x));

interface Score {
  gesture: Gesture;
  force: number;
  tapeDb: number;
  /** Frames thrown away at the front: the players were already playing. */
  skipFrames: number;
  frames: number;
}

/** What is asked of each player for an order. */
function scoreOf(order: TakeOrder): Score {
  const toFrames = (time: number) => Math.round(time * ENGINE_RATE);
  switch (order.kind) {
    case 'long': {
      const amp = LAYER_AMPLITUDE[order.layer];
      const attack = [0.13, 0.09, 0.06][order.layer];
      return {
        gesture: {
          seconds: LONG_SECONDS,
          pitchCents: (t) => -12 * (1 - smooth(t / 0.08)),
          amplitude: (t) => amp * smooth(t / attack),
          noise: (t) => amp * (0.035 + 0.16 * Math.exp(-Math.max(0, t) / 0.05)) * smooth(t / 0.02),
          vibrato: order.vibrato ? 1 : 0.06,
        },
        force: LAYER_FORCE[order.layer],
        tapeDb: LAYER_TAPE_DB[order.layer],
        skipFrames: 0,
        frames: toFrames(LONG_SECONDS),
      };
    }
    case 'release': {
      const amp = LAYER_AMPLITUDE[order.layer];
      return {
        gesture: {
          seconds: 1.2,
          pitchCents: () => 0,
          amplitude: (t) => amp * (1 - smooth((t - 1) / 0.09)),
          noise: (t) => amp * 0.035 * (1 - smooth((t - 1) / 0.05)),
          vibrato: 0.5,
          vibratoSet: true,
        },
        force: LAYER_FORCE[order.layer],
        tapeDb: LAYER_TAPE_DB[order.layer],
        skipFrames: toFrames(1),
        frames: toFrames(1.4),
      };
    }
    case 'staccato': {
      const amp = [0.42, 1.05][order.layer];
      return {
        gesture: {
          seconds: 0.3,
          pitchCents: (t) => 8 * Math.exp(-Math.max(0, t) / 0.02),
          amplitude: (t) =>
            amp *
            smooth((t - 0.003) / 0.012) *
            (1 - 0.45 * smooth((t - 0.03) / 0.06)) *
            (1 - smooth((t - 0.1) / 0.07)),
          noise: (t) => amp * 0.5 * smooth(t / 0.004) * Math.exp(-Math.max(0, t) / 0.018),
          vibrato: 0,
        },
        force: SHORT_FORCE[order.layer],
        tapeDb: SHORT_TAPE_DB[order.layer],
        skipFrames: 0,
        frames: toFrames(0.9),
      };
    }
    case 'pizzicato':
      return {
        gesture: {
          seconds: 0.9,
          pitchCents: (t) => 14 * Math.exp(-Math.max(0, t) / 0.03),
          amplitude: (t) =>
            1.3 *
            smooth((t - 0.002) / 0.005) *
            Math.exp(-Math.max(0, t) / (0.16 * 2 ** ((62 - order.root) / 18))),
          noise: (t) => 0.8 * smooth(t / 0.002) * Math.exp(-Math.max(0, t) / 0.006),
          vibrato: 0,
        },
        force: 0.28,
        tapeDb: 3,
        skipFrames: 0,
        frames: toFrames(1),
      };
    case 'tremolo': {
      const amp = [0.35, 0.85][order.layer];
      return {
        gesture: {
          seconds: LONG_SECONDS,
          pitchCents: () => 0,
          // Strokes are laid over this by each player at her own speed.
          amplitude: (t) => amp * smooth(t / 0.05),
          noise: (t) => amp * 0.22 * smooth(t / 0.03),
          vibrato: 0,
        },
        force: SHORT_FORCE[order.layer],
        tapeDb: SHORT_TAPE_DB[order.layer],
        skipFrames: 0,
        frames: toFrames(LONG_SECONDS),
      };
    }
    case 'transition': {
      const amp = LAYER_AMPLITUDE[1];
      const before = 0.6;
      const wide = Math.abs(order.interval);
      const glide = 0.05 + 0.0012 * wide;
      const dip = wide > 4 ? 0.45 : 0.25;
      return {
        gesture: {
          seconds: before + TRANSITION_BEFORE + TRANSITION_AFTER,
          pitchCents: (t) =>
            -100 * order.interval * (1 - smooth((t - before - TRANSITION_BEFORE) / glide + 0.5)),
          amplitude: (t) =>
            amp * smooth(t / 0.09) * (1 - dip * Math.exp(-(((t - before - TRANSITION_BEFORE) / 0.028) ** 2))),
          noise: (t) => amp * (0.035 + 0.1 * Math.exp(-(((t - before - TRANSITION_BEFORE) / 0.02) ** 2))),
          vibrato: 0.35,
          vibratoSet: true,
        },
        force: LAYER_FORCE[1],
        tapeDb: LAYER_TAPE_DB[1],
        skipFrames: toFrames(before),
        frames: toFrames(TRANSITION_BEFORE + TRANSITION_AFTER),
      };
    }
  }
}

/** Records one order from all positions at once. Deterministic; allocates. */
export function recordTake(order: TakeOrder): RecordedTake {
  session ??= new Session(HARBOUR_HALL, players);
  const { gesture, force, tapeDb, skipFrames, frames } = scoreOf(order);
  const pitch = midiToHertz(order.root);
  const label = takeFile(order, 'x');
  const tape = 0.05 * 10 ** (tapeDb / 20);
  const played = players.map((player, i) => {
    const own =
      order.kind === 'tremolo' ? withStrokes(gesture, 10.5 + ((i * 7) % 10) * 0.28, i / 10) : gesture;
    const sound = play(player, bowedWave(player, pitch, force), pitch, own, label);
    for (let f = 0; f < sound.length; f++) sound[f] *= tape;
    return sound;
  });
  const takes = session.record(played, skipFrames + frames);
  const positions = new Map<string, StereoTake>();
  const looped = order.kind === 'long' || order.kind === 'tremolo';
  for (const [id, take] of takes)
    positions.set(id, {
      left: finish(take.left, skipFrames, looped),
      right: finish(take.right, skipFrames, looped),
    });
  return { order, positions };
}

/** The same gesture broken into bow strokes. */
function withStrokes(gesture: Gesture, strokesPerSecond: number, phase: number): Gesture {
  const stroke = (t: number) => Math.abs(Math.sin(Math.PI * (strokesPerSecond * t + phase)));
  return {
    ...gesture,
    amplitude: (t) => gesture.amplitude(t) * (0.3 + 0.75 * stroke(t)),
    noise: (t) => gesture.noise(t) * (1.3 - stroke(t)),
  };
}

/** Cuts the front off, blends the loop's seam (equal power) or fades the end. */
function finish(sound: Float32Array, skipFrames: number, looped: boolean): Float32Array {
  const out = sound.slice(skipFrames);
  if (looped) {
    for (let i = 0; i < LOOP_BLEND_FRAMES; i++) {
      const x = (i / LOOP_BLEND_FRAMES) * (Math.PI / 2);
      const at = LOOP.end - LOOP_BLEND_FRAMES + i;
      out[at] = Math.cos(x) * out[at] + Math.sin(x) * out[LOOP.start - LOOP_BLEND_FRAMES + i];
    }
    // Frames past the loop are never heard, but interpolation may look at them.
    for (let i = LOOP.end; i < out.length; i++)
      out[i] = out[LOOP.start + ((i - LOOP.end) % (LOOP.end - LOOP.start))];
    return out.subarray(0, LOOP.end + 64).slice();
  }
  const fade = Math.min(out.length, Math.round(0.25 * ENGINE_RATE));
  for (let i = 0; i < fade; i++) out[out.length - 1 - i] *= (i / fade) ** 2;
  return out;
}

/** Takes that make a first instrument within seconds: one layer of the long notes. */
export function previewOrders(): TakeOrder[] {
  return takeOrders().filter((order) => order.kind === 'long' && order.vibrato && order.layer === 1);
}

/** The SFZ text over the preview takes alone. */
export function stringsLargePreviewSfz(): string {
  const lines = [`// ${STRINGS_LARGE.library}: one layer, while the rest is being recorded`];
  for (const mic of HARBOUR_HALL.mics) {
    lines.push(
      `<master> master_label=${mic.name}`,
      `<group> sw_label=long amp_veltrack=0 ampeg_release=0.25 volume=${TRIM_DB - LAYER_TAPE_DB[1]} loop_mode=loop_continuous loop_start=${LOOP.start} loop_end=${LOOP.end - 1}`,
    );
    for (const order of previewOrders())
      lines.push(
        `<region> lokey=${order.root - 1} hikey=${order.root + 2} pitch_keycenter=${order.root} sample=${takeFile(order, mic.id)}`,
      );
  }
  return lines.join('\n') + '\n';
}

/** The SFZ text that turns the takes into an instrument: one master per position, one keyswitch per articulation. */
export function stringsLargeSfz(): string {
  const lines: string[] = [
    `// ${STRINGS_LARGE.library}: ${STRINGS_LARGE.instrument}, ${STRINGS_LARGE.players} players, ${STRINGS_LARGE.room}`,
    '<global> sw_lokey=24 sw_hikey=31 sw_default=24',
  ];
  const orders = takeOrders();
  for (const mic of HARBOUR_HALL.mics) {
    lines.push('', `<master> master_label=${mic.name}`);
    const at = (order: TakeOrder) => `sample=${takeFile(order, mic.id)}`;
    const ofKind = (kind: Kind) => orders.filter((order) => order.kind === kind);
    const spread = (order: TakeOrder) =>
      `lokey=${order.root - 1} hikey=${order.root + 2} pitch_keycenter=${order.root}`;
    const loop = `loop_mode=loop_continuous loop_start=${LOOP.start} loop_end=${LOOP.end - 1}`;
    const longs = (switchKey: number, label: string, trigger: string) => {
      for (const vibrato of [false, true])
        for (const layer of [0, 1, 2]) {
          lines.push(
            `<group> sw_last=${switchKey} sw_label=${label} trigger=${trigger} amp_veltrack=0 ampeg_release=0.25 ${loop}`,
            `  ${layerFades(layer)} ${vibrato ? 'xfin_locc77=8 xfin_hicc77=100' : 'xfout_locc77=8 xfout_hicc77=100'} volume=${TRIM_DB - LAYER_TAPE_DB[layer]}`,
          );
          for (const order of ofKind('long'))
            if (order.layer === layer && order.vibrato === vibrato)
              lines.push(`<region> ${spread(order)} ${at(order)}`);
        }
      for (const layer of [0, 1, 2]) {
        lines.push(
          `<group> sw_last=${switchKey} sw_label=${label} trigger=release amp_veltrack=0 ${layerFades(layer)} volume=${TRIM_DB - LAYER_TAPE_DB[layer]}`,
        );
        for (const order of ofKind('release'))
          if (order.layer === layer) lines.push(`<region> ${spread(order)} ${at(order)}`);
      }
    };
    longs(24, 'long', 'attack');
    longs(25, 'connected', 'first');
    lines.push(
      '<group> sw_last=25 sw_label=connected trigger=legato amp_veltrack=0 ampeg_release=0.2',
      `  volume=${TRIM_DB - LAYER_TAPE_DB[1] - 9.4} gain_cc1=17 cutoff=3200 fil_type=lpf_2p cutoff_cc1=3600`,
    );
    for (const order of ofKind('transition'))
      for (let key = order.root - 2; key <= order.root + 2; key++)
        if (
          key >= LOWEST &&
          key <= HIGHEST &&
          key - order.interval >= LOWEST &&
          key - order.interval <= HIGHEST
        )
          lines.push(
            `<region> key=${key} pitch_keycenter=${order.root} sw_previous=${key - order.interval} ${at(order)}`,
          );
    for (const layer of [0, 1]) {
      const velocities = layer === 0 ? 'lovel=1 hivel=79' : 'lovel=80 hivel=127';
      for (let take = 0; take < 4; take++) {
        lines.push(
          `<group> sw_last=26 sw_label=staccato loop_mode=one_shot seq_length=4 seq_position=${take + 1} ${velocities} amp_veltrack=${layer === 0 ? 55 : 80} volume=${TRIM_DB - SHORT_TAPE_DB[layer]}`,
        );
        for (const order of ofKind('staccato'))
          if (order.layer === layer && order.take === take)
            lines.push(`<region> ${spread(order)} ${at(order)}`);
      }
    }
    for (let take = 0; take < 3; take++) {
      lines.push(
        `<group> sw_last=27 sw_label=pizzicato loop_mode=one_shot seq_length=3 seq_position=${take + 1} amp_veltrack=90 volume=${TRIM_DB - 3}`,
      );
      for (const order of ofKind('pizzicato'))
        if (order.take === take) lines.push(`<region> ${spread(order)} ${at(order)}`);
    }
    for (const layer of [0, 1]) {
      lines.push(
        `<group> sw_last=28 sw_label=tremolo amp_veltrack=0 ampeg_release=0.3 ${loop}`,
        `  ${layer === 0 ? 'xfout_locc1=40 xfout_hicc1=100' : 'xfin_locc1=40 xfin_hicc1=100'} volume=${TRIM_DB - SHORT_TAPE_DB[layer]}`,
      );
      for (const order of ofKind('tremolo'))
        if (order.layer === layer) lines.push(`<region> ${spread(order)} ${at(order)}`);
    }
  }
  return lines.join('\n') + '\n';
}

function layerFades(layer: number): string {
  const [inLow, inHigh, outLow, outHigh] = LAYER_WINDOWS[layer];
  const parts: string[] = [];
  if (layer > 0) parts.push(`xfin_locc1=${inLow} xfin_hicc1=${inHigh}`);
  if (layer < 2) parts.push(`xfout_locc1=${outLow} xfout_hicc1=${outHigh}`);
  return parts.join(' ');
}
