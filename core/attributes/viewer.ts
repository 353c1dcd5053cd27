import { z } from 'zod';
import type { Attribute } from './attribute.ts';
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

type Reader = (contact: { readonly [attribute: string]: unknown }) => Fact;

/**
 * Turns viewers into facts, planned once for a catalogue. Values of a wrong type count as missing. An anonymous
 * viewer lacks every contact attribute and is never signed in, whatever `signedIn` says.
 */
export class FactReader {
  private readonly readers: readonly (Reader | 'signed-in' | undefined)[];

  /** @param used the attributes that will be asked for; others are left missing. All when not given. */
  constructor(
    catalogue: Catalogue,
    private readonly zone: string,
    used?: ReadonlySet<string>,
  ) {
    this.readers = catalogue.attributes.map((attribute) => {
      if (attribute.source === 'sign-in') return 'signed-in';
      return attribute.source === 'contact' && (used?.has(attribute.id) ?? true)
        ? readerOf(attribute)
        : undefined;
    });
  }

  read(viewer: Viewer): Facts {
    const { contact } = viewer;
    const { readers } = this;
    const values: Fact[] = [];
    for (let index = 0; index < readers.length; index++) {
      const reader = readers[index];
      if (reader === 'signed-in') values.push(contact !== null && viewer.signedIn);
      else values.push(contact === null || reader === undefined ? undefined : reader(contact));
    }
    return { values, today: localDay(viewer.instant, this.zone) };
  }
}

function readerOf(attribute: Attribute): Reader {
  const { id } = attribute;
  switch (attribute.type) {
    case 'date':
      return (contact) => {
        const raw = contact[id];
        return typeof raw === 'string' ? dayNumber(raw) : undefined;
      };
    case 'choice': {
      const known = new Set<unknown>(attribute.choices.map((choice) => choice.id));
      return (contact) => {
        const raw = contact[id];
        return typeof raw === 'string' && known.has(raw) ? raw : undefined;
      };
    }
    case 'text':
      return (contact) => {
        const raw = contact[id];
        return typeof raw === 'string' && raw !== '' ? raw : undefined;
      };
    case 'number':
      return (contact) => {
        const raw = contact[id];
        return typeof raw === 'number' && Number.isFinite(raw) ? raw : undefined;
      };
    default:
      return (contact) => {
        const raw = contact[id];
        return raw === undefined ? undefined : readValue(attribute, raw);
      };
  }
}

/** The facts of one viewer, every attribute read. */
export function factsOf(catalogue: Catalogue, viewer: Viewer, zone: string): Facts {
  return new FactReader(catalogue, zone).read(viewer);
}
