import type { Transaction } from 'sequelize';
import type { RecordKind } from '#api/index.ts';
import { FarloError } from '#core/errors/index.ts';
import {
  findAmbiguities,
  keymapOfRows,
  type EntryRow,
  type KeymapRow,
  type SourceRow,
  type TriggerRow,
} from '#core/keymap/index.ts';
import type { Store } from './database.ts';
import type { Done } from './change-rules.ts';

/**
 * Looks at every keymap that changes touched, as it stands after them: for every note it must say one thing. Two people
 * may each have made a change that was fine by itself.
 * @throws FarloError with the clash in its sentence; the transaction is to be given up
 */
export async function checkKeymaps(
  store: Store,
  done: readonly Done[],
  transaction: Transaction,
): Promise<void> {
  const rowsOf = async <T>(kind: RecordKind, where: Record<string, unknown>): Promise<T[]> =>
    (await store.models.records[kind].findAll({ where, raw: true, transaction })) as unknown as T[];
  const valueOf = ({ before, fields }: Done, name: string) => String(fields?.[name] ?? before?.[name] ?? '');
  const entryIds = new Set<string>();
  const keymapIds = new Set<string>();
  for (const one of done) {
    if (one.kind === 'source' || one.kind === 'trigger') entryIds.add(valueOf(one, 'entryId'));
    if (one.kind === 'entry') keymapIds.add(valueOf(one, 'keymapId'));
  }
  if (entryIds.size > 0)
    for (const { keymapId } of await rowsOf<EntryRow>('entry', { id: [...entryIds] }))
      keymapIds.add(keymapId);
  if (keymapIds.size === 0) return;
  const keymaps = await rowsOf<KeymapRow>('keymap', { id: [...keymapIds] });
  const entries = await rowsOf<EntryRow>('entry', { keymapId: [...keymapIds] });
  const ids = entries.map(({ id }) => id);
  const sources = groupBy(await rowsOf<SourceRow>('source', { entryId: ids }));
  const triggers = groupBy(await rowsOf<TriggerRow>('trigger', { entryId: ids }));
  for (const row of keymaps) {
    const keymap = keymapOfRows(
      row,
      entries.filter(({ keymapId }) => keymapId === row.id),
      (id) => sources.get(id) ?? [],
      (id) => triggers.get(id) ?? [],
    );
    const [clash] = findAmbiguities(keymap);
    if (clash)
      throw new FarloError('keymap.clash', `${row.name}: ${clash.sentence}`, {
        record: `entry ${clash.entryId}`,
      });
  }
}

function groupBy<T extends { entryId: string }>(rows: readonly T[]): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const row of rows) {
    const list = groups.get(row.entryId);
    if (list) list.push(row);
    else groups.set(row.entryId, [row]);
  }
  return groups;
}
