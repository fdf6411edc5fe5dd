import { useRef } from 'react';
import { Ellipsis } from 'lucide-react';
import { gainToDb } from '#core/units/index.ts';
import { trackActions } from '../../app/track-actions.ts';
import { selectTrack } from '../../sound/hands.ts';
import { meters } from '../../sound/performance-state.ts';
import { useDocuments, type Item } from '../../state/documents.ts';
import { toggleOwnHearing, useOwnHearing } from '../../state/own-hearing.ts';
import { peopleAt, usePointing } from '../../state/pointing.ts';
import { initials } from '../../ui/initials.ts';
import { Menu } from '../../ui/menu.tsx';
import { FamilyTag } from '../../ui/tag.tsx';
import { setStyle, useFrame } from '../../ui/use-frame.ts';
import { HearingButton } from './hearing-button.tsx';
import { Overview } from './overview.tsx';

/** A track with what one hears of it, its level, and its part in this cue in little. */
export function TrackRow({
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
