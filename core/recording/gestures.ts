import type { Performance, LayerPlan, Strand } from './plan.ts';

/** How players shape notes: each function gives a performance for a technique. Times are seconds. */

const smooth = (x: number) => (x <= 0 ? 0 : x >= 1 ? 1 : x * x * (3 - 2 * x));

/** A tone that settles in a millisecond or two of speed: how noisy its beginning is, how slowly it grows. */
export interface Speech {
  /** Time to full tone at the softest and at the loudest. */
  attackSeconds: readonly [number, number];
  /** Noise of bow or breath while held and at the beginning, as a share of the tone. */
  noise: number;
  chiff: number;
  /** Cents the pitch starts below. */
  scoop: number;
  vibrato: number;
}

const attackOf = (speech: Speech, layer: LayerPlan) =>
  speech.attackSeconds[0] + (speech.attackSeconds[1] - speech.attackSeconds[0]) * layer.force;

/** A held note. */
export function held(speech: Speech, seconds: number): Performance {
  return (order, layer) => {
    const { amplitude: amp } = layer;
    const attack = attackOf(speech, layer);
    return [
      {
        force: layer.force,
        gesture: {
          seconds,
          pitchCents: (t) => -speech.scoop * (1 - smooth(t / 0.08)),
          amplitude: (t) => amp * smooth(t / attack),
          noise: (t) =>
            amp * (speech.noise + speech.chiff * Math.exp(-Math.max(0, t) / 0.05)) * smooth(t / 0.02),
          vibrato: order.vibrato ? 1 : speech.vibrato,
        },
      },
    ];
  };
}

/** The end of a note that was held for a second. */
export const RELEASE_AT = 1;
export function letGo(speech: Speech, fallSeconds: number): Performance {
  return (_order, layer) => [
    {
      force: layer.force,
      gesture: {
        seconds: RELEASE_AT + fallSeconds + 0.05,
        pitchCents: () => 0,
        amplitude: (t) => layer.amplitude * (1 - smooth((t - RELEASE_AT) / fallSeconds)),
        noise: (t) => layer.amplitude * speech.noise * (1 - smooth((t - RELEASE_AT) / 0.05)),
        vibrato: 0.5,
        vibratoSet: true,
      },
    },
  ];
}

/** A short note: speaks at once, holds, falls. @param late seconds a take is late on purpose */
export function short(
  holdSeconds: number,
  fallSeconds: number,
  noise: number,
  late: (take: number, root: number) => number = () => 0,
): Performance {
  return (order, layer) => {
    const { amplitude: amp } = layer;
    const by = late(order.take, order.root);
    return [
      {
        force: layer.force,
        gesture: {
          seconds: by + holdSeconds + fallSeconds + 0.15,
          pitchCents: (t) => 8 * Math.exp(-Math.max(0, t - by) / 0.02),
          amplitude: (t) =>
            amp *
            smooth((t - by - 0.003) / 0.012) *
            (1 - 0.4 * smooth((t - by - 0.03) / 0.06)) *
            (1 - smooth((t - by - holdSeconds) / fallSeconds)),
          noise: (t) => (t < by ? 0 : amp * noise * smooth((t - by) / 0.004) * Math.exp(-(t - by) / 0.018)),
          vibrato: 0,
        },
      },
    ];
  };
}

/** A string pulled by a finger. @param snap noise of a string that hits the wood */
export function pulled(decaySeconds: number, snap: number, referenceKey: number): Performance {
  return (order, layer) => [
    {
      force: layer.force,
      gesture: {
        seconds: 0.75,
        pitchCents: (t) => 14 * Math.exp(-Math.max(0, t) / 0.03),
        amplitude: (t) =>
          1.3 *
          layer.amplitude *
          smooth((t - 0.002) / 0.005) *
          Math.exp(-Math.max(0, t) / (decaySeconds * 2 ** ((referenceKey - order.root) / 18))),
        noise: (t) =>
          layer.amplitude * (0.8 * smooth(t / 0.002) * Math.exp(-Math.max(0, t) / 0.006) + snap * slap(t)),
        vibrato: 0,
      },
    },
  ];
}

const slap = (t: number) => smooth((t - 0.001) / 0.002) * Math.exp(-Math.max(0, t) / 0.014);

/** The wood of the bow falling on the string: mostly noise, a trace of the pitch. */
export const wood: Performance = (_order, layer) => [
  {
    force: layer.force,
    gesture: {
      seconds: 0.3,
      pitchCents: () => 0,
      amplitude: (t) => 0.35 * layer.amplitude * smooth(t / 0.003) * Math.exp(-Math.max(0, t) / 0.035),
      noise: (t) => 1.4 * layer.amplitude * smooth(t / 0.0015) * Math.exp(-Math.max(0, t) / 0.01),
      vibrato: 0,
    },
  },
];

