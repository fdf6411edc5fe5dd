import { QueryClientProvider } from '@tanstack/react-query';
import { lazy, Suspense, useEffect, useState, type ReactNode } from 'react';
import { Toaster } from 'sonner';
import { queries } from '../state/queries.ts';
import { loadSession, useSession } from '../state/session.ts';
import { NoStudio } from './no-studio.tsx';
import { useTheme } from './theme-choice.ts';

// Strangers need no engine and no views, members no forms to come in by.
const JoinPage = lazy(async () => ({ default: (await import('./join.tsx')).JoinPage }));
const FoundPage = lazy(async () => ({ default: (await import('./found.tsx')).FoundPage }));
const SignInPage = lazy(async () => ({ default: (await import('./sign-in.tsx')).SignInPage }));
const Studio = lazy(async () => ({ default: (await import('./studio-app.tsx')).StudioApp }));

/** The whole page: founding, joining or sign-in for strangers, the shell with its views for members. */
export function App() {
  const info = useSession((state) => state.info);
  const [trouble, setTrouble] = useState<string>();
  const theme = useTheme((state) => state.theme);
  useEffect(() => {
    loadSession().catch((error: Error) => setTrouble(error.message));
  }, []);
  const token = /^\/join\/([\w-]+)$/.exec(location.pathname)?.[1];
  const page = (): ReactNode => {
    if (!info)
      return trouble === undefined ? (
        <Waiting>Opening Farlo …</Waiting>
      ) : (
        <Waiting>
          <p>{trouble}</p>
          <button type="button" className="mt-2 underline" onClick={() => location.reload()}>
            Try again
          </button>
        </Waiting>
      );
    if (token) return <JoinPage token={token} />;
    if (info.founding) return <FoundPage asksCode={info.founding.code} />;
    if (!info.user) return <SignInPage demo={info.demo} />;
    if (!info.studio) return <NoStudio />;
    return <Studio />;
  };
  return (
    <QueryClientProvider client={queries}>
      <Suspense fallback={<Waiting>Opening {info?.studio?.name ?? 'Farlo'} …</Waiting>}>{page()}</Suspense>
      <Toaster
        position="bottom-center"
        theme={theme}
        toastOptions={{
          style: {
            background: 'var(--raised)',
            color: 'var(--ink)',
            border: '1px solid var(--rule)',
            borderRadius: 3,
          },
        }}
      />
    </QueryClientProvider>
  );
}

function Waiting({ children }: { children: ReactNode }) {
  return (
    <main className="grid h-full place-items-center text-ink-2" aria-live="polite">
      <div>{children}</div>
    </main>
  );
}
