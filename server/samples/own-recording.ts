import type { FoundZone } from '#core/formats/index.ts';
import type { LooseFile } from './scan.ts';

/** How the user set up a recording of their own. */
export interface OwnRecording {
  rootKey: number;
  /** Cents the recording lies above its root. */
  cents: number;
  keyLow: number;
  keyHigh: number;
  /** Frames [start, end), or none. */
  loop: { start: number; end: number } | null;
  articulation: string;
}

/** The one zone of a recording that follows in pitch across its keys. */
export function ownRecording(file: LooseFile, set: OwnRecording, instrument: string): FoundZone[] {
  const { loop, keyLow, keyHigh, rootKey, cents } = set;
  const { frames, rate } = file.facts;
  const fits = loop && loop.start >= 0 && loop.end > loop.start && loop.end <= frames;
  return [
    {
      sample: file.path,
      instrument,
      rate,
      words: [{ kind: 'group label', text: set.articulation }],
      zone: {
        role: 'attack',
        keyLow: Math.max(0, Math.min(keyLow, keyHigh)),
        keyHigh: Math.min(127, Math.max(keyLow, keyHigh)),
        rootKey,
        velocityLow: 1,
        velocityHigh: 127,
        fades: [],
        modulations: [],
        take: 0,
        takes: 1,
        tuneCents: Math.round(-cents * 10) / 10,
        gainDb: 0,
        velocityTrack: 0.8,
        startFrame: 0,
        oneShot: false,
        envelope: { attackSeconds: 0, holdSeconds: 0, decaySeconds: 0, sustain: 1, releaseSeconds: 0.2 },
        ...(fits ? { loop: { start: loop.start, end: loop.end } } : {}),
      },
    },
  ];
}
