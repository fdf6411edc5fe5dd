import { Fragment, useRef, type KeyboardEvent } from 'react';
import { ChevronDown, ChevronRight, Plus } from 'lucide-react';
import { singleKeysOn } from '../../app/keys.ts';
import { selectTrack } from '../../sound/hands.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { endOfCue, partOf } from '../../state/cue.ts';
import { useDocuments, useList } from '../../state/documents.ts';
import { toggleGroupHearing, toggleOwnHearing, useOwnHearing } from '../../state/own-hearing.ts';
import { useMayEdit } from '../../state/session.ts';
import { addTrack } from '../../state/track-edits.ts';
import { useCalm } from '../../ui/use-calm.ts';
import { CueLine } from './cue-line.tsx';
import { HearingButton } from './hearing-button.tsx';
import { TrackRow } from './track-row.tsx';
import { groupsOf, MANY_TRACKS, toggleFold, useTrackList, type TrackGroup } from './track-groups.ts';
import { runTrackKey } from '../../app/track-actions.ts';

/** The template's tracks, each with an overview of its part in this cue. One tab stop: the arrow keys go from row to row. */
export function TrackList() {
  const tracks = useList('track');
  const templateId = useDocuments((state) => state.templateId);
  const chosen = usePerformance((state) => state.trackId);
  const mayEdit = useMayEdit();
  const list = useRef<HTMLUListElement>(null);
  const { query, withNotes, folded } = useTrackList();
  const isMany = tracks.length > MANY_TRACKS;
  // Notes that come or go change the list where only tracks with notes are wanted.
  const records = useDocuments((state) => (isMany && withNotes ? state.records : undefined));
  const groups = groupsOf(
    tracks,
    isMany ? query : '',
    records && ((id) => partOf(records, id).part.notes.length > 0),
  );
  // Whatever is looked for is not folded away.
  const isFolded = ({ id }: TrackGroup) => isMany && query === '' && folded.has(id);
  const shown = groups.flatMap((group) => (isFolded(group) ? [] : group.tracks));
  const endTick = useCalm(useDocuments(({ records: all, cueId }) => endOfCue(all, cueId)));
  const choose = (id: string | undefined) => {
    if (id === undefined) return;
    selectTrack(id);
    requestAnimationFrame(() => list.current?.querySelector<HTMLElement>(`[data-track="${id}"]`)?.focus());
  };
  const onKey = (event: KeyboardEvent) => {
    // Buttons inside a row keep their own keys.
    if (!(event.target instanceof HTMLElement) || event.target.dataset.track === undefined) return;
    const at = shown.findIndex((track) => track.id === chosen);
    const track = shown[at];
    if (!track) return;
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    const single = singleKeysOn() && !event.ctrlKey && !event.metaKey && !event.altKey;
    if (step !== undefined && !event.altKey) choose(shown[at + step]?.id);
    else if (single && event.key === 'm') toggleOwnHearing('muted', track.id);
    else if (single && event.key === 's') toggleOwnHearing('soloed', track.id);
    else if (!mayEdit || !runTrackKey(event, track.id, choose)) return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div className="isolate flex h-full flex-col overflow-auto">
      <div className="sticky top-0 z-10 shrink-0 bg-sheet">
        {isMany && <Finder found={shown.length} />}
        <CueLine end={endTick} />
      </div>
      <ul ref={list} aria-label="Tracks" onKeyDown={onKey}>
        {groups.map((group) => (
          <Fragment key={group.id}>
            {isMany && <GroupLine group={group} isFolded={isFolded(group)} />}
            {!isFolded(group) &&
              group.tracks.map((track) => (
                <TrackRow
                  key={track.id}
                  track={track}
                  chosen={track.id === chosen}
                  isStop={
                    track.id === chosen || (track === shown[0] && !shown.some((one) => one.id === chosen))
                  }
                  mayEdit={mayEdit}
                  endTick={endTick}
                />
              ))}
          </Fragment>
        ))}
      </ul>
      {isMany && shown.length === 0 && groups.length === 0 && (
        <p className="px-3 py-1 text-xs text-ink-3">No track is like that.</p>
      )}
      {templateId && (
        <button
          type="button"
          disabled={!mayEdit}
          onClick={() => choose(addTrack())}
          className="flex min-h-6 shrink-0 items-center gap-1 px-3 text-xs text-ink-2 hover:text-ink disabled:opacity-50"
        >
          <Plus size={12} aria-hidden /> Add a track to the template
        </button>
      )}
    </div>
  );
}

/** Narrows a long list down. */
function Finder({ found }: { found: number }) {
  const { query, withNotes } = useTrackList();
  return (
    <div className="flex items-center gap-3 border-b border-rule-soft px-3 py-0.5 text-xs">
      <input
        type="search"
        aria-label="Find tracks"
        placeholder="Find tracks"
        className="h-6 w-[140px] rounded-sm border border-rule bg-raised px-1.5"
        value={query}
        onChange={(event) => useTrackList.setState({ query: event.target.value })}
        onKeyDown={(event) => {
          if (event.key === 'Escape') useTrackList.setState({ query: '' });
        }}
      />
      <label className="flex min-h-6 items-center gap-1.5">
        <input
          type="checkbox"
          checked={withNotes}
          onChange={(event) => useTrackList.setState({ withNotes: event.target.checked })}
        />
        only with notes
      </label>
      <span role="status" className="text-ink-3">
        {found} {found === 1 ? 'track' : 'tracks'}
      </span>
    </div>
  );
}

/** The name of a family, which folds its tracks away; all of them are muted or heard alone at once. */
function GroupLine({ group, isFolded }: { group: TrackGroup; isFolded: boolean }) {
  const { id, family, tracks } = group;
  const ids = tracks.map((track) => track.id);
  const muted = useOwnHearing((state) => ids.every((one) => state.muted.has(one)));
  const soloed = useOwnHearing((state) => ids.every((one) => state.soloed.has(one)));
  return (
    <li className="flex h-[24px] items-center border-b border-rule-soft bg-ground">
      <button
        type="button"
        aria-expanded={!isFolded}
        className="flex h-full w-[152px] shrink-0 items-center gap-1.5 pl-3 text-xs text-ink-2 hover:text-ink"
        onClick={() => toggleFold(id)}
      >
        {isFolded ? <ChevronRight size={12} aria-hidden /> : <ChevronDown size={12} aria-hidden />}
        <span className="truncate">
          {family} · {tracks.length}
        </span>
      </button>
      <HearingButton
        letter="m"
        isOn={muted}
        label={`Mute ${family} for yourself`}
        title="Mute all of them for yourself while you work"
        onPress={() => toggleGroupHearing('muted', ids)}
      />
      <HearingButton
        letter="s"
        isOn={soloed}
        label={`Hear ${family} alone`}
        title="Hear all of them alone, only you"
        onPress={() => toggleGroupHearing('soloed', ids)}
      />
    </li>
  );
}
