import { z } from 'zod';

export const signInSchema = z.object({
  email: z.string().trim().min(1).max(254),
  password: z.string().min(1).max(1000),
});
export type SignIn = z.infer<typeof signInSchema>;

/** Names in each request of a window whose it is: the account's email address, percent-encoded. */
export const signedInAsHeader = 'x-signed-in-as';

export const sessionSchema = z.object({
  account: z.object({ email: z.string(), name: z.string() }).nullable(),
  /** The account to try the program with; on a demo instance only. */
  demo: z.object({ email: z.string(), password: z.string() }).nullable(),
});
export type Session = z.infer<typeof sessionSchema>;
export type Account = NonNullable<Session['account']>;
