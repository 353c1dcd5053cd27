import { lazy, StrictMode, Suspense } from 'react';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router';
import './style.css';
import { LookingProvider } from '../data/looking.tsx';
import { Shell } from './shell.tsx';

const Toaster = lazy(async () => ({ default: (await import('sonner')).Toaster }));

const router = createBrowserRouter([
  {
    element: <Shell />,
    HydrateFallback: () => null,
    children: [
      { index: true, element: <Navigate to="/people" replace /> },
      { path: 'people', lazy: () => import('../screens/people/people.tsx') },
      { path: 'people/import', lazy: () => import('../screens/import/import.tsx') },
      { path: 'people/import/:id', lazy: () => import('../screens/import/import.tsx') },
      { path: 'people/attributes', lazy: () => import('../screens/attributes/attributes.tsx') },
      { path: 'people/attributes/:id', lazy: () => import('../screens/attributes/attributes.tsx') },
      { path: 'people/facts', lazy: () => import('../screens/facts/facts.tsx') },
      { path: 'people/sync', lazy: () => import('../screens/crm/crm.tsx') },
      { path: 'people/:id', lazy: () => import('../screens/contact/contact.tsx') },
      { path: 'audiences', lazy: () => import('../screens/audiences/audiences.tsx') },
      { path: 'audiences/compare', lazy: () => import('../screens/audiences/compare.tsx') },
      { path: 'audiences/:id', lazy: () => import('../screens/audiences/audience.tsx') },
      { path: 'pages', lazy: () => import('../screens/documents/pages.tsx') },
      { path: 'emails', lazy: () => import('../screens/documents/emails.tsx') },
      { path: 'pages/:id', lazy: () => import('../screens/documents/editor.tsx') },
      { path: 'emails/:id', lazy: () => import('../screens/documents/editor.tsx') },
      { path: 'shared', lazy: () => import('../screens/documents/shared.tsx') },
      { path: 'shared/:id', lazy: () => import('../screens/documents/editor.tsx') },
      { path: 'collections', lazy: () => import('../screens/collections/collections.tsx') },
      { path: 'collections/:id', lazy: () => import('../screens/collections/collection.tsx') },
      { path: 'site-settings', lazy: () => import('../screens/site/settings.tsx') },
      { path: 'other-sites', lazy: () => import('../screens/site/other-sites.tsx') },
      { path: 'lineup', lazy: () => import('../screens/lineup/lineup.tsx') },
      { path: 'lineup/:id', lazy: () => import('../screens/lineup/lineup.tsx') },
      { path: 'activity', lazy: () => import('../screens/activity/activity.tsx') },
      { path: 'releases', lazy: () => import('../screens/releases/releases.tsx') },
      { path: 'mailbox', lazy: () => import('../screens/mailbox/mailbox.tsx') },
      { path: 'mailbox/:id', lazy: () => import('../screens/mailbox/mailbox.tsx') },
      { path: '*', lazy: () => import('../screens/not-found.tsx') },
    ],
  },
]);

const root = document.getElementById('root');
if (!root) throw new Error('the page has no root element');
createRoot(root).render(
  <StrictMode>
    <LookingProvider>
      <RouterProvider router={router} />
      <Suspense>
        <Toaster position="top-center" offset={60} toastOptions={{ className: 'font-sans' }} />
      </Suspense>
    </LookingProvider>
  </StrictMode>,
);
