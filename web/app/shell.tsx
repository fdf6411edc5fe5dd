import { lazy, Suspense, useEffect, useState } from 'react';
import { NavLink, Outlet } from 'react-router';
import { Ear, KeyboardMusic, Library, ListTree, Music4, PackageOpen, SlidersHorizontal } from 'lucide-react';
import { toast } from 'sonner';
import { listenToStudio } from '../state/live.ts';
import { watchLibraries } from '../state/libraries.ts';
import { followShelf } from '../state/shelf.ts';
import { usePerformance } from '../sound/performance-state.ts';
import { Asking } from '../ui/ask.tsx';
import { onGlobalKey, useSingleKeys } from './keys.ts';
import { followDocuments, openStudio } from './opening.ts';
import { isStripOpen } from './strip-fold.ts';
import { SignInAgain } from './sign-in-again.tsx';
import { TopLine } from './top-line.tsx';

const VIEWS = [
  { to: '/shelf', name: 'Shelf', Icon: Library },
  { to: '/listen', name: 'Listen', Icon: Ear },
  { to: '/keymaps', name: 'Keymaps', Icon: KeyboardMusic },
  { to: '/balance', name: 'Balance', Icon: SlidersHorizontal },
  { to: '/template', name: 'Template', Icon: ListTree },
  { to: '/cue', name: 'Cue', Icon: Music4 },
  { to: '/deliver', name: 'Deliver', Icon: PackageOpen },
];

const KeyPage = lazy(async () => ({ default: (await import('./key-page.tsx')).KeyPage }));
const PlayingStrip = lazy(async () => ({ default: (await import('./playing-strip.tsx')).PlayingStrip }));
const TrialLine = lazy(async () => ({ default: (await import('./trial-line.tsx')).TrialLine }));

let started = false;

/** Rail, top line, view and playing strip. */
export function Shell() {
  const [trouble, setTrouble] = useState<string>();
  const asksForKeys = useSingleKeys((state) => state.help);
  const trying = usePerformance((state) => state.trial !== undefined);
  useEffect(() => {
    if (!started) {
      started = true;
      void import('../sound/performance.ts').then(({ startPerformance }) => startPerformance());
      followShelf();
      // Nothing on the page waits for it.
      void import('../sound/measuring.ts').then(({ offerMeasuring }) => offerMeasuring());
      // Listening begins before anything is opened, so that no change falls between.
      listenToStudio(followDocuments);
      openStudio().catch((error: Error) => setTrouble(error.message));
    }
    const unwatch = watchLibraries();
    addEventListener('keydown', onGlobalKey);
    const lost = () => toast.error('The connection is gone. Edits are kept here and sent when it is back.');
    addEventListener('offline', lost);
    return () => {
      unwatch();
      removeEventListener('keydown', onGlobalKey);
      removeEventListener('offline', lost);
    };
  }, []);
  return (
    <div className="grid h-full grid-cols-[84px_minmax(0,1fr)] grid-rows-[44px_minmax(0,1fr)_auto]">
      <a
        href="#main"
        className="absolute -top-20 left-2 z-50 border border-cool bg-raised px-3 py-1.5 focus:top-2"
      >
        Skip to the view
      </a>
      <TopLine />
      <nav aria-label="Views" className="overflow-y-auto border-r border-rule bg-ground pt-1">
        {VIEWS.map(({ to, name, Icon }) => (
          <NavLink
            key={to}
            to={to}
            className={({ isActive }) =>
              `flex flex-col gap-0.5 border-l-[3px] px-3 py-2 ${isActive ? 'border-cool bg-sheet font-semibold text-ink' : 'border-transparent text-ink-2 hover:text-ink'}`
            }
          >
            <Icon size={15} aria-hidden />
            {name}
          </NavLink>
        ))}
      </nav>
      <main id="main" tabIndex={-1} className="min-h-0 min-w-0 bg-sheet outline-none">
        {trouble ? (
          <p role="alert" className="p-8">
            {trouble}{' '}
            <button type="button" className="text-cool underline" onClick={() => location.reload()}>
              Try again
            </button>
          </p>
        ) : (
          <div className="flex h-full flex-col">
            {trying && (
              <Suspense>
                <TrialLine />
              </Suspense>
            )}
            {/* In a window too small for a view, or at a large zoom, the view scrolls as a whole. */}
            <div className="min-h-0 flex-1 overflow-auto">
              <div className="h-full min-h-[540px] min-w-[640px]">
                <Outlet />
              </div>
            </div>
          </div>
        )}
      </main>
      <Suspense
        fallback={
          <div
            className={`col-span-2 border-t border-rule bg-sheet ${isStripOpen() ? 'h-[93px]' : 'h-[31px]'}`}
          />
        }
      >
        <PlayingStrip />
      </Suspense>
      <SignInAgain />
      {asksForKeys && (
        <Suspense>
          <KeyPage />
        </Suspense>
      )}
      <Asking />
    </div>
  );
}
