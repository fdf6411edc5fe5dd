import 'reflect-metadata';
import {
  IsEmail,
  IsIn,
  IsInt,
  IsOptional,
  IsString,
  Length,
  Matches,
  Max,
  MaxLength,
  Min,
} from 'class-validator';
import { UUID } from './records.ts';
import { ROLES, type Role } from './session.ts';

export const SHORTEST_PASSWORD = 12;
const LONGEST_PASSWORD = 128;
const PASSWORD_SENTENCE = `A password has ${SHORTEST_PASSWORD} to ${LONGEST_PASSWORD} characters; several words are easy to keep in mind.`;
const NAME = [/\S/, { message: 'It needs a name.' }] as const;

/** A name, an address and a password of somebody new. */
export class NewPersonShape {
  @IsString() @Matches(...NAME) @MaxLength(120) name!: string;
  @IsEmail({}, { message: 'This is not an e-mail address.' }) @MaxLength(200) email!: string;
  @IsString() @Length(SHORTEST_PASSWORD, LONGEST_PASSWORD, { message: PASSWORD_SENTENCE }) password!: string;
}

/** The first studio of an empty server, with its owner. */
export class FoundShape extends NewPersonShape {
  @IsString() @Matches(...NAME) @MaxLength(120) studio!: string;
  /** Shown where the server was started; asked for unless the server is reached from its own machine only. */
  @IsOptional() @IsString() @MaxLength(40) code?: string;
}

export const INVITATION_DAYS = [1, 7, 30] as const;

/** What an invitation allows. */
export class InviteShape {
  @IsIn(ROLES) role!: Role;
  @IsInt() @Min(1) @Max(30) days!: number;
}

/** Accepts an invitation: as somebody new, or (without the rest) as who is signed in. */
export class AcceptShape {
  @IsString() @Length(20, 100) token!: string;
  @IsOptional() @IsString() @Matches(...NAME) @MaxLength(120) name?: string;
  @IsOptional() @IsEmail({}, { message: 'This is not an e-mail address.' }) @MaxLength(200) email?: string;
  @IsOptional()
  @IsString()
  @Length(SHORTEST_PASSWORD, LONGEST_PASSWORD, { message: PASSWORD_SENTENCE })
  password?: string;
}

export class RoleShape {
  @IsIn(ROLES) role!: Role;
}

export class OwnNameShape {
  @IsString() @Matches(...NAME) @MaxLength(120) name!: string;
}

export class OwnPasswordShape {
  @IsString() @Length(1, 200) current!: string;
  @IsString() @Length(SHORTEST_PASSWORD, LONGEST_PASSWORD, { message: PASSWORD_SENTENCE }) next!: string;
}

export class StudioChoiceShape {
  @Matches(UUID) studioId!: string;
}

/** A member as colleagues see them. */
export interface MemberInfo {
  userId: string;
  name: string;
  email: string;
  role: Role;
}

/** An invitation that is still open; `path` is known only to its maker, at once. */
export interface InvitationInfo {
  id: string;
  role: Role;
  expires: string;
  path?: string;
}

/** What somebody with an invitation's link is told before accepting. */
export interface InvitationOffer {
  studio: string;
  role: Role;
  expires: string;
}