/** A held note broken into strokes, each player at a speed of their own. */
export function strokes(speech: Speech, seconds: number, perSecond: number): Performance {
  const base = held(speech, seconds);
  return (order, layer, player) =>
    base(order, layer, player).map(({ force, gesture }) => {
      const speed = perSecond + ((player * 7) % 10) * 0.28;
      const stroke = (t: number) => Math.abs(Math.sin(Math.PI * (speed * t + player / 10)));
      return {
        force,
        gesture: {
          ...gesture,
          vibrato: 0,
          amplitude: (t) => gesture.amplitude(t) * (0.3 + 0.75 * stroke(t)),
          noise: (t) => 5 * gesture.noise(t) * (1.3 - stroke(t)),
        },
      };
    });
}

/** A trill to `cents` above, each player at a speed of their own. */
export function trill(speech: Speech, seconds: number, cents: number): Performance {
  const base = held(speech, seconds);
  return (order, layer, player) =>
    base(order, layer, player).map(({ force, gesture }) => {
      const speed = 6.2 + ((player * 5) % 7) * 0.22;
      const up = (t: number) => smooth(0.5 + 3 * Math.sin(2 * Math.PI * (speed * t + player * 0.13)));
      return {
        force,
        gesture: { ...gesture, vibrato: 0, pitchCents: (t) => cents * (t < 0.08 ? 0 : up(t)) },
      };
    });
}

/** A note with a hard beginning that falls back. */
export function accented(speech: Speech, seconds: number): Performance {
  return (order, layer, player) => {
    const [soft] = held(speech, seconds)(order, layer, player);
    const burst = (t: number) => Math.exp(-Math.max(0, t) / 0.14);
    return [
      {
        force: layer.force,
        gesture: {
          ...soft.gesture,
          amplitude: (t) => layer.amplitude * smooth(t / 0.012) * (0.45 + 0.75 * burst(t)),
          noise: (t) => layer.amplitude * (speech.noise + 0.5 * Math.exp(-Math.max(0, t) / 0.02)),
        },
      },
    ];
  };
}

/** A recorded change of loudness: soft and loud tone blended along a path 0…1 over the note's length. */
export function changing(speech: Speech, seconds: number, path: (share: number) => number): Performance {
  return (): Strand[] => {
    const at = (t: number) => Math.min(1, Math.max(0, path(Math.min(1, Math.max(0, t / seconds)))));
    const end = (t: number) => 1 - smooth((t - seconds) / 0.12);
    const strand = (force: number, level: (x: number) => number): Strand => ({
      force,
      gesture: {
        seconds: seconds + 0.2,
        pitchCents: () => 0,
        amplitude: (t) => level(at(t)) * smooth(t / 0.06) * end(t),
        noise: (t) => speech.noise * level(at(t)) * smooth(t / 0.06) * end(t),
        vibrato: 0.6,
      },
    });
    return [strand(0.12, (x) => 0.22 * (1 - x)), strand(0.9, (x) => x * (0.08 + 0.92 * x))];
  };
}

export const SWELL = (x: number) => Math.sin(Math.PI * x) ** 1.5;
export const GROW = (x: number) => x ** 1.3;
export const FADE = (x: number) => (1 - x) ** 1.3;

/** Seconds the old pitch is held before what is kept begins. */
export const MOVE_HELD = 0.3;

/**
 * A move from one pitch to another. @param glide seconds it takes, narrow and per semitone
 * @param dip how far the tone falls back in the middle, 0…1
 */
export function moving(
  speech: Speech,
  beforeSeconds: number,
  afterSeconds: number,
  glide: readonly [number, number],
  dip: number,
  late: (interval: number) => number = () => 0,
): Performance {
  return (order, layer) => {
    const { amplitude: amp } = layer;
    const wide = Math.abs(order.interval);
    const at = MOVE_HELD + beforeSeconds + late(order.interval);
    const length = glide[0] + glide[1] * wide;
    const depth = wide > 4 ? Math.min(0.9, dip * 1.7) : dip;
    return [
      {
        force: layer.force,
        gesture: {
          seconds: MOVE_HELD + beforeSeconds + afterSeconds + late(order.interval),
          pitchCents: (t) => -100 * order.interval * (1 - smooth((t - at) / length + 0.5)),
          amplitude: (t) => amp * smooth(t / 0.09) * (1 - depth * Math.exp(-(((t - at) / 0.028) ** 2))),
          noise: (t) => amp * (speech.noise + 0.1 * Math.exp(-(((t - at) / 0.02) ** 2))),
          vibrato: 0.35,
          vibratoSet: true,
        },
      },
    ];
  };
}
