import { lazy, Suspense } from 'react';
import { type Account, type Session, sessionSchema } from '../../contract/session.ts';
import { call, callWithoutAnswer, setSession } from '../data/api.ts';
import { openAnew } from '../data/open-work.ts';
import { Button } from '../parts/button.tsx';
import { Dialog } from '../parts/dialog.tsx';

const SignInForm = lazy(async () => ({
  default: (await import('../screens/sign-in/sign-in.tsx')).SignInForm,
}));

/** Over the screen of one person, once another one is signed in in the same browser. */
export function SomebodyElse({ owner, account }: { owner: Account; account: Account }) {
  return (
    <Dialog
      open
      unasked
      title={`${account.name} is signed in now`}
      description={`${owner.name} opened this window. Changes that aren’t saved yet stay in this browser; nothing is saved under another name.`}
    >
      <div className="flex justify-end gap-2">
        <Button onClick={() => void endSession()}>Sign in as {owner.name}</Button>
        <Button look="primary" onClick={openAnew}>
          Continue as {account.name}
        </Button>
      </div>
    </Dialog>
  );
}

/** Over the screen of who was signed in: what was written there stays, and is saved afterwards. */
export function SignInAgain({ demo }: { demo: Session['demo'] }) {
  return (
    <Dialog
      open
      title="Your session has ended"
      description="Sign in again to go on. What you wrote is still here, and is saved when you are back."
    >
      <Suspense>
        <SignInForm demo={demo} />
      </Suspense>
    </Dialog>
  );
}

/** Ends the current session; the sign-in dialog then opens over the screen. */
async function endSession() {
  await callWithoutAnswer('DELETE', '/session');
  await setSession(await call('GET', '/session', sessionSchema));
}
