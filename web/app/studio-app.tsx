import { createBrowserRouter, Navigate } from 'react-router';
import { RouterProvider } from 'react-router/dom';
import { Shell } from './shell.tsx';
import { ViewTrouble } from './view-trouble.tsx';

// Each view comes when it is first opened.
const router = createBrowserRouter([
  {
    path: '/',
    element: <Shell />,
    errorElement: <ViewTrouble />,
    HydrateFallback: () => null,
    children: [
      { index: true, element: <Navigate to="/cue" replace /> },
      {
        path: 'shelf/:instrumentId?',
        lazy: async () => ({ Component: (await import('../views/shelf/shelf-view.tsx')).ShelfView }),
      },
      {
        path: 'listen',
        lazy: async () => ({ Component: (await import('../views/listen/listen-view.tsx')).ListenView }),
      },
      {
        path: 'keymaps/:kind?/:id?',
        lazy: async () => ({ Component: (await import('../views/keymaps/keymaps-view.tsx')).KeymapsView }),
      },
      {
        path: 'balance',
        lazy: async () => ({ Component: (await import('../views/balance/balance-view.tsx')).BalanceView }),
      },
      {
        path: 'template',
        lazy: async () => ({ Component: (await import('../views/template/template-view.tsx')).TemplateView }),
      },
      {
        path: 'cue/:cueId?/:trackId?',
        lazy: async () => ({ Component: (await import('../views/cue/cue-view.tsx')).CueView }),
      },
      {
        path: 'deliver',
        lazy: async () => ({ Component: (await import('../views/deliver/deliver-view.tsx')).DeliverView }),
      },
      {
        path: 'studio',
        lazy: async () => ({ Component: (await import('../views/studio/studio-view.tsx')).StudioView }),
      },
      { path: '*', element: <Navigate to="/cue" replace /> },
    ],
  },
]);

/** The studio's views behind the sign-in. */
export function StudioApp() {
  return <RouterProvider router={router} />;
}
