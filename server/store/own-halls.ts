import type { OwnHallInfo } from '#api/index.ts';
import type { Store } from './database.ts';

/** Halls of a studio's own: what is known of their impulse responses. */
export class OwnHalls {
  constructor(private readonly store: Store) {}

  async add(studioId: string, { remarks, name, ...rest }: OwnHallInfo): Promise<void> {
    await this.store.models.ownHalls.create({
      ...rest,
      studioId,
      name: name.slice(0, 200),
      remarks: JSON.stringify(remarks),
    });
  }

  async list(studioId: string): Promise<OwnHallInfo[]> {
    const rows = await this.store.models.ownHalls.findAll({
      where: { studioId },
      order: [['name', 'ASC']],
      raw: true,
    });
    return (rows as unknown as Record<string, unknown>[]).map(toInfo);
  }

  async get(id: string): Promise<(OwnHallInfo & { studioId: string }) | undefined> {
    const row = (await this.store.models.ownHalls.findByPk(id, { raw: true })) as unknown as Record<
      string,
      unknown
    > | null;
    return row ? { ...toInfo(row), studioId: String(row.studioId) } : undefined;
  }

  /** Names of templates that sound in a hall. */
  async usedIn(id: string, studioId: string): Promise<string[]> {
    const rows = await this.store.models.records.template.findAll({
      where: { studioId, hall: id },
      raw: true,
    });
    return (rows as unknown as { name: string }[]).map(({ name }) => name);
  }

  async remove(id: string): Promise<void> {
    await this.store.models.ownHalls.destroy({ where: { id } });
  }
}

function toInfo(row: Record<string, unknown>): OwnHallInfo {
  return {
    id: String(row.id),
    name: String(row.name),
    channels: Number(row.channels),
    frames: Number(row.frames),
    decaySeconds: Number(row.decaySeconds),
    remarks: JSON.parse(String(row.remarks)) as string[],
  };
}
