import { z } from 'zod';

export const signInSchema = z.object({
  email: z.string().trim().min(1).max(254),
  password: z.string().min(1).max(1000),
});
export type SignIn = z.infer<typeof signInSchema>;

/** What a known user signs in with on the site. */
export const siteSignInSchema = z.object({
  email: z.string().trim().max(254),
  password: z.string().max(1000),
});
