import { toast } from 'sonner';
import { create } from 'zustand';
import {
  DOCUMENT_KINDS,
  RECORD_KINDS,
  REFERENCES,
  type DocumentKind,
  type RecordFields,
  type RecordKind,
  type StreamEvent,
} from '#api/index.ts';
import { deltasOf, differs, inverse, keyOf, replayOf, squash, type Delta, type Edit } from './diff.ts';
import type { AsideEdit } from './outbox.ts';
import { DocumentSync, type SaveState } from './sync.ts';
import { applyDeltas, recordOf, Table, type Records } from './tables.ts';
import { UndoStacks, type Step } from './undo.ts';

/** A record of a kind as views read it. */
export type Item<K extends RecordKind> = Readonly<RecordFields<K>> & { readonly id: string };

/** An edit that was set aside, with the document it belongs to. */
export type SetAside = AsideEdit & { document: DocumentKind };

interface DocumentsState {
  records: Records;
  templateId: string | undefined;
  cueId: string | undefined;
  shelfId: string | undefined;
  houseId: string | undefined;
  /** Each open document says its own state. */
  saves: Partial<Record<DocumentKind, SaveState>>;
  /** Patches each open document has had. */
  revisions: Partial<Record<DocumentKind, number>>;
  aside: readonly SetAside[];
  undoLabel: string | undefined;
  redoLabel: string | undefined;
}

const syncs: Partial<Record<DocumentKind, DocumentSync>> = {};
/** Documents that were left while edits of theirs still waited, by id. */
const retired = new Map<string, DocumentSync>();
const allSyncs = () => [...Object.values(syncs), ...retired.values()];
const stacks = new UndoStacks();
/** Edits inside a gesture are shown at once and sent as one when it ends. */
let gesture: { label: string; deltas: Map<string, Delta> } | undefined;

/** The open template and cue, the studio's shelf and its house, merged into one set of tables: kinds never overlap. */
export const useDocuments = create<DocumentsState>(() => ({
  records: {},
  templateId: undefined,
  cueId: undefined,
  shelfId: undefined,
  houseId: undefined,
  saves: {},
  revisions: {},
  aside: [],
  undoLabel: undefined,
  redoLabel: undefined,
}));

const documentOf = (kind: RecordKind): DocumentKind => RECORD_KINDS[kind].document;
const lookup = (kind: RecordKind, id: string) => recordOf(useDocuments.getState().records, kind, id);

/** Opens a document in place of the one of its kind. @throws RequestFailure when it cannot be fetched */
export async function openDocument(
  kind: DocumentKind,
  id: string,
  owner: { userId: string; studioId: string },
): Promise<void> {
  leave(kind);
  const waiting = retired.get(id);
  retired.delete(id);
  if (waiting) {
    syncs[kind] = waiting;
    useDocuments.setState({ [`${kind}Id`]: id });
    waiting.show();
    tellLabels();
    return;
  }
  const sync: DocumentSync = new DocumentSync(
    { ...owner, kind, id },
    {
      onRecords: (records) => isOpen(sync) && showRecords(kind, records),
      onDeltas: (deltas) => isOpen(sync) && showDeltas(deltas),
      onState: (save) => {
        if (save.kind === 'saved' && retired.get(id) === sync) {
          retired.delete(id);
          sync.close();
        }
        if (isOpen(sync)) useDocuments.setState(({ saves }) => ({ saves: { ...saves, [kind]: save } }));
      },
      onRevision: (revision) =>
        isOpen(sync) &&
        useDocuments.setState(({ revisions }) => ({ revisions: { ...revisions, [kind]: revision } })),
      onAside: (aside) =>
        isOpen(sync) &&
        useDocuments.setState((state) => ({
          aside: [
            ...state.aside.filter((one) => one.document !== kind),
            ...aside.map((one) => ({ ...one, document: kind })),
          ],
        })),
      onNews: (sentence) => isOpen(sync) && void toast(sentence, { duration: 8000 }),
    },
  );
  syncs[kind] = sync;
  useDocuments.setState(({ aside }) => ({ aside: aside.filter((one) => one.document !== kind) }));
  await sync.open();
  if (!isOpen(sync)) return;
  useDocuments.setState({ [`${kind}Id`]: id });
  tellLabels();
}

