import { Type } from 'class-transformer';
import {
  ArrayMaxSize,
  IsArray,
  IsIn,
  IsInt,
  IsObject,
  IsOptional,
  IsString,
  Length,
  MaxLength,
  Min,
  ValidateNested,
} from 'class-validator';
import { RECORD_KINDS, type DocumentKind, type RecordKind } from './records.ts';

const KINDS = Object.keys(RECORD_KINDS);

/** One change of one record. `fields` are all of them for an addition, the changed ones for an update. */
export class ChangeShape {
  @IsIn(KINDS) kind!: RecordKind;
  @IsString() @Length(36, 36) id!: string;
  @IsIn(['add', 'update', 'remove']) op!: 'add' | 'update' | 'remove';
  /** The version the change was made on; not for an addition. */
  @IsOptional() @IsInt() @Min(1) version?: number;
  @IsOptional() @IsObject() fields?: Record<string, unknown>;
}

/** Changes that belong together: all are applied, or none. Sending the same id again changes nothing more. */
export class PatchShape {
  @IsString() @Length(36, 36) id!: string;
  /** What the user did, for the history. */
  @IsString() @MaxLength(200) label!: string;
  @IsArray()
  @ArrayMaxSize(200_000)
  @ValidateNested({ each: true })
  @Type(() => ChangeShape)
  changes!: ChangeShape[];
}

/** Answer to an applied patch, and what others who have the document open are told. */
export interface AppliedPatch {
  patchId: string;
  revision: number;
  author: string;
  label: string;
  /** Applied changes with the versions the records now have. */
  changes: {
    kind: RecordKind;
    id: string;
    op: ChangeShape['op'];
    version: number;
    fields?: Record<string, unknown>;
  }[];
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
