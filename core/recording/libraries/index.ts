import type { LibraryPlan } from '../plan.ts';
import { BRASS } from './brass.ts';
import { CHOIR } from './choir.ts';
import { KEYS } from './keys.ts';
import { PERCUSSION } from './percussion.ts';
import { STRINGS_LARGE, STRINGS_LIGHT } from './strings-large.ts';
import { SOLO_STRINGS, STRINGS_SMALL } from './tarrowby.ts';
import { WINDS } from './winds.ts';

/** Every demo library, in the order in which it is recorded. */
export const DEMO_LIBRARIES: readonly LibraryPlan[] = [
  STRINGS_LARGE,
  KEYS,
  SOLO_STRINGS,
  WINDS,
  BRASS,
  PERCUSSION,
  CHOIR,
  STRINGS_SMALL,
  STRINGS_LIGHT,
];
