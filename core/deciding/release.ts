import { z } from 'zod';
import { attributeSchema } from '../attributes/attribute.ts';
import { isZone } from '../attributes/calendar.ts';
import { audienceSchema } from '../audiences/audience.ts';
import { statedFactSchema } from '../audiences/fact.ts';
import { collectionSchema, itemSchema } from '../collections/collection.ts';
import { safeAddress } from '../documents/address.ts';
import { documentSchema } from '../documents/document.ts';

const colour = z.string().regex(/^#[0-9a-fA-F]{6}$/, 'is not a colour such as #1a2b3c');
export const typefaces = ['display', 'plain', 'serif'] as const;
/** The colours and type of the site; widths are in CSS pixels. */
export const themeSchema = z.object({
  ground: colour,
  ink: colour,
  accent: colour,
  onAccent: colour,
  panel: colour,
  headings: z.enum(typefaces),
  /** The viewport width from which sections are laid out side by side. */
  wideFrom: z.number().int().min(320).max(1600),
});
export type Theme = z.infer<typeof themeSchema>;

const pagePath = z.string().max(80);
const entryLabel = z.string().max(80);
const entryFields = {
  /** The page's path, or the address of anything else; neither for a label with entries below it. */
  page: pagePath.optional(),
  address: z
    .string()
    .max(2000)
    .refine((address) => safeAddress(address) !== undefined, 'is not a link such as https://example.org/')
    .optional(),
  /** What the entry is called where it leads to no page. */
  name: entryLabel.optional(),
  variants: z.array(z.object({ audience: z.string().min(1).max(64), label: entryLabel.nullable() })).max(26),
  otherwise: entryLabel.nullable(),
};
interface Leading {
  readonly page?: string | undefined;
  readonly address?: string | undefined;
  readonly name?: string | undefined;
}

function hasName({ page, name = '' }: Leading): boolean {
  return page !== undefined || name.trim() !== '';
}
const nameless = { message: 'needs a name', path: ['name'] };

function leadsToOneAtMost({ page, address }: Leading): boolean {
  return page === undefined || address === undefined;
}
const ambiguous = { message: 'leads to two places', path: ['address'] };

const innerEntrySchema = z.union([
  pagePath,
  z
    .object(entryFields)
    .refine(hasName, nameless)
    .refine(({ page, address }) => (page === undefined) !== (address === undefined), {
      message: 'needs one place that it leads to',
      path: ['address'],
    }),
]);
/**
 * An entry of the site's menu: a page's path, or a place with labels by audience and, at the top level, entries below it.
 * The first matching audience decides, then everyone else. A blank label is the entry's own name; null hides the entry.
 */
export const menuEntrySchema = z.union([
  pagePath,
  z
    .object({ ...entryFields, entries: z.array(innerEntrySchema).max(30).optional() })
    .refine(hasName, nameless)
    .refine(leadsToOneAtMost, ambiguous)
    .refine(
      ({ page, address, entries }) => page !== undefined || address !== undefined || entries !== undefined,
      {
        message: 'leads nowhere',
        path: ['address'],
      },
    ),
]);
export type MenuEntry = z.infer<typeof menuEntrySchema>;

/** The built-in pages of the site, which are not made in the studio. */
export const ownPages = ['sign-in', 'closed', 'not-found', 'search', 'unsubscribe', 'unsubscribed'] as const;
export type OwnPage = (typeof ownPages)[number];

const ownPageWordsSchema = z.object({
  title: z.string().trim().min(1, 'A title is needed').max(120),
  text: z.string().max(1000),
});
export type OwnPageWords = z.infer<typeof ownPageWordsSchema>;

/** Whether Intl can format dates and numbers in a language. */
function isLocale(tag: string): boolean {
  try {
    return Intl.NumberFormat.supportedLocalesOf(tag).length > 0;
  } catch {
    return false;
  }
}

export const siteSettingsSchema = z.object({
  name: z.string().min(1).max(120),
  /** IANA name. */
  zone: z.string().refine(isZone, 'is not a time zone'),
  /** BCP 47 tag for dates and numbers in text. */
  locale: z.string().min(2).max(20).refine(isLocale, 'is not a language of dates and numbers, such as en-GB'),
  /** The footer of every email. It is the same for everyone, and no email is sent without it. */
  postalAddress: z.string().max(300),
  fromAddress: z.email(),
  /** All pages but the home page when not given. */
  menu: z.array(menuEntrySchema).max(60).optional(),
  /** The ids of the not-found page and of the page shown after signing in. */
  notFoundPage: z.string().max(64).nullable().optional(),
  afterSignIn: z.string().max(64).nullable().optional(),
  theme: themeSchema.optional(),
  /** The heading and the text below it of the site's own pages, where they are not the usual ones. */
  ownPages: z.partialRecord(z.enum(ownPages), ownPageWordsSchema).optional(),
});
export type SiteSettings = z.infer<typeof siteSettingsSchema>;

/** The name and time zone of a site that is not set up yet. */
export const unsetSettings: SiteSettings = {
  name: 'Apple Porch',
  zone: 'UTC',
  locale: 'en',
  postalAddress: '',
  fromAddress: 'site@example.org',
};

/** Everything that deciding and rendering need, frozen at one moment: what a release holds, or the drafts. */
export const snapshotSchema = z.object({
  settings: siteSettingsSchema,
  attributes: z.array(attributeSchema),
  audiences: z.array(audienceSchema),
  documents: z.array(documentSchema),
  /** Data rules that every contact follows; proofs rely on them, decisions do not. */
  facts: z.array(statedFactSchema).optional(),
  collections: z.array(collectionSchema).optional(),
  items: z.array(itemSchema).optional(),
});
export type Snapshot = z.infer<typeof snapshotSchema>;
