import { z } from 'zod';

/** Requests and answers of the API that other sites and programs ask for decisions. */
export const slotKeySchema = z
  .string()
  .max(120)
  .regex(/^[\w-]+\/[\w./-]+$/, 'is not a slot such as home/offer-card')
  .describe('The page’s id and the slot’s id with a slash between.');

export const decideRequestSchema = z.object({
  key: z.string().max(100).describe('A key of this site; a server’s key only from a server.'),
  slots: z.array(slotKeySchema).max(100),
  person: z
    .union([
      z.object({ token: z.string().max(200) }).describe('A signed token that says who comes.'),
      z.object({ email: z.string().max(254) }).describe('Only with a server’s key.'),
      z.object({ externalId: z.string().max(190) }).describe('Only with a server’s key.'),
    ])
    .nullable()
    .default(null),
  signedIn: z
    .boolean()
    .default(false)
    .describe('Whether the person has signed in. Only with a server’s key.'),
  visit: z
    .object({
      url: z.string().max(4000).default('/'),
      referrer: z.string().max(2000).default(''),
    })
    .default({ url: '/', referrer: '' }),
  reasons: z.boolean().default(false).describe('Whether to say why. Only with a server’s key.'),
});

const reasonSchema = z.object({
  audience: z.string(),
  holds: z.boolean(),
  because: z
    .string()
    .nullable()
    .describe('The audience’s condition in words; null where it can’t be evaluated.'),
});

export const decideAnswerSchema = z.object({
  release: z.number(),
  slots: z.record(
    z.string(),
    z.object({
      variant: z.string().nullable().describe('The id of the variant; null for everyone else.'),
      html: z.string(),
      reasons: z.array(reasonSchema).optional(),
    }),
  ),
  /** Slots that there are not, or that this person may not see. */
  unknown: z.array(z.string()),
});
export type DecideAnswer = z.infer<typeof decideAnswerSchema>;

export const tokenRequestSchema = z.object({
  key: z.string().max(100).describe('A server’s key.'),
  person: z.union([z.object({ email: z.string().max(254) }), z.object({ externalId: z.string().max(190) })]),
  seconds: z.number().int().min(60).max(3600).default(600),
});
export const tokenAnswerSchema = z.object({ token: z.string() });

export const apiKeySchema = z.object({
  id: z.string(),
  name: z.string(),
  origins: z.array(z.string()),
  isSecret: z.boolean(),
  createdAt: z.string(),
  usedAt: z.string().nullable(),
});
export const apiKeysSchema = z.array(apiKeySchema);
export type ApiKey = z.infer<typeof apiKeySchema>;

export const newApiKeySchema = z.object({
  name: z.string().trim().min(1, 'A name is needed').max(120),
  origins: z
    .array(
      z.string().regex(/^https?:\/\/[\w.-]+(:\d+)?$/, 'is not an origin such as https://www.example.org'),
    )
    .max(20),
  isSecret: z.boolean(),
});
/** The key itself is told once and not kept. */
export const madeApiKeySchema = apiKeySchema.extend({ key: z.string() });

export const installationRequestSchema = z.union([
  z.object({ url: z.url().max(2000), page: z.string().max(64).nullable() }),
  z.object({ html: z.string().max(5_000_000), page: z.string().max(64).nullable() }),
]);
export const installationSchema = z.object({
  /** Whether the script is there, with a key that this site knows. */
  script: z.enum(['there', 'missing', 'without-key', 'unknown-key']),
  slots: z.array(
    z.object({
      key: z.string(),
      name: z.string().nullable(),
      state: z.enum(['found', 'missing', 'doubled', 'misspelt']),
      /** What was probably meant. */
      meant: z.string().nullable(),
      times: z.number(),
    }),
  ),
  passes: z.boolean(),
});
export type Installation = z.infer<typeof installationSchema>;
