import { Fragment, useEffect, useMemo, useRef, type KeyboardEvent } from 'react';
import { ChevronDown, ChevronRight, Ellipsis, Plus } from 'lucide-react';
import { gainToDb } from '#core/units/index.ts';
import { singleKeysOn } from '../../app/keys.ts';
import { useTheme } from '../../app/theme-choice.ts';
import { selectTrack } from '../../sound/hands.ts';
import { meters, usePerformance } from '../../sound/performance-state.ts';
import { playheadTick } from '../../sound/playhead.ts';
import { endOfCue, partOf } from '../../state/cue.ts';
import { useDocuments, useList, type Item } from '../../state/documents.ts';
import { toggleGroupHearing, toggleOwnHearing, useOwnHearing } from '../../state/own-hearing.ts';
import { peopleAt, usePointing } from '../../state/pointing.ts';
import { useMayEdit } from '../../state/session.ts';
import { addTrack } from '../../state/track-edits.ts';
import { initials } from '../../ui/initials.ts';
import { Menu } from '../../ui/menu.tsx';
import { FamilyTag } from '../../ui/tag.tsx';
import { useCalm } from '../../ui/use-calm.ts';
import { setStyle, useFrame } from '../../ui/use-frame.ts';
import { useSize } from '../../ui/use-size.ts';
import { CueLine } from './cue-line.tsx';
import { FIRST_TICK, useEditor } from './editor/editor-state.ts';
import { fitCanvas, inksOf } from './editor/paint.ts';
import { groupsOf, MANY_TRACKS, toggleFold, useTrackList, type TrackGroup } from './track-groups.ts';
import { runTrackKey, trackActions } from '../../app/track-actions.ts';

const ROW_HEIGHT = 28;

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

/** Mutes, or hears alone, what its row is of. */
function HearingButton({
  letter,
  isOn,
  label,
  title,
  isStop = true,
  onPress,
}: {
  letter: 'm' | 's';
  isOn: boolean;
  label: string;
  title: string;
  /** Whether the tab key stops there. */
  isStop?: boolean;
  onPress: () => void;
}) {
  const tone = letter === 'm' ? 'bg-warm-tint text-warm' : 'bg-straw-tint text-straw';
  return (
    <button
      type="button"
      tabIndex={isStop ? 0 : -1}
      aria-pressed={isOn}
      aria-label={label}
      title={title}
      onClick={onPress}
      className={`grid size-6 shrink-0 place-items-center text-xs ${isOn ? `rounded-sm font-bold ${tone}` : 'text-ink-3 hover:text-ink'}`}
    >
      {letter}
    </button>
  );
}

