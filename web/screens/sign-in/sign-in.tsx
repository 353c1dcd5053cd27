import { lazy, useState } from 'react';
import { type Session, sessionSchema } from '../../../contract/session.ts';
import { call, messageOf, readAgain, setSession } from '../../data/api.ts';
import { Button } from '../../parts/button.tsx';
import { TextField } from '../../parts/field.tsx';
import { Notice } from '../../parts/notice.tsx';

const FirstStart = lazy(async () => ({ default: (await import('./first-start.tsx')).FirstStart }));

/**
 * The whole window of who is not signed in.
 *
 * @param onTry called as soon as somebody submits the form
 */
export function SignIn({
  demo,
  firstStart,
  onTry,
}: Pick<Session, 'demo' | 'firstStart'> & { onTry: () => void }) {
  return (
    <main className="flex h-full items-center justify-center p-8">
      <div className="w-[400px] max-w-full">
        <div className="mb-6 flex items-center gap-3">
          <img src="/mark.svg" alt="" className="size-11 rounded-md dark:bg-[#f6f2e9]" />
          <div>
            <h1 className="text-[26px] leading-8">Apple Porch</h1>
            <p className="text-quiet">See your site as each caller sees it</p>
          </div>
        </div>
        {firstStart ? <FirstStart /> : <SignInForm demo={demo} onTry={onTry} />}
      </div>
    </main>
  );
}

interface Credentials {
  readonly email: string;
  readonly password: string;
}

export function SignInForm({ demo, onTry }: { demo: Session['demo']; onTry?: () => void }) {
  const [problem, setProblem] = useState<string>();
  const [lacks, setLacks] = useState({ email: false, password: false });
  const [isBusy, setIsBusy] = useState(false);
  const signIn = async (credentials: Credentials) => {
    const missing = { email: credentials.email.trim() === '', password: credentials.password === '' };
    setLacks(missing);
    if (missing.email || missing.password) return;
    onTry?.();
    setIsBusy(true);
    try {
      await setSession(await call('POST', '/session', sessionSchema, credentials));
      readAgain();
    } catch (error) {
      setProblem(messageOf(error));
    } finally {
      setIsBusy(false);
    }
  };
  return (
    <>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          const typed = new FormData(event.currentTarget);
          void signIn({ email: String(typed.get('email')), password: String(typed.get('password')) });
        }}
        noValidate
        className="flex flex-col gap-2 rounded-md border border-line bg-paper p-6 shadow-soft"
      >
        {problem !== undefined && <Notice kind="wrong" title={problem} />}
        <TextField
          label="Email address"
          name="email"
          type="email"
          autoComplete="username"
          autoFocus
          problem={lacks.email ? 'An email address is needed' : undefined}
        />
        <TextField
          label="Password"
          name="password"
          type="password"
          autoComplete="current-password"
          problem={lacks.password ? 'A password is needed' : undefined}
        />
        <Button look="primary" type="submit" disabled={isBusy}>
          Sign in
        </Button>
      </form>
      {demo && (
        <div className="mt-4 rounded-md border border-dashed border-edge px-4 py-3">
          <p>
            This is a demo. Sign in as <strong>{demo.email}</strong> with{' '}
            <strong className="whitespace-nowrap">{demo.password}</strong>
          </p>
          <Button className="mt-2" disabled={isBusy} onClick={() => void signIn(demo)}>
            Sign in to the demo
          </Button>
        </div>
      )}
    </>
  );
}
