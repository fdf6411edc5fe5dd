import 'reflect-metadata';
import { ArrayMaxSize, IsArray, Matches, ValidateIf } from 'class-validator';
import { MOST_POINTED, type Pointing } from './events.ts';
import { UUID } from './records.ts';

/** See `Pointing`. */
export class PointingShape implements Pointing {
  @Matches(UUID) tab!: string;
  @ValidateIf((one: PointingShape) => one.trackId !== null) @Matches(UUID) trackId!: string | null;
  @IsArray() @ArrayMaxSize(MOST_POINTED) @Matches(UUID, { each: true }) noteIds!: string[];
}