function TrackRow({
  track,
  chosen,
  isStop,
  mayEdit,
  endTick,
}: {
  track: Item<'track'>;
  chosen: boolean;
  isStop: boolean;
  mayEdit: boolean;
  endTick: number;
}) {
  const meter = useRef<HTMLDivElement>(null);
  const shown = useRef(0);
  const cueId = useDocuments((state) => state.cueId);
  const others = usePointing((state) => peopleAt(state, cueId, track.id).join(', '));
  const muted = useOwnHearing((state) => state.muted.has(track.id));
  const soloed = useOwnHearing((state) => state.soloed.has(track.id));
  useFrame(() => {
    const peak = meters.tracks[track.id]?.peak ?? 0;
    const db = Math.max(-60, gainToDb(peak));
    shown.current = Math.max(0, (db + 60) / 60, shown.current - 0.02);
    setStyle(meter.current, 'width', `${Math.min(100, shown.current * 100)}%`);
  });
  return (
    <li className={`flex h-[28px] items-center border-b border-rule-soft ${chosen ? 'bg-cool-tint' : ''}`}>
      <div className="flex h-full w-[290px] shrink-0 items-center">
        <div className="flex h-full w-[152px] shrink-0 items-center">
          <button
            type="button"
            data-track={track.id}
            tabIndex={isStop ? 0 : -1}
            aria-pressed={chosen}
            onClick={() => selectTrack(track.id)}
            className="flex h-full min-w-0 flex-1 items-center gap-2 pl-3 text-left"
          >
            <FamilyTag family={track.family} />
            <span className={`truncate ${chosen ? 'font-semibold' : ''}`}>{track.name}</span>
            {track.muted && (
              <span className="text-xs text-straw" title="Silent in the template, for everybody">
                silent
              </span>
            )}
          </button>
          {others !== '' && (
            <span
              className="rounded-sm border border-straw px-1 text-xs text-straw"
              title={`Also here: ${others}`}
            >
              <span aria-hidden>{others.split(', ').map(initials).join(' ')}</span>
              <span className="sr-only">also here: {others}</span>
            </span>
          )}
        </div>
        <HearingButton
          letter="m"
          isOn={muted}
          isStop={chosen}
          label={`Mute ${track.name} for yourself`}
          title="Mute for yourself while you work (key m)"
          onPress={() => toggleOwnHearing('muted', track.id)}
        />
        <HearingButton
          letter="s"
          isOn={soloed}
          isStop={chosen}
          label={`Hear ${track.name} alone`}
          title="Hear it alone, only you (key s)"
          onPress={() => toggleOwnHearing('soloed', track.id)}
        />
        <span className={chosen ? '' : 'opacity-60'}>
          <Menu
            label={`More for ${track.name}`}
            trigger={<Ellipsis size={14} aria-hidden />}
            groups={trackActions(track, mayEdit)}
          />
        </span>
        <div
          className="mr-3 ml-1 h-[3px] w-[48px] shrink-0 bg-rule-soft"
          title="Level of the track"
          aria-hidden
        >
          <div ref={meter} className="h-full bg-ink-3" />
        </div>
      </div>
      <Overview track={track} end={endTick} />
    </li>
  );
}

/** The whole cue in little: notes of one track, and the part that the editor shows. */
function Overview({ track, end }: { track: Item<'track'>; end: number }) {
  const [frame, { width }] = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const playhead = useRef<HTMLDivElement>(null);
  const notes = useCalm(useDocuments((state) => partOf(state.records, track.id).part.notes));
  const theme = useTheme((state) => state.theme);
  const span = useMemo(() => {
    const keys = notes.reduce(
      (range, { key }) => ({ low: Math.min(range.low, key), high: Math.max(range.high, key) }),
      { low: 127, high: 0 },
    );
    return { high: keys.high, keys: Math.max(12, keys.high - keys.low) };
  }, [notes]);
  useEffect(() => {
    const context = canvas.current && fitCanvas(canvas.current, width, ROW_HEIGHT);
    if (!canvas.current || !context) return;
    const inks = inksOf(canvas.current);
    context.clearRect(0, 0, width, ROW_HEIGHT);
    context.fillStyle = inks.ink2;
    for (const note of notes)
      context.fillRect(
        (note.startTick / end) * width,
        5 + ((span.high - note.key) / span.keys) * (ROW_HEIGHT - 12),
        Math.max(1.5, ((note.endTick - note.startTick) / end) * width - 1),
        2,
      );
  }, [width, notes, span, end, theme]);
  useFrame(() => {
    setStyle(playhead.current, 'transform', `translateX(${(playheadTick() / end) * width}px)`);
  });
  return (
    <div
      ref={frame}
      className="relative h-full min-w-0 flex-1 cursor-pointer overflow-hidden"
      aria-hidden
      onClick={(event) => {
        const box = event.currentTarget.getBoundingClientRect();
        selectTrack(track.id);
        useEditor.setState({
          startTick: Math.max(FIRST_TICK, ((event.clientX - box.left) / box.width) * end - 960),
        });
      }}
    >
      <canvas ref={canvas} style={{ width, height: ROW_HEIGHT }} className="block" />
      <div ref={playhead} className="absolute top-0 bottom-0 left-0 w-px bg-warm" />
    </div>
  );
}
