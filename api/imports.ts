import 'reflect-metadata';
import { Type } from 'class-transformer';
import {
  ArrayMaxSize,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsOptional,
  IsString,
  Length,
  Max,
  MaxLength,
  Min,
  ValidateNested,
} from 'class-validator';
import {
  FAMILIES,
  ROOM_SOUNDS,
  type Family,
  type InstrumentKind,
  type RoomSound,
} from '#core/catalogue/index.ts';
import type { Meaning, OfferedJoin, WordMeaning } from '#core/intake/index.ts';
import type { MiddleC } from '#core/music/index.ts';

/** What was found in files being brought in, before anything is taken. */
export interface ImportProposal {
  id: string;
  kind: 'sfz' | 'soundfont' | 'recordings';
  /** A name for the library. */
  name: string;
  instruments: {
    name: string;
    family: Family;
    kind: InstrumentKind;
    players: number;
    reason: string;
    /** Whether something told its family; else it has to be asked. */
    isTold: boolean;
    keyLow: number;
    keyHigh: number;
    zones: number;
    /** A recording of it to hear, by the name its file has for it. */
    example: string | null;
  }[];
  /** Files that look like positions of one instrument. */
  joins: OfferedJoin[];
  /** What labels and names are taken to mean. */
  words: WordMeaning[];
  /** Words of makers known before, by maker and word; the form uses those of the maker that is typed. */
  remembered: Record<string, Record<string, Meaning>>;
  /** How makers known before name their files, by maker. */
  names: Record<string, { pattern: string; middleC: MiddleC }>;
  /** Recordings without an instrument file. */
  files: { path: string; frames: number; rate: number; channels: number; looped: boolean }[];
  /** A name pattern that fits most of them. */
  pattern: string | null;
  /** A single recording: what was heard of it. */
  recording: {
    path: string;
    seconds: number;
    rate: number;
    key: number | null;
    cents: number;
    clarity: number;
    loop: { start: number; end: number; likeness: number } | null;
    /** Peaks of 400 equal parts, 0…1. */
    peaks: number[];
  } | null;
  failed: { name: string; sentence: string }[];
}

const KINDS = ['section', 'solo', 'ensemble'] as const;
const WORD_KINDS = [
  'region label',
  'group label',
  'switch label',
  'master label',
  'global label',
  'folder',
  'file name',
  'preset',
  'name part',
] as const;

/** What a word means, as the user leaves the table. */
export class WordShape {
  @IsIn(WORD_KINDS) kind!: (typeof WORD_KINDS)[number];
  @IsString() @Length(1, 400) text!: string;
  @IsOptional() @IsString() @Length(1, 60) articulation!: string | null;
  @IsOptional() @IsString() @Length(1, 40) position!: string | null;
  @IsOptional() @IsInt() @Min(0) @Max(99) layer!: number | null;
  @IsOptional() @IsInt() @Min(0) @Max(999) take!: number | null;
  @IsOptional() @IsString() @Length(1, 120) instrument!: string | null;
}

export class ImportInstrumentShape {
  @IsString() @Length(1, 200) name!: string;
  @IsIn(FAMILIES) family!: Family;
  @IsIn(KINDS) kind!: InstrumentKind;
  @IsInt() @Min(1) @Max(200) players!: number;
}

/** A file that is a position of a joined instrument. */
export class JoinedFileShape {
  @IsString() @Length(1, 400) file!: string;
  @IsString() @Length(1, 40) position!: string;
}

/** Files that are positions of one instrument. */
export class JoinShape {
  @IsString()
  @Length(1, 120, { message: 'Give a joined instrument a name of up to 120 signs.' })
  name!: string;
  @IsArray()
  @ArrayMaxSize(16)
  @ValidateNested({ each: true })
  @Type(() => JoinedFileShape)
  files!: JoinedFileShape[];
}

/** A loop in frames [start, end). */
export class LoopShape {
  @IsInt() @Min(0) start!: number;
  @IsInt() @Min(1) end!: number;
}

/** One's own recording as an instrument. */
export class OwnRecordingShape {
  @IsInt() @Min(0) @Max(127) rootKey!: number;
  @IsNumber() @Min(-100) @Max(100) cents!: number;
  @IsInt() @Min(0) @Max(127) keyLow!: number;
  @IsInt() @Min(0) @Max(127) keyHigh!: number;
  @IsOptional() @ValidateNested() @Type(() => LoopShape) loop!: LoopShape | null;
  @IsString() @Length(1, 60) articulation!: string;
}

const PRICE = 'The price is a number, from 0 to a million.';

/** What was decided: the files are taken in by it. */
export class TakeInShape {
  @IsString() @Length(1, 120, { message: 'Give the library a name of up to 120 signs.' }) library!: string;
  /** Whether a library of this name that stands on the shelf gives way to it. */
  @IsOptional() @IsBoolean() replaces?: boolean;
  @IsString() @Length(1, 120, { message: 'Say who made it, in up to 120 signs.' }) maker!: string;
  @IsString() @Length(1, 120, { message: 'The room has a name of up to 120 signs.' }) room!: string;
  @IsIn(ROOM_SOUNDS) roomSound!: RoomSound;
  @IsOptional()
  @IsNumber({}, { message: PRICE })
  @Min(0, { message: PRICE })
  @Max(1e6, { message: PRICE })
  price!: number | null;
  @IsString() @MaxLength(120) players!: string;
  @IsString() @MaxLength(60) edition!: string;
  @IsString() @MaxLength(2000) text!: string;
  @IsArray() @ArrayMaxSize(5000) @ValidateNested({ each: true }) @Type(() => WordShape) words!: WordShape[];
  @IsArray()
  @ArrayMaxSize(2000)
  @ValidateNested({ each: true })
  @Type(() => ImportInstrumentShape)
  instruments!: ImportInstrumentShape[];
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(200)
  @ValidateNested({ each: true })
  @Type(() => JoinShape)
  joins?: JoinShape[];
  @IsOptional() @IsString() @MaxLength(200) pattern?: string;
  @IsOptional() @IsIn([3, 4]) middleC?: 3 | 4;
  @IsOptional() @ValidateNested() @Type(() => OwnRecordingShape) recording?: OwnRecordingShape;
}
