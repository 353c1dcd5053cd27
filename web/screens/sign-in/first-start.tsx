import { useState } from 'react';
import { useForm } from 'react-hook-form';
import type { FirstStart as Asked } from '../../../contract/first-start.ts';
import { sessionSchema } from '../../../contract/session.ts';
import { call, messageOf, readAgain, setSession } from '../../data/api.ts';
import { Button } from '../../parts/button.tsx';
import { TextField } from '../../parts/field.tsx';
import { Notice } from '../../parts/notice.tsx';

/** What a new installation asks first: whose account is the first, and what the site is called. */
export function FirstStart() {
  const [problem, setProblem] = useState<string>();
  const { register, handleSubmit, formState } = useForm<Asked>();
  const { timeZone, locale } = Intl.DateTimeFormat().resolvedOptions();
  const begin = handleSubmit(async (asked) => {
    try {
      const body = { ...asked, zone: timeZone, locale };
      await setSession(await call('POST', '/session/first', sessionSchema, body));
      readAgain();
    } catch (error) {
      setProblem(messageOf(error));
    }
  });
  return (
    <form
      onSubmit={begin}
      noValidate
      className="flex flex-col gap-2 rounded-md border border-line bg-paper p-6 shadow-soft"
    >
      <h2 className="text-[18px]">Set up your site</h2>
      <p className="mb-2 text-quiet">This creates the first account, with full access.</p>
      {problem !== undefined && <Notice kind="wrong" title={problem} />}
      <TextField
        label="Name of the site"
        autoFocus
        problem={formState.errors.siteName?.message}
        hint={`Dates follow the time zone ${timeZone}. You can change both under Site settings.`}
        {...register('siteName', {
          required: 'A name is needed',
          maxLength: { value: 120, message: tooLong },
        })}
      />
      <TextField
        label="Your name"
        autoComplete="name"
        problem={formState.errors.name?.message}
        {...register('name', { required: 'A name is needed', maxLength: { value: 120, message: tooLong } })}
      />
      <TextField
        label="Email address"
        type="email"
        autoComplete="username"
        problem={formState.errors.email?.message}
        {...register('email', {
          required: 'An email address is needed',
          pattern: { value: /^[^\s@]+@[^\s@]+\.[^\s@]+$/, message: 'This is not an email address' },
        })}
      />
      <TextField
        label="Password"
        type="password"
        autoComplete="new-password"
        hint="At least 10 characters"
        problem={formState.errors.password?.message}
        {...register('password', {
          required: 'A password is needed',
          minLength: { value: 10, message: 'Use at least 10 characters' },
        })}
      />
      <Button look="primary" type="submit" disabled={formState.isSubmitting}>
        Create the account
      </Button>
    </form>
  );
}

const tooLong = 'Use at most 120 characters';
