import { z } from 'zod';
import { siteSettingsSchema } from '../core/deciding/release.ts';

export const signInSchema = z.object({
  email: z.string().trim().min(1).max(254),
  password: z.string().min(1).max(1000),
});
export type SignIn = z.infer<typeof signInSchema>;

/** Names in each request of a window whose it is: the account's email address, percent-encoded. */
export const signedInAsHeader = 'x-signed-in-as';

/** The first account of an installation and the site that it is for. */
export const firstStartSchema = z.object({
  siteName: z.string().trim().min(1).max(120),
  zone: siteSettingsSchema.shape.zone,
  locale: siteSettingsSchema.shape.locale,
  name: z.string().trim().min(1).max(120),
  email: z.email().max(254),
  password: z.string().min(10).max(1000),
});
export type FirstStart = z.infer<typeof firstStartSchema>;

export const sessionSchema = z.object({
  account: z.object({ email: z.string(), name: z.string() }).nullable(),
  /** The account to try the program with; on a demo instance only. */
  demo: z.object({ email: z.string(), password: z.string() }).nullable(),
  /** Whether there is no account yet, so that whoever comes makes the first. */
  firstStart: z.boolean(),
});
export type Session = z.infer<typeof sessionSchema>;
export type Account = NonNullable<Session['account']>;

/** What a known user signs in with on the site. */
export const siteSignInSchema = z.object({
  email: z.string().trim().max(254),
  password: z.string().max(1000),
});
