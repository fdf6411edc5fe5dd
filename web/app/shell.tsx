import { useEffect, useState } from 'react';
import { NavLink, Outlet } from 'react-router';
import { toast } from 'sonner';
import { Ear, Library, Music4, PackageOpen } from 'lucide-react';
import { redo, undo, useDocuments } from '../state/documents.ts';
import { useSession } from '../state/session.ts';
import { isTyping } from '../sound/computer-keys.ts';
import {
  locate,
  orderedTracks,
  play,
  selectTrack,
  startPerformance,
  stop,
  toggleLoop,
  usePerformance,
} from '../sound/performance.ts';
import { offerMeasuring } from '../sound/measuring.ts';
import { followShelf } from '../state/shelf.ts';
import { watchLibraries } from '../state/libraries.ts';
import { PlayingStrip } from './playing-strip.tsx';
import { TopLine } from './top-line.tsx';
import { TrialLine } from './trial-line.tsx';

const VIEWS = [
  { to: '/shelf', name: 'Shelf', Icon: Library },
  { to: '/listen', name: 'Listen', Icon: Ear },
  { to: '/cue', name: 'Cue', Icon: Music4 },
  { to: '/deliver', name: 'Deliver', Icon: PackageOpen },
];

const CUE_KEY = 'farlo-cue';
let started = false;

/** Opens a cue with its template; remembered for the next visit. */
export async function openCue(cueId: string): Promise<void> {
  const cue = useSession.getState().overview?.cues.find((candidate) => candidate.id === cueId);
  if (!cue) return;
  stop();
  localStorage.setItem(CUE_KEY, cueId);
  const { openTemplate, openCue: open, templateId } = useDocuments.getState();
  if (templateId !== cue.templateId) await openTemplate(cue.templateId);
  await open(cueId);
  const tracks = orderedTracks(useDocuments.getState().records);
  if (!tracks.some((track) => track.id === usePerformance.getState().trackId) && tracks[0])
    selectTrack(tracks[0].id);
}

async function openFirst(): Promise<void> {
  const { loadOverview } = useSession.getState();
  await loadOverview();
  const shelfId = useSession.getState().overview?.shelfId;
  if (shelfId) await useDocuments.getState().openShelf(shelfId);
  const cues = useSession.getState().overview?.cues ?? [];
  const wanted = localStorage.getItem(CUE_KEY);
  const first = cues.find((cue) => cue.id === wanted) ?? cues[0];
  if (first) await openCue(first.id);
}

/** Keys that work in every view. */
function onKey(event: KeyboardEvent): void {
  if (isTyping(event.target)) return;
  const command = event.ctrlKey || event.metaKey;
  const handled = command
    ? { z: () => (event.shiftKey ? redo() : undo()), y: redo }[event.key.toLowerCase()]
    : {
        ' ': () => (usePerformance.getState().playing ? stop() : void play()),
        Home: () => locate(0),
        '/': toggleLoop,
      }[event.key];
  if (!handled) return;
  // A focused button must not be pressed by the space bar that plays.
  event.preventDefault();
  if (event.target instanceof HTMLElement && event.key === ' ') event.target.blur();
  handled();
}

/** Rail, top line, view and playing strip. */
export function Shell() {
  const [trouble, setTrouble] = useState<string>();
  useEffect(() => {
    if (!started) {
      started = true;
      startPerformance();
      followShelf();
      offerMeasuring();
      openFirst().catch((error: Error) => setTrouble(error.message));
    }
    const unwatch = watchLibraries();
    addEventListener('keydown', onKey);
    const lost = () => toast.error('The connection is gone. Edits are kept here and sent when it is back.');
    addEventListener('offline', lost);
    return () => {
      unwatch();
      removeEventListener('keydown', onKey);
      removeEventListener('offline', lost);
    };
  }, []);
  return (
    <div className="grid h-full grid-cols-[84px_minmax(0,1fr)] grid-rows-[44px_minmax(0,1fr)_auto]">
      <TopLine />
      <nav aria-label="Views" className="border-r border-rule bg-ground pt-1">
        {VIEWS.map(({ to, name, Icon }) => (
          <NavLink
            key={to}
            to={to}
            className={({ isActive }) =>
              `flex flex-col gap-0.5 border-l-[3px] px-3 py-2.5 ${isActive ? 'border-cool bg-sheet font-semibold text-ink' : 'border-transparent text-ink-2 hover:text-ink'}`
            }
          >
            <Icon size={15} aria-hidden />
            {name}
          </NavLink>
        ))}
      </nav>
      <main className="min-h-0 min-w-0 bg-sheet">
        {trouble ? (
          <p role="alert" className="p-8">
            {trouble}{' '}
            <button type="button" className="text-cool underline" onClick={() => location.reload()}>
              Try again
            </button>
          </p>
        ) : (
          <div className="flex h-full flex-col">
            <TrialLine />
            <div className="min-h-0 flex-1">
              <Outlet />
            </div>
          </div>
        )}
      </main>
      <PlayingStrip />
    </div>
  );
}
