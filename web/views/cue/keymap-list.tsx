import { Link } from 'react-router';
import { describeTrigger, triggerSets } from '#core/keymap/index.ts';
import { useTrackKeymap } from '../../app/use-keymap.ts';
import { selectArticulation } from '../../sound/hands.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { useList, type Item } from '../../state/documents.ts';
import { useVocabulary } from '../../state/keymaps.ts';
import { GroupTitle } from '../../ui/heading.tsx';

/** What selects the articulations of a track; pressing one plays with it. It is changed in Keymaps. */
export function KeymapList({ track }: { track: Item<'track'> }) {
  const house = useTrackKeymap(track);
  const vocabulary = useVocabulary();
  const middleC = useList('template')[0]?.middleC ?? 4;
  const articulation = usePerformance((state) => state.articulation);
  if (!house) return null;
  return (
    <>
      <GroupTitle>Keymap</GroupTitle>
      <p className="text-xs text-ink-2">
        {house.trackId
          ? 'This track keeps its own.'
          : house.kept
            ? `The house’s: ${house.keymap.name}.`
            : 'The keys its maker suggests.'}{' '}
        <Link to={`/keymaps/track/${track.id}`} className="text-cool underline">
          Change it in Keymaps
        </Link>
      </p>
      <ul>
        {house.keymap.entries.map((entry) => {
          const term = vocabulary.term(entry.articulation);
          const chosen = entry.articulation === articulation;
          const by = triggerSets(entry).map((set) =>
            set.map((one) => describeTrigger(one, middleC)).join(' + '),
          );
          return (
            <li key={entry.id} className={`border-b border-rule-soft py-0.5 ${chosen ? 'bg-cool-tint' : ''}`}>
              <button
                type="button"
                onClick={() => selectArticulation(entry.articulation)}
                aria-pressed={chosen}
                title="Play with this articulation"
                className="flex min-h-6 w-full min-w-0 items-center gap-1.5 text-left"
              >
                <span className="w-6 shrink-0 rounded-sm border border-rule text-center text-xs font-semibold">
                  {term.tab}
                </span>
                <span className="min-w-0 flex-1 truncate">{term.name}</span>
                <span className="shrink-0 font-semibold" title={by.join(' or ')}>
                  {by[0] ?? '—'}
                </span>
              </button>
            </li>
          );
        })}
      </ul>
    </>
  );
}
