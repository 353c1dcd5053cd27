import { z } from 'zod';
import { dayNumber, localDay } from './calendar.ts';
import type { Catalogue } from './catalogue.ts';
import { readValue } from './parse.ts';

export const devices = ['computer', 'tablet', 'phone'] as const;
export type Device = (typeof devices)[number];

/** Who looks, from where and when. `contact` is null for an anonymous viewer. */
export const viewerSchema = z.object({
  contact: z.record(z.string(), z.unknown()).nullable(),
  signedIn: z.boolean(),
  device: z.enum(devices),
  /** Milliseconds since 1970 UTC. */
  instant: z.number(),
});
export type Viewer = z.infer<typeof viewerSchema>;

export type Fact = boolean | number | string | readonly string[] | undefined;

/**
 * A viewer made ready for deciding: one value an attribute, in the catalogue's order, undefined where missing.
 * Dates are day numbers. `today` is the local day of the viewer's instant.
 */
export interface Facts {
  readonly values: readonly Fact[];
  readonly today: number;
}

/**
 * The facts of a viewer. Values of a wrong type count as missing. An anonymous viewer lacks every contact
 * attribute and is never signed in, whatever `signedIn` says.
 */
export function factsOf(catalogue: Catalogue, viewer: Viewer, zone: string): Facts {
  const { contact } = viewer;
  const values = catalogue.attributes.map((attribute): Fact => {
    if (attribute.source === 'sign-in') return contact !== null && viewer.signedIn;
    if (attribute.source !== 'contact' || contact === null) return undefined;
    const value = readValue(attribute, contact[attribute.id]);
    return attribute.type === 'date' && typeof value === 'string' ? dayNumber(value) : value;
  });
  return { values, today: localDay(viewer.instant, zone) };
}
