import type { LibraryFacts } from '../catalogue/index.ts';
import { Random } from '../dsp/index.ts';
import { midiToHertz } from '../units/index.ts';

/** Change this when the sound changes. */
export const BELLS_RECIPE = 'lamp-room-bells-2';

export const BELLS_FACTS: LibraryFacts = {
  players: '1',
  roomSound: 'dry',
  edition: '',
  price: null,
  text: 'Hand bells from the lamp room, recorded by the studio itself.',
};

/** A small library of somebody's own recordings: mono, 44.1 kHz, 24 bits, plain SFZ. */
export const BELLS = {
  slug: 'lamp-room-bells',
  library: 'Lamp Room Bells',
  maker: 'Saltglass Music',
  room: 'Lamp room',
  instrument: 'Lamp bells',
} as const;
export const BELLS_RATE = 44100;

const ROOTS = [60, 66, 72, 78, 84, 90];
const SECONDS = 1.8;
/** Partials of a small hand bell against its strike note, with level and decay in seconds. */
const PARTIALS = [
  { ratio: 0.5, level: 0.25, decay: 1.1 },
  { ratio: 1, level: 1, decay: 0.75 },
  { ratio: 1.19, level: 0.32, decay: 0.5 },
  { ratio: 1.5, level: 0.16, decay: 0.42 },
  { ratio: 2, level: 0.5, decay: 0.38 },
  { ratio: 2.74, level: 0.22, decay: 0.22 },
  { ratio: 4.07, level: 0.14, decay: 0.12 },
];

/** The recordings: file name below the library's folder, and mono sound. Deterministic. */
export function bellTakes(): { file: string; sound: Float32Array }[] {
  return ROOTS.flatMap((root) =>
    ['soft', 'hard'].map((touch) => ({ file: bellFile(root, touch), sound: strike(root, touch === 'hard') })),
  );
}

const bellFile = (root: number, touch: string) => `bells/${root} ${touch}.wav`;

function strike(root: number, hard: boolean): Float32Array {
  const random = new Random(`bell ${root} ${hard}`);
  const out = new Float32Array(Math.round(SECONDS * BELLS_RATE));
  const pitch = midiToHertz(root);
  for (const { ratio, level, decay } of PARTIALS) {
    const hz = pitch * ratio * (1 + random.normal() * 0.0015);
    if (hz > BELLS_RATE * 0.45) continue;
    const phase = random.next() * 6.283;
    const weight = level * (hard ? 1 : ratio > 1.4 ? 0.4 : 0.8) * 0.3;
    for (let i = 0; i < out.length; i++) {
      const t = i / BELLS_RATE;
      out[i] +=
        weight * Math.min(1, t / 0.0015) * Math.exp(-t / decay) * Math.sin(6.283185307 * hz * t + phase);
    }
  }
  const fade = Math.round(0.2 * BELLS_RATE);
  for (let i = 0; i < fade; i++) out[out.length - 1 - i] *= i / fade;
  return out;
}

/** Plain SFZ over the recordings. */
export function bellsSfz(): string {
  const lines = [
    `// ${BELLS.library}`,
    '<control> default_path=bells/',
    '<global> loop_mode=one_shot amp_veltrack=85 group_label=struck',
  ];
  for (const touch of ['soft', 'hard']) {
    lines.push(`<group> ${touch === 'soft' ? 'lovel=1 hivel=84' : 'lovel=85 hivel=127'}`);
    for (const root of ROOTS)
      lines.push(
        `<region> sample=${root} ${touch}.wav pitch_keycenter=${root} lokey=${root - 3} hikey=${root + 2}`,
      );
  }
  return lines.join('\n') + '\n';
}
