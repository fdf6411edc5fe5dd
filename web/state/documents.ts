import { toast } from 'sonner';
import { create } from 'zustand';
import {
  DOCUMENT_KINDS,
  RECORD_KINDS,
  type DocumentKind,
  type RecordFields,
  type RecordKind,
} from '#api/index.ts';
import { applyDeltas, deltasOf, inverse, squash, type Delta, type Edit, type Records } from './diff.ts';
import { DocumentSync, type SaveState } from './sync.ts';

/** A record of a kind as views read it. */
export type Item<K extends RecordKind> = Readonly<RecordFields<K>> & { readonly id: string };

interface Step {
  label: string;
  deltas: Delta[];
  at: number;
  merge: string | undefined;
}

interface DocumentsState {
  records: Records;
  templateId: string | undefined;
  cueId: string | undefined;
  shelfId: string | undefined;
  save: SaveState;
  undoLabel: string | undefined;
  redoLabel: string | undefined;
  openTemplate(id: string): Promise<void>;
  openCue(id: string): Promise<void>;
  openShelf(id: string): Promise<void>;
}

const MERGE_MS = 500;
const MOST_STEPS = 300;

const syncs: Partial<Record<DocumentKind, DocumentSync>> = {};
const documentRecords: Record<DocumentKind, Records> = { template: {}, cue: {}, shelf: {} };
let undoStack: Step[] = [];
let redoStack: Step[] = [];
/** Edits inside a gesture are shown at once and sent as one when it ends. */
let gesture: { label: string; deltas: Delta[] } | undefined;

/** The open template and cue and the studio's shelf, merged into one set of tables: kinds never overlap. */
export const useDocuments = create<DocumentsState>(() => ({
  records: {},
  templateId: undefined,
  cueId: undefined,
  shelfId: undefined,
  save: { kind: 'saved', at: 0 },
  undoLabel: undefined,
  redoLabel: undefined,
  openTemplate: (id) => open('template', id),
  openCue: (id) => open('cue', id),
  openShelf: (id) => open('shelf', id),
}));

async function open(kind: DocumentKind, id: string): Promise<void> {
  syncs[kind]?.close();
  documentRecords[kind] = {};
  undoStack = [];
  redoStack = [];
  syncs[kind] = await DocumentSync.open(kind, id, {
    onRecords: (records) => {
      documentRecords[kind] = records;
      // An edit inside a gesture is not yet in the queue: keep it on top.
      const merged = { ...documentRecords.template, ...documentRecords.cue, ...documentRecords.shelf };
      useDocuments.setState({ records: gesture ? applyDeltas(merged, gesture.deltas) : merged });
    },
    onState: (save) => useDocuments.setState({ save }),
    onNews: (sentence) => toast(sentence, { duration: 8000 }),
  });
  useDocuments.setState({
    [`${kind}Id`]: id,
    undoLabel: undefined,
    redoLabel: undefined,
  });
}

/** Puts deltas in place and on their way, document by document. */
function commit(label: string, deltas: Delta[], alreadyShown: boolean): void {
  for (const kind of DOCUMENT_KINDS) {
    const own = deltas.filter((delta) => RECORD_KINDS[delta.kind].document === kind);
    if (own.length === 0) continue;
    documentRecords[kind] = applyDeltas(documentRecords[kind], own);
    syncs[kind]?.push(label, own);
  }
  if (!alreadyShown) useDocuments.setState(({ records }) => ({ records: applyDeltas(records, deltas) }));
}

function labels(): void {
  useDocuments.setState({ undoLabel: undoStack.at(-1)?.label, redoLabel: redoStack.at(-1)?.label });
}

/**
 * Makes an edit: shown at once, sent, undoable.
 * @param merge edits of the same name within half a second become one step of undo
 */
export function edit(label: string, edits: readonly Edit[], merge?: string): void {
  const deltas = deltasOf(useDocuments.getState().records, edits);
  if (deltas.length === 0) return;
  if (gesture) {
    gesture.deltas = squash([...gesture.deltas, ...deltas]);
    useDocuments.setState(({ records }) => ({ records: applyDeltas(records, deltas) }));
    return;
  }
  commit(label, deltas, false);
  const last = undoStack.at(-1);
  const now = Date.now();
  if (merge && last?.merge === merge && now - last.at < MERGE_MS) {
    undoStack[undoStack.length - 1] = { ...last, deltas: squash([...last.deltas, ...deltas]), at: now };
  } else undoStack = [...undoStack.slice(-MOST_STEPS), { label, deltas, at: now, merge }];
  redoStack = [];
  labels();
}

/** Begins a gesture: what is edited until `endGesture` is one step, sent at its end. */
export function beginGesture(label: string): void {
  gesture ??= { label, deltas: [] };
}

/** Ends a gesture; `keep` false falls back to how it was. */
export function endGesture(keep = true): void {
  const done = gesture;
  gesture = undefined;
  if (!done || done.deltas.length === 0) return;
  if (!keep) {
    useDocuments.setState(({ records }) => ({ records: applyDeltas(records, inverse(done.deltas)) }));
    return;
  }
  commit(done.label, done.deltas, true);
  undoStack = [...undoStack.slice(-MOST_STEPS), { ...done, at: 0, merge: undefined }];
  redoStack = [];
  labels();
}

function replay(step: Step, backwards: boolean): boolean {
  const wanted = backwards ? inverse(step.deltas) : step.deltas;
  const { records } = useDocuments.getState();
  // Only what still stands as this step left it can be taken back; a colleague may have removed it.
  const deltas = squash(
    wanted.filter(({ kind, id, before, after }) =>
      before === null ? after !== null : records[kind]?.[id] !== undefined,
    ),
  );
  if (deltas.length === 0) return false;
  const onTop = deltas.map((delta) => ({ ...delta, before: records[delta.kind]?.[delta.id] ?? null }));
  commit(`${backwards ? 'Undo' : 'Redo'}: ${step.label}`, onTop, false);
  return true;
}

/** Takes the last step back. */
export function undo(): void {
  const step = undoStack.at(-1);
  if (!step || gesture) return;
  undoStack = undoStack.slice(0, -1);
  if (replay(step, true)) redoStack = [...redoStack, step];
  else toast(`“${step.label}” cannot be taken back: someone has removed it since.`);
  labels();
}

/** Makes the last step taken back again. */
export function redo(): void {
  const step = redoStack.at(-1);
  if (!step || gesture) return;
  redoStack = redoStack.slice(0, -1);
  if (replay(step, false)) undoStack = [...undoStack, step];
  labels();
}

const EMPTY: readonly never[] = [];
const tableCache = new WeakMap<object, unknown[]>();

/** All records of a kind as a list; the same list as long as nothing of the kind changes. */
export function listOf<K extends RecordKind>(records: Records, kind: K): readonly Item<K>[] {
  const table = records[kind];
  if (!table) return EMPTY;
  let list = tableCache.get(table) as Item<K>[] | undefined;
  if (!list) tableCache.set(table, (list = Object.values(table) as unknown as Item<K>[]));
  return list;
}

/** Hook: the list of a kind. */
export function useList<K extends RecordKind>(kind: K): readonly Item<K>[] {
  return useDocuments((state) => listOf(state.records, kind));
}

/** Hook: one record. */
export function useItem<K extends RecordKind>(kind: K, id: string | undefined): Item<K> | undefined {
  return useDocuments((state) =>
    id === undefined ? undefined : (state.records[kind]?.[id] as unknown as Item<K> | undefined),
  );
}
