import { hear, stopListening, useListening } from '../../sound/listening.ts';
import { useListen } from './listen-state.ts';
import type { PhraseRow } from './rows.ts';

/** Plays a cell; what sounds of the same phrase is changed over at the same place. */
export function hearCell(row: PhraseRow, column: number): void {
  const order = row.cells[column];
  if (!order) return;
  const { matched, repeat, blind } = useListen.getState();
  const set = row.cells.filter((one) => one !== undefined);
  void hear(set, set.indexOf(order), { matched: matched || blind !== undefined, repeat });
}

/** Plays a cell, or ends it when it is the one that sounds. */
export function toggleCell(row: PhraseRow, column: number): void {
  const name = row.cells[column]?.name;
  const { sounding, waiting } = useListening.getState();
  if (name !== undefined && (sounding === name || waiting === name)) stopListening();
  else hearCell(row, column);
}

/** True while something is heard or about to be. */
export function isListening(): boolean {
  const { sounding, waiting } = useListening.getState();
  return sounding !== undefined || waiting !== undefined;
}
