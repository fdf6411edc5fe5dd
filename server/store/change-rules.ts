import { plainToInstance } from 'class-transformer';
import { validateSync } from 'class-validator';
import {
  DEFAULTS,
  RECORD_KINDS,
  REFERENCES,
  type ChangeShape,
  type Conflict,
  type DocumentKind,
  type RecordKind,
} from '#api/index.ts';
import { FarloError } from '#core/errors/index.ts';
import { validationSentence } from '../validation-sentence.ts';

/** A record as the database has it, with its version. */
export type Current = Record<string, unknown> & { id: string; version: number };
/** Present records by `kind id`. */
export type CurrentRecords = ReadonlyMap<string, Current>;

/** A change as the history keeps it: with the record before it. */
export interface Done {
  kind: RecordKind;
  id: string;
  op: ChangeShape['op'];
  version: number;
  before: Record<string, unknown> | null;
  fields?: Record<string, unknown>;
}

/** Name of a record in a `CurrentRecords`. */
export const recordKey = (kind: RecordKind, id: string) => `${kind} ${id}`;

/** Kinds that point at a kind, with the field they do it by. */
export function childrenOf(kind: RecordKind): { kind: RecordKind; field: string }[] {
  return (Object.keys(REFERENCES) as RecordKind[]).flatMap((child) =>
    Object.entries(REFERENCES[child] ?? {})
      .filter(([, parent]) => parent === kind)
      .map(([field]) => ({ kind: child, field })),
  );
}

function refuse(change: Pick<ChangeShape, 'kind' | 'id'>, sentence: string): never {
  throw new FarloError('patch.invalid', sentence, { record: recordKey(change.kind, change.id) });
}

/** An added record with what it may leave out, so that everybody is told the same. */
export function completed(change: ChangeShape): ChangeShape {
  const defaults = DEFAULTS[change.kind];
  return defaults && change.op === 'add' ? { ...change, fields: { ...defaults, ...change.fields } } : change;
}

/** What can be said of changes without looking at the document. @throws FarloError naming the record */
export function checkChanges(
  document: DocumentKind,
  documentId: string,
  changes: readonly ChangeShape[],
): void {
  const seen = new Set<string>();
  for (const change of changes) {
    const { kind, id, op, version, fields } = change;
    if (RECORD_KINDS[kind].document !== document)
      refuse(change, `A ${kind} does not belong to a ${document}.`);
    if (kind === document && (op !== 'update' || id !== documentId))
      refuse(change, `A ${document} is neither added nor removed by a patch.`);
    if (op !== 'add' && version === undefined) refuse(change, 'The version that was changed is missing.');
    if (op === 'update' && Object.keys(fields ?? {}).length === 0)
      refuse(change, 'An update without fields.');
    const key = recordKey(kind, id);
    if (seen.has(key)) refuse(change, `The same ${kind} is changed twice in one patch.`);
    seen.add(key);
  }
}

/** True when a change was made on another version than the present one. */
export function isStale(change: ChangeShape, current: CurrentRecords): boolean {
  const now = current.get(recordKey(change.kind, change.id));
  return change.op === 'add' ? now !== undefined : now?.version !== change.version;
}

/** What the maker of a stale change is told. */
export function conflictOf(change: ChangeShape, current: CurrentRecords): Conflict {
  const { kind, id } = change;
  return { kind, id, current: current.get(recordKey(kind, id)) ?? null };
}

/**
 * Checks every added or updated record as it would stand afterwards, all its fields together.
 * @throws FarloError naming the first record that does not fit
 */
export function checkRecords(changes: readonly ChangeShape[], current: CurrentRecords): void {
  for (const change of changes) {
    if (change.op === 'remove') continue;
    const {
      id: _id,
      version: _version,
      ...before
    } = current.get(recordKey(change.kind, change.id)) ?? {
      id: '',
      version: 0,
    };
    checkRecord(change, { ...before, ...change.fields });
  }
}

function checkRecord(change: ChangeShape, record: Record<string, unknown>): void {
  const instance = plainToInstance(RECORD_KINDS[change.kind].shape as new () => object, record);
  const errors = validateSync(instance, { whitelist: true, forbidNonWhitelisted: true });
  if (errors.length > 0) refuse(change, validationSentence(errors[0]));
  // What has no such fields has no order of them either.
  const {
    startTick = 0,
    endTick = Infinity,
    loopStartTick = 0,
    loopEndTick = Infinity,
    velocityLow = 0,
    velocityHigh = Infinity,
  } = record as Record<string, number | undefined>;
  if (endTick <= startTick) refuse(change, 'It ends before it starts.');
  if (velocityLow > velocityHigh) refuse(change, 'The lowest velocity is above the highest.');
  if (loopEndTick < loopStartTick) refuse(change, 'The loop ends before it starts.');
}