/** Leaves the open document of a kind: what is still unsent goes on being sent. */
function leave(kind: DocumentKind): void {
  const sync = syncs[kind];
  delete syncs[kind];
  stacks.forget((delta) => documentOf(delta.kind) === kind);
  if (sync?.isIdle) sync.close();
  else if (sync) retired.set(sync.owner.id, sync);
}

/** Shows no document of a kind any more. */
export function closeDocument(kind: DocumentKind): void {
  leave(kind);
  showRecords(kind, {});
  useDocuments.setState(({ saves }) => ({
    [`${kind}Id`]: undefined,
    saves: { ...saves, [kind]: undefined },
  }));
  tellLabels();
}

const isOpen = (sync: DocumentSync) => syncs[sync.kind] === sync;

/** What the stream tells, to all open documents. */
export function hearEvent(event: StreamEvent): void {
  for (const sync of allSyncs()) sync.hear(event);
}

/** Sends what waits, for example after signing in again. */
export function resumeSending(): void {
  for (const sync of allSyncs()) sync.resume();
}

/** Says what becomes of an edit that was set aside. */
export function decideAside({ document, id }: SetAside, decision: 'again' | 'discard'): void {
  if (decision === 'again') syncs[document]?.tryAgain(id);
  else syncs[document]?.discard(id);
}

/** Puts all records of a document in place; an edit inside a gesture, not yet in the queue, stays on top. */
function showRecords(document: DocumentKind, records: Records): void {
  const next: Partial<Record<RecordKind, Table>> = { ...useDocuments.getState().records };
  for (const kind of Object.keys(RECORD_KINDS) as RecordKind[])
    if (documentOf(kind) === document) next[kind] = records[kind] ?? Table.of(kind, []);
  useDocuments.setState({ records: gesture ? applyDeltas(next, [...gesture.deltas.values()]) : next });
}

/** Puts others' changes in place, under what a gesture is changing. */
function showDeltas(deltas: readonly Omit<Delta, 'before'>[]): void {
  const shown = deltas.flatMap((delta): Delta[] => {
    const before = lookup(delta.kind, delta.id) ?? null;
    const held = gesture?.deltas.get(keyOf(delta));
    const after =
      held?.before && held.after && delta.after
        ? { ...delta.after, ...changed(held.before, held.after) }
        : delta.after;
    if (before === after || (before && after && !differs(before, after) && !differs(after, before)))
      return [];
    return [{ ...delta, before, after }];
  });
  if (shown.length > 0) put(shown);
}

function changed(before: object, after: object): object {
  const old = before as Record<string, unknown>;
  return Object.fromEntries(Object.entries(after).filter(([name, value]) => old[name] !== value));
}

function put(deltas: readonly Delta[]): void {
  useDocuments.setState(({ records }) => ({ records: applyDeltas(records, deltas) }));
}

/** Sends deltas on their way, document by document. */
function send(label: string, deltas: readonly Delta[]): void {
  for (const kind of DOCUMENT_KINDS) {
    const own = deltas.filter((delta) => documentOf(delta.kind) === kind);
    if (own.length > 0) syncs[kind]?.push(label, own);
  }
}

function tellLabels(): void {
  useDocuments.setState({ undoLabel: stacks.undoLabel, redoLabel: stacks.redoLabel });
}

/**
 * Makes an edit: shown at once, sent, undoable.
 * @param merge edits of the same name within half a second become one step of undo
 */
export function edit(label: string, edits: readonly Edit[], merge?: string): void {
  const deltas = deltasOf(lookup, edits);
  if (deltas.length === 0) return;
  put(deltas);
  if (gesture) {
    for (const delta of deltas) {
      const known = gesture.deltas.get(keyOf(delta));
      gesture.deltas.set(keyOf(delta), known ? { ...known, after: delta.after } : delta);
    }
    return;
  }
  send(label, deltas);
  stacks.add({ label, deltas, at: Date.now(), merge });
  tellLabels();
}

