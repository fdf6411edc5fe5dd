import { useEffect, useState } from 'react';
import { createBrowserRouter, Navigate } from 'react-router';
import { RouterProvider } from 'react-router/dom';
import { Toaster } from 'sonner';
import { useSession } from '../state/session.ts';
import { CueView } from '../views/cue/cue-view.tsx';
import { DeliverView } from '../views/deliver/deliver-view.tsx';
import { ListenView } from '../views/listen/listen-view.tsx';
import { ShelfView } from '../views/shelf/shelf-view.tsx';
import { Shell } from './shell.tsx';
import { SignIn } from './sign-in.tsx';
import { applyTheme, useTheme } from './theme-choice.ts';

const router = createBrowserRouter([
  {
    path: '/',
    element: <Shell />,
    children: [
      { index: true, element: <Navigate to="/cue" replace /> },
      { path: 'shelf', element: <ShelfView /> },
      { path: 'listen', element: <ListenView /> },
      { path: 'cue', element: <CueView /> },
      { path: 'deliver', element: <DeliverView /> },
      { path: '*', element: <Navigate to="/cue" replace /> },
    ],
  },
]);

/** The whole page: sign-in for strangers, the shell with its views for members. */
export function App() {
  const info = useSession((state) => state.info);
  const [trouble, setTrouble] = useState<string>();
  const theme = useTheme((state) => state.theme);
  useEffect(() => applyTheme(theme), [theme]);
  useEffect(() => {
    useSession
      .getState()
      .load()
      .catch((error: Error) => setTrouble(error.message));
  }, []);
  return (
    <>
      {trouble !== undefined && !info ? (
        <Waiting>
          <p>{trouble}</p>
          <button type="button" className="mt-2 underline" onClick={() => location.reload()}>
            Try again
          </button>
        </Waiting>
      ) : !info ? (
        <Waiting>Opening Farlo …</Waiting>
      ) : info.user ? (
        <RouterProvider router={router} />
      ) : (
        <SignIn demo={info.demo} />
      )}
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
    </>
  );
}

function Waiting({ children }: { children: React.ReactNode }) {
  return (
    <main className="grid h-full place-items-center text-ink-2" aria-live="polite">
      <div>{children}</div>
    </main>
  );
}
