import './no-eval.ts';
// Only the studio shows what is written in code; the sign-in screen has no use for its font.
import '@fontsource-variable/jetbrains-mono/wght.css';
import './studio.css';
import { useEffect } from 'react';
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router';
import type { Account, Session } from '../../contract/session.ts';
import { followChanges } from '../data/changes.ts';
import { LookingProvider } from '../data/looking.tsx';
import { storeWorkAgain } from '../data/open-work.ts';
import { Toasts } from '../parts/toast.tsx';
import { OwnerContext } from './owner.ts';
import { firstPlace, screens } from './screens.ts';
import { SignInAgain, SomebodyElse } from './session-dialogs.tsx';
import { Shell } from './shell.tsx';

const router = createBrowserRouter([
  {
    element: <Shell />,
    HydrateFallback: () => null,
    children: [
      { index: true, element: <Navigate to={`/${firstPlace}`} replace /> },
      ...screens.map(([path, lazy]) => ({ path, lazy })),
      { path: '*', lazy: () => import('../screens/not-found.tsx') },
    ],
  },
  {
    path: 'preview/:id',
    HydrateFallback: () => null,
    lazy: () => import('../screens/documents/preview.tsx'),
  },
]);

/**
 * The studio for a signed-in account.
 *
 * @param owner whose window it is
 * @param account who is signed in now; undefined once their session ended
 * @param onCome called with the account that signed in
 */
export function Studio({
  owner,
  account,
  demo,
  onCome,
  onSignOut,
}: {
  owner: Account;
  account: Account | undefined;
  demo: Session['demo'];
  onCome: (account: Account) => void;
  onSignOut: () => void;
}) {
  const isOther = account !== undefined && owner.email !== account.email;
  // biome-ignore lint/correctness/useExhaustiveDependencies: when somebody comes
  useEffect(() => {
    if (!account || isOther) return;
    onCome(account);
    storeWorkAgain();
  }, [account?.email]);
  useEffect(() => (account?.email === undefined ? undefined : followChanges()), [account?.email]);
  return (
    <OwnerContext value={{ name: owner.name, signOut: onSignOut }}>
      <LookingProvider>
        <RouterProvider router={router} />
      </LookingProvider>
      {!account && <SignInAgain demo={demo} />}
      {isOther && <SomebodyElse owner={owner} account={account} />}
      <Toasts />
    </OwnerContext>
  );
}
