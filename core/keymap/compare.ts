import type { ArticulationId, MiddleC } from '../music/index.ts';
import { describeTrigger } from './clashes.ts';
import { triggerSets, type Entry, type Keymap } from './keymap.ts';

/** An articulation that two keymaps treat differently, each in words; undefined where one does not have it. */
export interface KeymapDifference {
  articulation: ArticulationId;
  mine: string | undefined;
  theirs: string | undefined;
}

/** What differs between two keymaps, in the order of the first, then what only the second has. Ids and order do not count. */
export function compareKeymaps(mine: Keymap, theirs: Keymap, middleC?: MiddleC): KeymapDifference[] {
  const there = new Map(theirs.entries.map((entry) => [entry.articulation, entry]));
  const here = new Set(mine.entries.map(({ articulation }) => articulation));
  const all = [
    ...mine.entries.map((entry) => ({
      articulation: entry.articulation,
      entry,
      other: there.get(entry.articulation),
    })),
    ...theirs.entries
      .filter(({ articulation }) => !here.has(articulation))
      .map((other) => ({ articulation: other.articulation, entry: undefined, other })),
  ];
  return all.flatMap(({ articulation, entry, other }) => {
    const [a, b] = [entry, other].map((one) => one && inWords(one, middleC));
    return a === b ? [] : [{ articulation, mine: a, theirs: b }];
  });
}

/** An entry in words: equal entries have equal words. */
function inWords(entry: Entry, middleC: MiddleC | undefined): string {
  const sets = triggerSets(entry).map((set) => set.map((one) => describeTrigger(one, middleC)).join(' + '));
  const sources = entry.sources.map((one) => {
    const { articulation, levelDb, velocityLow, velocityHigh, part, morphAt } = one;
    const morph = entry.morph === undefined ? '' : ` at ${morphAt}`;
    const velocity =
      velocityLow > 1 || velocityHigh < 127 ? `, velocity ${velocityLow} to ${velocityHigh}` : '';
    const level = levelDb === 0 ? '' : `, ${levelDb} dB`;
    return `${articulation}${level}${velocity}${part === 'whole' ? '' : `, ${part}`}${morph}`;
  });
  const by = sets.length === 0 ? 'marks only' : [...sets].sort().join(' or ');
  const morph = entry.morph === undefined ? '' : `, morphed by controller ${entry.morph}`;
  return sources.length === 0 ? by : `${by}; sounds ${[...sources].sort().join(' and ')}${morph}`;
}
