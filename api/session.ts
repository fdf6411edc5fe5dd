import 'reflect-metadata';
import { IsString, Length } from 'class-validator';

/** What a member of a studio may do; each role includes those before it. */
export const ROLES = ['viewer', 'editor', 'owner'] as const;
export type Role = (typeof ROLES)[number];

export class SignInShape {
  @IsString() @Length(1, 200) email!: string;
  @IsString() @Length(1, 200) password!: string;
}

/** A studio somebody belongs to. */
export interface OwnStudio {
  id: string;
  name: string;
  role: Role;
}

/** Who is signed in. `guard` must come back in the header `x-farlo-guard` of every change; empty for nobody. */
export interface SessionInfo {
  user: { id: string; name: string; email: string } | null;
  /** The studio that is worked in; null for somebody who belongs to none any more. */
  studio: OwnStudio | null;
  /** All studios of the signed-in person. */
  studios: OwnStudio[];
  guard: string;
  /** True while the server has nobody: the first to come founds a studio. `code` says whether it asks for one. */
  founding: { code: boolean } | null;
  /** People of the demo, offered on the sign-in page; empty unless the demo is served. */
  demo: { name: string; email: string; password: string; role: Role }[];
}

/** What a studio has, for the shell. */
export interface StudioOverview {
  templates: { id: string; name: string }[];
  cues: { id: string; name: string; templateId: string }[];
  /** The studio's shelf document. */
  shelfId: string;
  /** The studio's house document: words and keymaps. */
  houseId: string;
}
