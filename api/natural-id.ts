import { v5 } from 'uuid';
import type { RecordKind } from './records.ts';

/** Any fixed UUID would do; it must never change. */
const NAMESPACE = '5d7a2f0c-6a59-4f0e-9f6e-0b1f6a3c2d11';

/**
 * Id of a record of which there can be only one, made from what makes it so: two people who add it at the same
 * time add the same record, and not two of which one would be hidden.
 * @example naturalId('part', cueId, trackId)
 */
export function naturalId(kind: RecordKind, ...keys: readonly (string | number)[]): string {
  return v5([kind, ...keys].join(' '), NAMESPACE);
}
