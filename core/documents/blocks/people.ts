import { z } from 'zod';
import { attributeIdSchema } from '../../attributes/attribute.ts';
import { type BlockKind, blockFields } from './kind.ts';

// Blocks that ask or tell people something about themselves.

export const formSchema = z.object({
  kind: z.literal('form'),
  ...blockFields,
  /** Attributes of the contact that the answers fill. */
  fields: z
    .array(
      z.object({
        attribute: attributeIdSchema,
        label: z.string().max(200),
        required: z.boolean(),
        /** Which choices are offered; all of them when not given. */
        only: z.array(z.string().max(120)).max(500).optional(),
      }),
    )
    .max(40),
  submit: z.string().min(1).max(80),
  /** Where on the site one is taken after; the same page when empty. */
  next: z.string().max(200),
});
export type FormBlock = z.infer<typeof formSchema>;

export const form: BlockKind<FormBlock> = {
  fresh: (newId) => ({ kind: 'form', id: newId(), fields: [], submit: 'Send', next: '' }),
  words: ({ submit }) => submit,
  pageOnly: 'A form',
  unreleasable: ({ fields }, { catalogue }) => [
    ...(fields.length === 0 ? ['A form has no field'] : []),
    ...fields
      .filter(({ attribute }) => catalogue.get(attribute)?.source !== 'contact')
      .map(({ attribute }) => `A form fills an attribute that is gone: “${attribute}”`),
  ],
};

/** Sign in, or who is signed in with the way out. */
export const accountSchema = z.object({ kind: z.literal('account'), ...blockFields });

export const account: BlockKind<z.infer<typeof accountSchema>> = {
  fresh: (newId) => ({ kind: 'account', id: newId() }),
  pageOnly: 'A sign-in box',
};

/** Why a place is closed and what opens it: sign in where nobody is signed in, otherwise another address. */
export const noticeSchema = z.object({
  kind: z.literal('notice'),
  ...blockFields,
  signedOut: z.string().max(500),
  signedIn: z.string().max(500),
  address: z.string().max(2000),
});

export const notice: BlockKind<z.infer<typeof noticeSchema>> = {
  fresh: (newId) => ({
    kind: 'notice',
    id: newId(),
    signedOut: 'Sign in to go on.',
    signedIn: 'Your membership does not open this yet.',
    address: '/site/',
  }),
  words: ({ signedOut }) => signedOut,
  pageOnly: 'An access notice',
  addresses: ({ address }) => (address === '' ? [] : [address]),
};

export const countdownSchema = z.object({
  kind: z.literal('countdown'),
  ...blockFields,
  /** A local date and time of the site's zone, such as `2026-12-24T18:00`. */
  until: z.string().regex(/^\d{4}-\d\d-\d\dT\d\d:\d\d$/, 'is not a date and time'),
  label: z.string().max(200),
  /** What stands there when it is over. */
  over: z.string().max(200),
});

export const countdown: BlockKind<z.infer<typeof countdownSchema>> = {
  fresh: (newId) => ({
    kind: 'countdown',
    id: newId(),
    until: '2027-01-01T00:00',
    label: 'Until the new year',
    over: 'It has begun.',
  }),
  words: ({ label }) => label,
  pageOnly: 'A countdown',
};
