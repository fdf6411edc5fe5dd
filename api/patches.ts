import 'reflect-metadata';
import { Type } from 'class-transformer';
import {
  ArrayMaxSize,
  IsArray,
  IsIn,
  IsInt,
  IsObject,
  IsOptional,
  IsString,
  Matches,
  MaxLength,
  Min,
  ValidateNested,
} from 'class-validator';
import { RECORD_KINDS, UUID, type DocumentKind, type RecordKind } from './records.ts';

const KINDS = Object.keys(RECORD_KINDS);

/** Changes one patch may hold; more are sent in pieces, so that nobody waits long for a document. */
export const MOST_CHANGES = 2000;
/** Larger patches are told to listeners by their revision alone; they fetch the document. */
export const MOST_TOLD_CHANGES = 500;

/** One change of one record. `fields` are all of them for an addition, the changed ones for an update. */
export class ChangeShape {
  @IsIn(KINDS) kind!: RecordKind;
  @Matches(UUID) id!: string;
  @IsIn(['add', 'update', 'remove']) op!: 'add' | 'update' | 'remove';
  /** The version the change was made on; not for an addition. */
  @IsOptional() @IsInt() @Min(1) version?: number;
  @IsOptional() @IsObject() fields?: Record<string, unknown>;
}

/** Changes that belong together: all are applied, or none. Sending the same id again changes nothing more. */
export class PatchShape {
  @Matches(UUID) id!: string;
  /** What the user did, for the history. */
  @IsString() @MaxLength(200) label!: string;
  @IsArray()
  @ArrayMaxSize(MOST_CHANGES, {
    message: `A patch holds ${MOST_CHANGES} changes at most; send more in pieces.`,
  })
  @ValidateNested({ each: true })
  @Type(() => ChangeShape)
  changes!: ChangeShape[];
}

/** A change as it was applied, with the version its record now has. */
export interface AppliedChange {
  kind: RecordKind;
  id: string;
  op: ChangeShape['op'];
  version: number;
  fields?: Record<string, unknown>;
}

/** Answer to an applied patch. Revisions of a document count up by one with each patch. */
export interface AppliedPatch {
  patchId: string;
  revision: number;
  userId: string;
  author: string;
  label: string;
  changes: AppliedChange[];
}

/** A record that was changed by someone else since; `current` is null when it is gone. */
export interface Conflict {
  kind: RecordKind;
  id: string;
  current: (Record<string, unknown> & { version: number }) | null;
}

/** A whole document as it is opened. */
export interface DocumentContent {
  id: string;
  kind: DocumentKind;
  revision: number;
  records: Partial<Record<RecordKind, (Record<string, unknown> & { id: string; version: number })[]>>;
}

/** One line of a document's history. */
export interface HistoryEntry {
  revision: number;
  author: string;
  time: string;
  label: string;
  count: number;
}

/** Asks for a document as it was after a revision. */
export class BackShape {
  @IsInt() @Min(0) revision!: number;
}

/** Makes a template or a cue: an empty one, or a copy of another. */
export class NewDocumentShape {
  @IsIn(['template', 'cue']) kind!: 'template' | 'cue';
  @IsString() @Matches(/\S/, { message: 'It needs a name.' }) @MaxLength(120) name!: string;
  /** Template of a new empty cue. */
  @IsOptional() @Matches(UUID) templateId?: string;
  /** Document of the same kind to be copied. */
  @IsOptional() @Matches(UUID) copyOf?: string;
}