/** Begins a gesture: what is edited until `endGesture` is one step, sent at its end. */
export function beginGesture(label: string): void {
  gesture ??= { label, deltas: new Map() };
}

/** Ends a gesture; `keep` false falls back to how it was. */
export function endGesture(keep = true): void {
  const done = gesture;
  gesture = undefined;
  if (!done || done.deltas.size === 0) return;
  const deltas = squash([...done.deltas.values()]);
  if (!keep) {
    replay({ label: done.label, deltas, at: 0, merge: undefined }, true, false);
    return;
  }
  if (deltas.length === 0) return;
  send(done.label, deltas);
  stacks.add({ label: done.label, deltas, at: 0, merge: undefined });
  tellLabels();
}

/** Whether a record is referred to by others than those that go as well: nobody takes a colleague's work along with their own. */
function isHeld(kind: RecordKind, id: string, going: ReadonlySet<string>): boolean {
  const { records } = useDocuments.getState();
  return (Object.keys(REFERENCES) as RecordKind[]).some((child) =>
    Object.entries(REFERENCES[child] ?? {}).some(
      ([field, parent]) =>
        parent === kind &&
        (records[child]?.list() ?? []).some(
          (one) => (one as Record<string, unknown>)[field] === id && !going.has(one.id),
        ),
    ),
  );
}

/** Takes a step back, or makes it again, as far as it still is as the user left it. @returns whether anything came of it */
function replay(step: Step, backwards: boolean, sent = true): boolean {
  const { deltas, left } = replayOf(
    backwards ? inverse(step.deltas) : step.deltas,
    lookup,
    (record, kind) =>
      Object.entries(REFERENCES[kind] ?? {}).every(
        ([field, parent]) => lookup(parent, String((record as Record<string, unknown>)[field])) !== undefined,
      ),
    isHeld,
  );
  if (left > 0)
    toast(
      deltas.length > 0
        ? `What a colleague changed since stayed as it is; the rest of “${step.label}” was ${backwards ? 'taken back' : 'made again'}.`
        : `“${step.label}” cannot be ${backwards ? 'taken back' : 'made again'}: someone has changed it since.`,
    );
  if (deltas.length === 0) return false;
  put(deltas);
  if (sent) send(`${backwards ? 'Undo' : 'Redo'}: ${step.label}`.slice(0, 200), deltas);
  return true;
}

/** Takes the last step back. */
export function undo(): void {
  if (gesture) return;
  stacks.move('undo', (step) => replay(step, true));
  tellLabels();
}

/** Makes the last step taken back again. */
export function redo(): void {
  if (gesture) return;
  stacks.move('redo', (step) => replay(step, false));
  tellLabels();
}

const EMPTY: readonly never[] = [];

/** All records of a kind as a list; the same list as long as nothing of the kind changes. */
export function listOf<K extends RecordKind>(records: Records, kind: K): readonly Item<K>[] {
  return (records[kind]?.list() ?? EMPTY) as unknown as readonly Item<K>[];
}

/** Records of a kind that belong to something, in order; the same list as long as none of them changes. */
export function ownedBy<K extends RecordKind>(records: Records, kind: K, owner: string): readonly Item<K>[] {
  return (records[kind]?.ownedBy(owner) ?? EMPTY) as unknown as readonly Item<K>[];
}

/** A record by kind and id. */
export function itemOf<K extends RecordKind>(
  records: Records,
  kind: K,
  id: string | undefined,
): Item<K> | undefined {
  return id === undefined ? undefined : (recordOf(records, kind, id) as unknown as Item<K> | undefined);
}

/** Hook: the list of a kind. */
export function useList<K extends RecordKind>(kind: K): readonly Item<K>[] {
  return useDocuments((state) => listOf(state.records, kind));
}

/** Hook: what belongs to something. */
export function useOwnedBy<K extends RecordKind>(kind: K, owner: string): readonly Item<K>[] {
  return useDocuments((state) => ownedBy(state.records, kind, owner));
}

/** Hook: one record. */
export function useItem<K extends RecordKind>(kind: K, id: string | undefined): Item<K> | undefined {
  return useDocuments((state) => itemOf(state.records, kind, id));
}
