import { TriangleAlert } from 'lucide-react';
import { NavLink } from 'react-router';
import { useDocuments, useList } from '../../state/documents.ts';
import { useLibraries } from '../../state/libraries.ts';
import { keymapOfTrack, summaryOf } from '../../state/keymaps.ts';
import { FamilyTag } from '../../ui/tag.tsx';
import { useKeymaps } from './keymaps-state.ts';
import { toMend } from './looked-at.ts';

/** Whose keymap to look at: tracks of the template first, then every instrument the studio owns. */
export function KeymapChoice() {
  const search = useKeymaps((state) => state.search);
  const tracks = useList('track');
  const libraries = useLibraries((state) => state.libraries);
  const records = useDocuments((state) => state.records);
  const fits = (name: string) => name.toLowerCase().includes(search.trim().toLowerCase());
  const shownTracks = tracks.filter(({ name, instrumentId }) => instrumentId !== null && fits(name));
  return (
    <nav aria-label="Keymaps" className="flex h-full min-h-0 flex-col">
      <div className="border-b border-rule p-2">
        <input
          type="search"
          aria-label="Find an instrument"
          placeholder="Find an instrument"
          className="h-7 w-full rounded-sm border border-rule bg-raised px-2"
          value={search}
          onChange={(event) => useKeymaps.setState({ search: event.target.value })}
        />
      </div>
      <div className="min-h-0 flex-1 overflow-auto pb-3">
        {shownTracks.length > 0 && <Head>In the template</Head>}
        {shownTracks.map((track) => {
          const instrument = summaryOf(track.instrumentId);
          const house = keymapOfTrack(records, track, track.instrumentId);
          const worst = house && instrument ? toMend(records, house, instrument) : 0;
          return (
            <Choice
              key={track.id}
              to={`/keymaps/track/${track.id}`}
              family={track.family}
              name={track.name}
              note={house?.trackId ? 'own' : ''}
              clashes={worst}
            />
          );
        })}
        {libraries?.map((library) => {
          const own = library.instruments.filter(({ name }) => fits(name) || fits(library.name));
          if (own.length === 0) return null;
          return (
            <div key={library.id}>
              <Head>{library.name}</Head>
              {own.map(({ id, family, name }) => (
                <Choice
                  key={id}
                  to={`/keymaps/instrument/${id}`}
                  family={family}
                  name={name}
                  note=""
                  clashes={0}
                />
              ))}
            </div>
          );
        })}
        {libraries && search !== '' && shownTracks.length === 0 && (
          <p className="px-3 py-2 text-ink-2" aria-live="polite">
            Names that contain “{search}”.
          </p>
        )}
      </div>
    </nav>
  );
}

function Head({ children }: { children: string }) {
  return <h2 className="truncate px-3 pt-2.5 pb-0.5 text-xs font-semibold text-ink-3">{children}</h2>;
}

function Choice({
  to,
  family,
  name,
  note,
  clashes,
}: {
  to: string;
  family: string;
  name: string;
  note: string;
  clashes: number;
}) {
  return (
    <NavLink
      to={to}
      className={({ isActive }) =>
        `flex min-h-[26px] items-center gap-1.5 border-l-[3px] px-2 ${isActive ? 'border-cool bg-cool-tint font-semibold' : 'border-transparent hover:bg-ground'}`
      }
    >
      <FamilyTag family={family} />
      <span className="min-w-0 flex-1 truncate">{name}</span>
      {note && <span className="text-xs text-ink-3">{note}</span>}
      {clashes > 0 && (
        <span className="flex items-center gap-0.5 text-xs text-warm" title={`${clashes} to mend`}>
          <TriangleAlert size={12} aria-hidden />
          {clashes}
        </span>
      )}
    </NavLink>
  );
}
