/** The one registry of failures: code, sentence and HTTP status; codes are never reused. */

/** Where a failure was met: any of these may be known. */
export interface Place {
  file?: string;
  line?: number;
  byte?: number;
  opcode?: string;
  record?: string;
}

const REGISTRY = {
  'file.truncated': 422,
  'file.not-this-format': 422,
  'file.damaged': 422,
  'file.too-large': 413,
  'file.unsupported': 422,
  'sfz.syntax': 422,
  'sfz.include-cycle': 422,
  'sfz.include-depth': 422,
  'sfz.path-leaves-folder': 422,
  'sfz.sample-missing': 422,
  'sfz.nothing-to-play': 422,
  'import.no-instrument': 422,
  'import.pattern': 422,
  'import.name-taken': 409,
  'import.join': 422,
  'import.cancelled': 409,
  'keymap.clash': 422,
  'patch.invalid': 422,
  'patch.stale': 409,
  'patch.in-use': 409,
  'patch.twice': 409,
  'document.in-use': 409,
  'access.sign-in': 401,
  'access.refused': 403,
  'access.guard': 403,
  'access.wrong-password': 401,
  'access.too-many': 429,
  'access.last-owner': 409,
  'access.invitation': 404,
  'access.taken': 409,
  'access.founded': 409,
  'access.weak-password': 422,
  'request.invalid': 400,
  'request.too-large': 413,
  'not-found': 404,
  'request.charset': 415,
  'sample.missing': 500,
  'sample.damaged': 500,
  'sound.memory': 507,
  'disk.full': 507,
  'disk.read-only': 500,
  'server.failure': 500,
} as const satisfies Record<string, number>;

export type ErrorCode = keyof typeof REGISTRY;

/** A failure with a code, a sentence for people, and the place it was met. */
export class FarloError extends Error {
  readonly code: ErrorCode;
  readonly place: Place;
  constructor(code: ErrorCode, sentence: string, place: Place = {}) {
    super(sentence);
    this.name = 'FarloError';
    this.code = code;
    this.place = place;
  }
  /** HTTP status that belongs to the code. */
  get status(): number {
    return REGISTRY[this.code];
  }
}

/** The sentence with its place in front: `strings.sfz, line 12: …`. */
export function describeError(error: FarloError): string {
  const { file, line, byte } = error.place;
  const where = [
    file,
    line === undefined ? undefined : `line ${line}`,
    byte === undefined ? undefined : `byte ${byte}`,
  ].filter((part) => part !== undefined);
  return where.length > 0 ? `${where.join(', ')}: ${error.message}` : error.message;
}

/** For the default branch of a switch over a union: the compiler proves it is never reached. */
export function unreachable(value: never): never {
  throw new Error(`unexpected value ${JSON.stringify(value)}`);
}
