import { useEffect, useRef } from 'react';
import { Plus } from 'lucide-react';
import { gainToDb } from '#core/units/index.ts';
import { edit, useDocuments, useItem, type Item } from '../../state/documents.ts';
import { useMayEdit } from '../../state/session.ts';
import { useFrame } from '../../app/top-line.tsx';
import { useTheme } from '../../app/theme-choice.ts';
import {
  meters,
  orderedTracks,
  partOf,
  playheadTick,
  selectTrack,
  usePerformance,
} from '../../sound/performance.ts';
import { FamilyTag } from '../../ui/tag.tsx';
import { useSize } from '../../ui/use-size.ts';
import { useEditor } from './editor/editor-state.ts';
import { fitCanvas, inksOf } from './editor/paint.ts';

const ROW_HEIGHT = 28;

/** The template's tracks, each with an overview of its part in this cue. */
export function TrackList() {
  const records = useDocuments((state) => state.records);
  const templateId = useDocuments((state) => state.templateId);
  const chosen = usePerformance((state) => state.trackId);
  const mayEdit = useMayEdit();
  const tracks = orderedTracks(records);
  const add = () => {
    const id = crypto.randomUUID();
    const place = Math.max(0, ...tracks.map((track) => track.place)) + 1;
    const fields = {
      name: `Track ${tracks.length + 1}`,
      family: 'other',
      place,
      instrumentId: null,
      articulation: 'long',
      mode: 'planned',
      gainDb: 0,
      pan: 0,
      hallSendDb: -14,
      muted: false,
      soloed: false,
    };
    edit('Add a track', [{ kind: 'track', id, op: 'add', fields }]);
    selectTrack(id);
  };
  return (
    <div className="max-h-[196px] min-h-[57px] overflow-auto">
      <ul aria-label="Tracks">
        {tracks.map((track) => (
          <TrackRow key={track.id} track={track} chosen={track.id === chosen} mayEdit={mayEdit} />
        ))}
      </ul>
      {templateId && (
        <button
          type="button"
          disabled={!mayEdit}
          onClick={add}
          className="flex min-h-6 items-center gap-1 px-3 text-xs text-ink-2 hover:text-ink disabled:opacity-50"
        >
          <Plus size={12} aria-hidden /> Add a track to the template
        </button>
      )}
    </div>
  );
}

function TrackRow({ track, chosen, mayEdit }: { track: Item<'track'>; chosen: boolean; mayEdit: boolean }) {
  const meter = useRef<HTMLDivElement>(null);
  const shown = useRef(0);
  useFrame(() => {
    const peak = meters.tracks[track.id]?.peak ?? 0;
    const db = Math.max(-60, gainToDb(peak));
    shown.current = Math.max(0, (db + 60) / 60, shown.current - 0.02);
    if (meter.current) meter.current.style.width = `${Math.min(100, shown.current * 100)}%`;
  });
  const toggle = (field: 'muted' | 'soloed') =>
    edit(field === 'muted' ? 'Mute' : 'Solo', [
      { kind: 'track', id: track.id, op: 'update', fields: { [field]: !track[field] } },
    ]);
  const small = (on: boolean, tone: string) =>
    `grid size-6 place-items-center text-xs ${on ? `rounded-sm font-bold ${tone}` : 'text-ink-3 hover:text-ink'}`;
  return (
    <li className={`flex h-[28px] items-center border-b border-rule-soft ${chosen ? 'bg-cool-tint' : ''}`}>
      <button
        type="button"
        aria-pressed={chosen}
        onClick={() => selectTrack(track.id)}
        className="flex h-full w-[176px] shrink-0 items-center gap-2 pl-3 text-left"
      >
        <FamilyTag family={track.family} />
        <span className={`truncate ${chosen ? 'font-semibold' : ''}`}>{track.name}</span>
      </button>
      <button
        type="button"
        disabled={!mayEdit}
        aria-pressed={track.muted}
        aria-label={`Mute ${track.name}`}
        title="Mute"
        onClick={() => toggle('muted')}
        className={small(track.muted, 'bg-warm-tint text-warm')}
      >
        m
      </button>
      <button
        type="button"
        disabled={!mayEdit}
        aria-pressed={track.soloed}
        aria-label={`Solo ${track.name}`}
        title="Hear alone"
        onClick={() => toggle('soloed')}
        className={small(track.soloed, 'bg-straw-tint text-straw')}
      >
        s
      </button>
      <div
        className="mr-3 ml-1 h-[3px] w-[56px] shrink-0 bg-rule-soft"
        title="Level of the track"
        aria-hidden
      >
        <div ref={meter} className="h-full bg-ink-3" />
      </div>
      <Overview track={track} />
    </li>
  );
}

/** The whole cue in little: notes of one track, and the part that the editor shows. */
function Overview({ track }: { track: Item<'track'> }) {
  const [frame, { width }] = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const playhead = useRef<HTMLDivElement>(null);
  const records = useDocuments((state) => state.records);
  const cue = useItem(
    'cue',
    useDocuments((state) => state.cueId),
  );
  const theme = useTheme((state) => state.theme);
  const { part } = partOf(records, track.id);
  const end = Math.max(cue?.endTick ?? 0, part.notes.at(-1)?.endTick ?? 0, 3840);
  useEffect(() => {
    const context = canvas.current && fitCanvas(canvas.current, width, ROW_HEIGHT);
    if (!canvas.current || !context) return;
    const inks = inksOf(canvas.current);
    context.clearRect(0, 0, width, ROW_HEIGHT);
    const keys = part.notes.map((note) => note.key);
    const [low, high] = [Math.min(...keys), Math.max(...keys)];
    const span = Math.max(12, high - low);
    context.fillStyle = inks.ink2;
    for (const note of part.notes) {
      const x = (note.startTick / end) * width;
      context.fillRect(
        x,
        5 + ((high - note.key) / span) * (ROW_HEIGHT - 12),
        Math.max(1.5, ((note.endTick - note.startTick) / end) * width - 1),
        2,
      );
    }
  }, [width, part, end, theme]);
  useFrame(() => {
    if (playhead.current)
      playhead.current.style.transform = `translateX(${(playheadTick() / end) * width}px)`;
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
          startTick: Math.max(-240, ((event.clientX - box.left) / box.width) * end - 960),
        });
      }}
    >
      <canvas ref={canvas} style={{ width, height: ROW_HEIGHT }} className="block" />
      <div ref={playhead} className="absolute top-0 bottom-0 left-0 w-px bg-warm" />
    </div>
  );
}
