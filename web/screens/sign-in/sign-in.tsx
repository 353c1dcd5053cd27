import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { type SignIn as Credentials, type Session, sessionSchema } from '../../../contract/session.ts';
import { call, messageOf, readAgain, setSession } from '../../data/api.ts';
import { Button } from '../../parts/button.tsx';
import { TextField } from '../../parts/field.tsx';
import { Notice } from '../../parts/notice.tsx';
import { FirstStart } from './first-start.tsx';

/** The whole window of who is not signed in. */
export function SignIn({ demo, firstStart }: Pick<Session, 'demo' | 'firstStart'>) {
  return (
    <main className="flex h-full items-center justify-center p-8">
      <div className="w-[400px]">
        <div className="mb-6 flex items-center gap-3">
          <img src="/mark.svg" alt="" className="size-11 rounded-md dark:bg-[#f6f2e9]" />
          <div>
            <h1 className="text-[26px] leading-8">Apple Porch</h1>
            <p className="text-quiet">See your site as each caller sees it</p>
          </div>
        </div>
        {firstStart ? <FirstStart /> : <SignInForm demo={demo} />}
      </div>
    </main>
  );
}

export function SignInForm({ demo }: { demo: Session['demo'] }) {
  const [problem, setProblem] = useState<string>();
  const { register, handleSubmit, setValue, formState } = useForm<Credentials>();
  const signIn = handleSubmit(async (credentials) => {
    try {
      await setSession(await call('POST', '/session', sessionSchema, credentials));
      readAgain();
    } catch (error) {
      setProblem(messageOf(error));
    }
  });
  return (
    <>
      <form
        onSubmit={signIn}
        noValidate
        className="flex flex-col gap-2 rounded-md border border-line bg-paper p-6 shadow-soft"
      >
        {problem !== undefined && <Notice kind="wrong" title={problem} />}
        <TextField
          label="Email address"
          type="email"
          autoComplete="username"
          autoFocus
          problem={formState.errors.email?.message}
          {...register('email', { required: 'An email address is needed' })}
        />
        <TextField
          label="Password"
          type="password"
          autoComplete="current-password"
          problem={formState.errors.password?.message}
          {...register('password', { required: 'A password is needed' })}
        />
        <Button look="primary" type="submit" disabled={formState.isSubmitting}>
          Sign in
        </Button>
      </form>
      {demo && (
        <div className="mt-4 rounded-md border border-dashed border-edge px-4 py-3">
          <p>
            This is a demo. Sign in as <strong>{demo.email}</strong> with{' '}
            <code className="font-mono">{demo.password}</code>
          </p>
          <Button
            className="mt-2"
            onClick={() => {
              setValue('email', demo.email);
              setValue('password', demo.password);
              void signIn();
            }}
          >
            Sign in to the demo
          </Button>
        </div>
      )}
    </>
  );
}
