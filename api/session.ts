import { IsString, Length } from 'class-validator';

/** What a member of a studio may do; each role includes those before it. */
export const ROLES = ['viewer', 'editor', 'owner'] as const;
export type Role = (typeof ROLES)[number];

export class SignInShape {
  @IsString() @Length(1, 200) email!: string;
  @IsString() @Length(1, 200) password!: string;
}

/** Who is signed in. `guard` must come back in the header `x-farlo-guard` of every change. */
export interface SessionInfo {
  user: { id: string; name: string; email: string } | null;
  studio: { id: string; name: string; role: Role } | null;
  guard: string;
  /** People of the demo, offered on the sign-in page; empty unless the demo is served. */
  demo: { name: string; email: string; password: string; role: Role }[];
}

/** What a studio has, for the shell. */
export interface StudioOverview {
  templates: { id: string; name: string }[];
  cues: { id: string; name: string; templateId: string }[];
  /** The studio's shelf document. */
  shelfId: string;
}

export class NewCueShape {
  @IsString() @Length(1, 120) name!: string;
  @IsString() @Length(36, 36) templateId!: string;
}
