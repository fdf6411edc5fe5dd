import { useRef, type KeyboardEvent } from 'react';
import { Ellipsis, Plus } from 'lucide-react';
import { articulationTerm } from '#core/catalogue/index.ts';
import { selectTrack } from '../../sound/hands.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { useList, type Item } from '../../state/documents.ts';
import { useOwned } from '../../state/libraries.ts';
import { addTrack, renameTrack } from '../../state/track-edits.ts';
import { decibels } from '../../ui/decibels.ts';
import { Menu } from '../../ui/menu.tsx';
import { FamilyTag } from '../../ui/tag.tsx';
import { runTrackKey, trackActions } from '../../app/track-actions.ts';

/** The tracks of the template as a table: named, ordered, duplicated and deleted here. */
export function TrackTable({ mayEdit }: { mayEdit: boolean }) {
  const tracks = useList('track');
  const chosen = usePerformance((state) => state.trackId);
  const body = useRef<HTMLTableSectionElement>(null);
  const choose = (id: string | undefined) => {
    if (id === undefined) return;
    selectTrack(id);
    requestAnimationFrame(() => body.current?.querySelector<HTMLElement>(`[data-track="${id}"]`)?.focus());
  };
  const onKey = (event: KeyboardEvent) => {
    if (!(event.target instanceof HTMLElement) || event.target.dataset.track === undefined) return;
    const at = tracks.findIndex((track) => track.id === chosen);
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step !== undefined && !event.altKey) choose(tracks[at + step]?.id);
    else if (!tracks[at] || !mayEdit || !runTrackKey(event, tracks[at].id, choose)) return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div className="min-h-0 flex-1 overflow-auto">
      <table className="w-full">
        <thead className="sticky top-0 bg-sheet text-left text-xs text-ink-3">
          <tr className="border-b border-rule">
            <th className="w-12 py-1 pl-3 font-normal">
              <span className="sr-only">Number and family</span>
            </th>
            <th className="py-1 font-normal">Name</th>
            <th className="py-1 font-normal">Instrument</th>
            <th className="py-1 font-normal">Unmarked notes</th>
            <th className="w-20 py-1 pr-2 text-right font-normal">Level</th>
            <th className="w-10">
              <span className="sr-only">More</span>
            </th>
          </tr>
        </thead>
        <tbody ref={body} onKeyDown={onKey}>
          {tracks.map((track, i) => (
            <Row
              key={track.id}
              track={track}
              number={i + 1}
              chosen={track.id === chosen}
              isStop={track.id === chosen || (i === 0 && !tracks.some((one) => one.id === chosen))}
              mayEdit={mayEdit}
            />
          ))}
        </tbody>
      </table>
      {tracks.length === 0 && (
        <p className="px-3 pt-4 text-ink-2">
          No tracks yet. Add one, then give it an instrument in the Cue view, or try sounds from the Shelf.
        </p>
      )}
      <button
        type="button"
        disabled={!mayEdit}
        onClick={() => choose(addTrack())}
        className="m-2 flex min-h-6 items-center gap-1 px-1 text-ink-2 hover:text-ink disabled:opacity-50"
      >
        <Plus size={13} aria-hidden /> Add a track
      </button>
    </div>
  );
}

function Row({
  track,
  number,
  chosen,
  isStop,
  mayEdit,
}: {
  track: Item<'track'>;
  number: number;
  chosen: boolean;
  isStop: boolean;
  mayEdit: boolean;
}) {
  const owned = useOwned(track.instrumentId ?? undefined);
  return (
    <tr className={`border-b border-rule-soft ${chosen ? 'bg-cool-tint' : ''}`}>
      <td className="py-0.5 pl-3 whitespace-nowrap">
        <button
          type="button"
          data-track={track.id}
          tabIndex={isStop ? 0 : -1}
          aria-pressed={chosen}
          aria-label={`${number}, ${track.name}`}
          onClick={() => selectTrack(track.id)}
          className="flex min-h-6 items-center gap-1.5"
        >
          <span className="w-5 text-right text-ink-3">{number}</span>
          <FamilyTag family={track.family} />
        </button>
      </td>
      <td className="py-0.5">
        <input
          aria-label={`Name of track ${number}`}
          className="h-6 w-full min-w-[90px] rounded-sm border border-transparent bg-transparent px-1 font-semibold hover:border-rule focus:border-rule focus:bg-raised"
          value={track.name}
          maxLength={120}
          disabled={!mayEdit}
          onFocus={() => selectTrack(track.id)}
          onChange={(event) => event.target.value.trim() !== '' && renameTrack(track.id, event.target.value)}
        />
      </td>
      <td className="py-0.5 pr-2">
        {owned ? (
          <>
            {owned.instrument.name} <span className="text-ink-3">{owned.library.name}</span>
          </>
        ) : (
          <span className="text-ink-3">{track.instrumentId ? 'not here' : 'none'}</span>
        )}
        {track.muted && <span className="ml-2 text-straw">silent</span>}
      </td>
      <td className="py-0.5 pr-2 font-serif italic">{articulationTerm(track.articulation).name}</td>
      <td className="py-0.5 pr-2 text-right">{decibels(track.gainDb)} dB</td>
      <td className="py-0.5 pr-2 text-right">
        <Menu
          label={`More for ${track.name}`}
          trigger={<Ellipsis size={14} aria-hidden />}
          groups={trackActions(track, mayEdit)}
        />
      </td>
    </tr>
  );
}
