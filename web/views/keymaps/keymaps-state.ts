import { create } from 'zustand';
import type { Clash } from '#core/keymap/index.ts';
import type { Edit } from '../../state/diff.ts';

/** What stands in the side pane beside the chosen articulation. */
export type Beside = 'entry' | 'rules' | 'controllers' | 'words' | 'compare' | 'along' | 'history';

interface KeymapsState {
  /** Entry whose triggers and sources the side pane shows. */
  entryId: string | undefined;
  beside: Beside;
  /** An edit that was not made, with what stands against it and a way to make it together with a repair. */
  refused:
    | { keymapId: string; clashes: readonly Clash[]; withRepair: (repairs: readonly Edit[]) => boolean }
    | undefined;
  /** Entry that the next key played is given to. */
  learning: string | undefined;
  search: string;
}

/** What is chosen in Keymaps; no part of any document. */
export const useKeymaps = create<KeymapsState>(() => ({
  entryId: undefined,
  beside: 'entry',
  refused: undefined,
  learning: undefined,
  search: '',
}));

/** Shows what stands against an edit, or that nothing does. */
export function refuse(
  keymapId: string,
  clashes: readonly Clash[],
  withRepair: (repairs: readonly Edit[]) => boolean,
): void {
  useKeymaps.setState({ refused: clashes.length > 0 ? { keymapId, clashes, withRepair } : undefined });
}

export function choose(entryId: string | undefined): void {
  useKeymaps.setState({ entryId, beside: 'entry' });
}
