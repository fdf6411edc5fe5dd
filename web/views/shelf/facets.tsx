import { useState } from 'react';
import { Star } from 'lucide-react';
import { FACETS, NO_FILTER, type Facet, type ShelfFilter, type ShelfIndex } from '#core/catalogue/index.ts';
import { GroupTitle } from '../../ui/heading.tsx';
import { SavedSounds } from './saved-sounds.tsx';
import { toggleFacet, useShelf } from './shelf-state.ts';

const NAMES: Record<Facet, string> = {
  family: 'Family',
  instrument: 'Instrument',
  kind: 'Kind',
  plays: 'Plays',
  vibrato: 'Vibrato',
  register: 'Register',
  character: 'Character',
  positions: 'Positions',
  players: 'Players',
  size: 'Memory',
  price: 'Price of the library',
  verdict: 'Verdict',
};
/** Facets with many values show these first. */
const FIRST = 6;

/** The shelf narrowed down: a search, and values with how many instruments each would leave. */
export function Facets({ index }: { index: ShelfIndex }) {
  const filter = useShelf((state) => state.filter);
  const counts = index.counts(filter);
  const narrowed = filter !== NO_FILTER && (filter.starred || filter.search !== '' || anyChosen(filter));
  const change = (more: Partial<ShelfFilter>) =>
    useShelf.setState((state) => ({ filter: { ...state.filter, ...more } }));
  return (
    <div className="flex h-full min-h-0 flex-col bg-ground">
      <label className="block p-2.5 pb-1.5">
        <span className="sr-only">Find a sound</span>
        <input
          type="search"
          placeholder="Find a sound"
          value={filter.search}
          onChange={(event) => change({ search: event.target.value })}
          className="w-full rounded-md border border-rule bg-raised px-2 py-1 placeholder:text-ink-3"
        />
      </label>
      <div className="min-h-0 flex-1 overflow-auto px-2.5 pb-3">
        <div className="flex items-center justify-between">
          <button
            type="button"
            aria-pressed={filter.starred}
            onClick={() => change({ starred: !filter.starred })}
            className={`flex min-h-6 items-center gap-1.5 rounded-sm px-1.5 ${filter.starred ? 'bg-cool-tint text-ink' : 'text-ink-2 hover:bg-rule-soft'}`}
          >
            <Star size={13} aria-hidden fill={filter.starred ? 'currentColor' : 'none'} /> starred
          </button>
          {narrowed && (
            <button
              type="button"
              className="min-h-6 px-1 text-xs text-cool underline"
              onClick={() => useShelf.setState({ filter: NO_FILTER })}
            >
              Show all
            </button>
          )}
        </div>
        {FACETS.map((facet) => (
          <FacetValues key={facet} facet={facet} values={counts[facet]} chosen={filter.chosen[facet] ?? []} />
        ))}
        <SavedSounds />
      </div>
    </div>
  );
}

const anyChosen = (filter: ShelfFilter) => FACETS.some((facet) => (filter.chosen[facet] ?? []).length > 0);

function FacetValues({
  facet,
  values,
  chosen,
}: {
  facet: Facet;
  values: readonly { value: string; count: number }[];
  chosen: readonly string[];
}) {
  const [all, setAll] = useState(false);
  if (values.length === 0) return null;
  const shown = all ? values : values.filter(({ value }, i) => i < FIRST || chosen.includes(value));
  return (
    <div role="group" aria-label={NAMES[facet]} className="mt-3">
      <GroupTitle>{NAMES[facet]}</GroupTitle>
      {shown.map(({ value, count }) => (
        <button
          key={value}
          type="button"
          aria-pressed={chosen.includes(value)}
          onClick={() => toggleFacet(facet, value)}
          className={`flex min-h-6 w-full items-center justify-between gap-2 rounded-sm px-1.5 text-left ${chosen.includes(value) ? 'bg-cool-tint font-semibold text-ink' : 'text-ink hover:bg-rule-soft'}`}
        >
          <span className="truncate">{value}</span>
          <span className="text-ink-3">{count}</span>
        </button>
      ))}
      {values.length > shown.length && (
        <button
          type="button"
          className="min-h-6 px-1.5 text-xs text-cool underline"
          onClick={() => setAll(true)}
        >
          {values.length - shown.length} more
        </button>
      )}
    </div>
  );
}
