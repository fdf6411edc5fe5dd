import type { Meaning } from '#core/intake/index.ts';
import type { Store } from './database.ts';

/** What the words of makers meant when their libraries were taken in, so that the next one needs no correcting. */
export class RememberedWords {
  constructor(private readonly store: Store) {}

  /** Meanings by word, of one maker of a studio. */
  async of(studioId: string, maker: string): Promise<Map<string, Meaning>> {
    return new Map(Object.entries((await this.all(studioId))[maker.toLowerCase()] ?? {}));
  }

  /** Meanings by maker and word. */
  async all(studioId: string): Promise<Record<string, Record<string, Meaning>>> {
    const rows = (await this.store.models.rememberedWords.findAll({
      where: { studioId },
      raw: true,
    })) as unknown as { maker: string; word: string; meaning: string }[];
    const out: Record<string, Record<string, Meaning>> = {};
    for (const { maker, word, meaning } of rows) (out[maker] ??= {})[word] = JSON.parse(meaning) as Meaning;
    return out;
  }

  /** Keeps what was decided; later decisions replace earlier ones. */
  async keep(studioId: string, maker: string, meanings: ReadonlyMap<string, Meaning>): Promise<void> {
    const rows = [...meanings].map(([word, meaning]) => ({
      studioId,
      maker: maker.toLowerCase().slice(0, 120),
      word: word.slice(0, 440),
      meaning: JSON.stringify(meaning),
    }));
    for (let i = 0; i < rows.length; i += 1000)
      await this.store.models.rememberedWords.bulkCreate(rows.slice(i, i + 1000), {
        updateOnDuplicate: ['meaning'],
      });
  }
}
