import type { ArticulationId } from '../music/index.ts';
import type { Keymap } from './keymap.ts';

/** A keymap as one voice among those of the house. A variant is meant to differ from what it departs from. */
export interface Voice {
  keymap: Keymap;
  variantOf: string;
}

/** On which keys the keymaps of a house have each articulation. */
export class Agreement {
  private readonly votes = new Map<ArticulationId, Map<number, Voice[]>>();

  constructor(voices: Iterable<Voice>) {
    for (const voice of voices)
      for (const { articulation, triggers } of voice.keymap.entries)
        for (const { kind, number } of triggers) {
          if (kind !== 'key') continue;
          let keys = this.votes.get(articulation);
          if (!keys) this.votes.set(articulation, (keys = new Map()));
          const list = keys.get(number);
          if (list) list.push(voice);
          else keys.set(number, [voice]);
        }
  }

  /**
   * The key that most other keymaps have each of a keymap's articulations on, with the names of some of them. Where as
   * many are on one key as on another, the keymap's own goes first, then the lower one.
   */
  elsewhere({ keymap, variantOf }: Voice): Map<ArticulationId, { key: number; where: string }> {
    const found = new Map<ArticulationId, { key: number; where: string }>();
    const isOther = (voice: Voice) =>
      voice.keymap.id !== keymap.id && voice.variantOf !== keymap.id && voice.keymap.id !== variantOf;
    for (const { articulation, triggers } of keymap.entries) {
      const own = new Set(triggers.flatMap(({ kind, number }) => (kind === 'key' ? [number] : [])));
      let best: { key: number; others: Voice[] } | undefined;
      for (const [key, voices] of this.votes.get(articulation) ?? []) {
        const others = voices.filter(isOther);
        if (others.length === 0) continue;
        const more = others.length - (best?.others.length ?? 0);
        const nearer = best && Number(own.has(key)) - Number(own.has(best.key));
        if (!best || more > 0 || (more === 0 && (nearer || best.key - key) > 0)) best = { key, others };
      }
      if (best)
        found.set(articulation, {
          key: best.key,
          where: best.others
            .slice(0, MOST_NAMES)
            .map((voice) => voice.keymap.name)
            .join(', '),
        });
    }
    return found;
  }
}

const MOST_NAMES = 3;
