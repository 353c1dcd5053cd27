import { z } from 'zod';
import type { Attribute, AttributeSource, Value } from './attribute.ts';
import {
  dayNumber,
  isoDate,
  localTime,
  minuteOfDay,
  monthOf,
  readInstant,
  timeText,
  weekdayOf,
} from './calendar.ts';
import type { Catalogue } from './catalogue.ts';
import { isNumberOf, readValue } from './parse.ts';

export const devices = ['computer', 'tablet', 'phone'] as const;
export type Device = (typeof devices)[number];

const valuesSchema = z.record(z.string(), z.unknown());

/**
 * Who looks, from where and when. `contact` is null for an anonymous viewer; `visit` holds what the request tells,
 * empty in an email; `item` the fields of the item that is shown, null where there is none.
 */
export const viewerSchema = z.object({
  contact: valuesSchema.nullable(),
  signedIn: z.boolean(),
  visit: valuesSchema,
  item: valuesSchema.nullable(),
  /** Milliseconds since 1970 UTC. */
  instant: z.number(),
});
export type Viewer = z.infer<typeof viewerSchema>;

export type Fact = boolean | number | string | readonly string[] | undefined;

/**
 * A viewer made ready for deciding: one value an attribute, in the catalogue's order, undefined where missing.
 * Dates are day numbers, instants milliseconds since 1970 UTC, times of day minutes since midnight. `today` is the
 * local day of the viewer's instant.
 */
export interface Facts {
  readonly values: readonly Fact[];
  readonly today: number;
}

type Raw = { readonly [attribute: string]: unknown };
type Reader = (raw: Raw) => Fact;
type Plan = { source: AttributeSource; id: string; read: Reader } | undefined;

/**
 * Turns viewers into facts, planned once for a catalogue. Values of a wrong type count as missing. An anonymous
 * viewer lacks every contact attribute and is never signed in, whatever `signedIn` says.
 */
export class FactReader {
  private readonly plans: readonly Plan[];
  private readonly zone: string;

  /** @param used the attributes that will be asked for; others are left missing. All when not given. */
  constructor(catalogue: Catalogue, used?: ReadonlySet<string>) {
    this.zone = catalogue.zone;
    this.plans = catalogue.attributes.map((attribute) =>
      attribute.source === 'sign-in' || (used?.has(attribute.id) ?? true)
        ? { source: attribute.source, id: attribute.id, read: readerOf(attribute) }
        : undefined,
    );
  }

  read(viewer: Viewer): Facts {
    const { contact, visit, item, instant } = viewer;
    const { plans } = this;
    const sound = Math.abs(instant) <= latestInstant;
    const local = localTime(sound ? instant : 0, this.zone);
    const values: Fact[] = [];
    for (let index = 0; index < plans.length; index++) {
      const plan = plans[index];
      if (plan === undefined) values.push(undefined);
      else if (plan.source === 'contact') values.push(contact === null ? undefined : plan.read(contact));
      else if (plan.source === 'visit') values.push(plan.read(visit));
      else if (plan.source === 'item') values.push(item === null ? undefined : plan.read(item));
      else if (plan.source === 'sign-in') values.push(contact !== null && viewer.signedIn);
      else values.push(sound ? momentFact(plan.id, instant, local.day, local.minute) : undefined);
    }
    return { values, today: local.day };
  }
}

/** The last instant of the year 9999; beyond it, or before the mirror of it, there is no calendar here. */
export const latestInstant = 253_402_300_799_999;

/** The value of a built-in attribute of the moment; undefined for one that is not known. */
export function momentFact(id: string, instant: number, day: number, minute: number): Fact {
  switch (id) {
    case 'moment':
      return instant;
    case 'moment-time':
      return minute;
    case 'moment-weekday':
      return weekdays[weekdayOf(day)];
    case 'moment-month':
      return months[monthOf(day) - 1];
    case 'moment-season-north':
      return seasons[Math.floor((monthOf(day) % 12) / 3)];
    case 'moment-season-south':
      return seasons[Math.floor(((monthOf(day) + 6) % 12) / 3)];
    default:
      return undefined;
  }
}

const weekdays = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'];
const months = [
  'january',
  'february',
  'march',
  'april',
  'may',
  'june',
  'july',
  'august',
  'september',
  'october',
  'november',
  'december',
];
const seasons = ['winter', 'spring', 'summer', 'autumn'];

function readerOf(attribute: Attribute): Reader {
  const { id } = attribute;
  switch (attribute.type) {
    case 'date':
      return (raw) => {
        const value = raw[id];
        return typeof value === 'string' ? dayNumber(value) : undefined;
      };
    case 'date-time':
      return (raw) => {
        const value = raw[id];
        return typeof value === 'string' ? readInstant(value) : undefined;
      };
    case 'time':
      return (raw) => {
        const value = raw[id];
        return typeof value === 'string' ? minuteOfDay(value) : undefined;
      };
    case 'choice': {
      const known = new Set<unknown>(attribute.choices.map((choice) => choice.id));
      return (raw) => {
        const value = raw[id];
        return typeof value === 'string' && known.has(value) ? value : undefined;
      };
    }
    case 'text':
      return (raw) => {
        const value = raw[id];
        return typeof value === 'string' && value !== '' ? value : undefined;
      };
    case 'number':
      return (raw) => {
        const value = raw[id];
        return typeof value === 'number' && isNumberOf(attribute, value) ? value : undefined;
      };
    default:
      return (raw) => {
        const value = raw[id];
        return value === undefined ? undefined : readValue(attribute, value);
      };
  }
}

/** The facts of one viewer, every attribute read. */
export function factsOf(catalogue: Catalogue, viewer: Viewer): Facts {
  return new FactReader(catalogue).read(viewer);
}

/** Reads an attribute as facts hold it from stored values, planned once; undefined where it is of another type. */
export function factReader(
  attribute: Attribute,
): (values: { readonly [attribute: string]: unknown }) => Fact {
  return readerOf(attribute);
}

/** A fact in the form that values are stored in; the inverse of {@link factReader}. */
export function valueOfFact(attribute: Attribute, fact: NonNullable<Fact>): Value {
  if (typeof fact === 'number') {
    if (attribute.type === 'date') return isoDate(fact);
    if (attribute.type === 'date-time') return new Date(fact).toISOString();
    return attribute.type === 'time' ? timeText(fact) : fact;
  }
  return typeof fact === 'object' ? [...fact] : fact;
}
