import { lazy, StrictMode, Suspense, useState } from 'react';
import { createRoot } from 'react-dom/client';
import './style.css';
import { type Account, sessionSchema } from '../../contract/session.ts';
import { call, callWithoutAnswer, setOwner, setSession, useApi } from '../data/api.ts';
import { storeAllWork } from '../data/open-work.ts';
import { notePosition } from '../data/position.ts';

const opening = () => import('./app.tsx');
const Studio = lazy(async () => ({ default: (await opening()).Studio }));
const SignIn = lazy(async () => ({ default: (await import('../screens/sign-in/sign-in.tsx')).SignIn }));

/** Who was signed in when the page was sent; it may have been kept by the browser, so this is asked for again. */
const sent = document.getElementById('session');
const sentSession = sent?.textContent ? sessionSchema.parse(JSON.parse(sent.textContent)) : undefined;
// Before anything else is asked for: changes are followed from here on.
notePosition(sent?.dataset.position ?? null);

/** Shows the sign-in screen, or the studio once somebody is signed in; only then its code is loaded. */
function Door() {
  const { data: session, error } = useApi('/session', sessionSchema, { first: sentSession });
  /** The account this window belongs to. It stays set when the session expires, so that unsaved work stays on screen. */
  const [owner, setOwnerHere] = useState<Account>();
  const change = (next: Account | undefined) => {
    setOwner(next);
    setOwnerHere(next);
  };
  if (!session) return error ? <p className="p-8">{error.message}</p> : null;
  const account = session.account ?? undefined;
  const who = owner ?? account;
  return (
    <Suspense>
      {who ? (
        <Studio
          owner={who}
          account={account}
          demo={session.demo}
          onCome={change}
          onSignOut={() => void signOut(() => change(undefined))}
        />
      ) : (
        <SignIn demo={session.demo} firstStart={session.firstStart} onTry={() => void opening()} />
      )}
    </Suspense>
  );
}

/** Signs out once everything is stored that can be. */
async function signOut(onDone: () => void) {
  await storeAllWork();
  await callWithoutAnswer('DELETE', '/session');
  onDone();
  await setSession(await call('GET', '/session', sessionSchema));
}

const root = document.getElementById('root');
if (!root) throw new Error('the page has no root element');
createRoot(root).render(
  <StrictMode>
    <Door />
  </StrictMode>,
);
