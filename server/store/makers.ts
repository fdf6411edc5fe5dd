import type { Meaning } from '#core/intake/index.ts';
import type { MiddleC } from '#core/music/index.ts';
import type { Store } from './database.ts';

/** How a maker names files of recordings. */
export interface NamesOfMaker {
  pattern: string;
  middleC: MiddleC;
}

/** What was decided for libraries of makers, so that the next one needs no correcting. Makers are told apart in small letters. */
export class RememberedMakers {
  constructor(private readonly store: Store) {}

  /** What words meant, by maker and word. */
  async words(studioId: string): Promise<Record<string, Record<string, Meaning>>> {
    const rows = (await this.store.models.rememberedWords.findAll({
      where: { studioId },
      raw: true,
    })) as unknown as { maker: string; word: string; meaning: string }[];
    const out: Record<string, Record<string, Meaning>> = {};
    for (const { maker, word, meaning } of rows) (out[maker] ??= {})[word] = JSON.parse(meaning) as Meaning;
    return out;
  }

  /** How names of files are made, by maker. */
  async names(studioId: string): Promise<Record<string, NamesOfMaker>> {
    const rows = (await this.store.models.rememberedNames.findAll({
      where: { studioId },
      raw: true,
    })) as unknown as (NamesOfMaker & { maker: string })[];
    return Object.fromEntries(rows.map(({ maker, pattern, middleC }) => [maker, { pattern, middleC }]));
  }

  /** Keeps what was decided; later decisions replace earlier ones. */
  async keep(
    studioId: string,
    maker: string,
    meanings: ReadonlyMap<string, Meaning>,
    names?: NamesOfMaker,
  ): Promise<void> {
    const known = { studioId, maker: maker.toLowerCase().slice(0, 120) };
    const rows = [...meanings].map(([word, meaning]) => ({
      ...known,
      word: word.slice(0, 440),
      meaning: JSON.stringify(meaning),
    }));
    for (let i = 0; i < rows.length; i += 1000)
      await this.store.models.rememberedWords.bulkCreate(rows.slice(i, i + 1000), {
        updateOnDuplicate: ['meaning'],
      });
    if (names)
      await this.store.models.rememberedNames.bulkCreate([{ ...known, ...names }], {
        updateOnDuplicate: ['pattern', 'middleC'],
      });
  }
}
