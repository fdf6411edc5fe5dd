import type { ReferenceInfo } from '#api/index.ts';
import type { Store } from './database.ts';

/** Recordings that sounds are held against. */
export class References {
  constructor(private readonly store: Store) {}

  async add(studioId: string, { id, name, frames, rate, outline }: ReferenceInfo): Promise<void> {
    await this.store.models.references.create({
      id,
      studioId,
      name: name.slice(0, 200),
      frames,
      rate,
      outline: JSON.stringify(outline),
    });
  }

  async list(studioId: string): Promise<ReferenceInfo[]> {
    const rows = await this.store.models.references.findAll({
      where: { studioId },
      order: [['name', 'ASC']],
      raw: true,
    });
    return (rows as unknown as Record<string, unknown>[]).map(toInfo);
  }

  async get(id: string): Promise<(ReferenceInfo & { studioId: string }) | undefined> {
    const row = (await this.store.models.references.findByPk(id, { raw: true })) as unknown as Record<
      string,
      unknown
    > | null;
    return row ? { ...toInfo(row), studioId: String(row.studioId) } : undefined;
  }

  async remove(id: string): Promise<void> {
    await this.store.models.references.destroy({ where: { id } });
  }
}

function toInfo(row: Record<string, unknown>): ReferenceInfo {
  return {
    id: String(row.id),
    name: String(row.name),
    frames: Number(row.frames),
    rate: Number(row.rate),
    outline: JSON.parse(String(row.outline)) as number[],
  };
}
