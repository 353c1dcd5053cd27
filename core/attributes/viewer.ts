import { z } from 'zod';
import type { Attribute, AttributeSource, Value } from './attribute.ts';
import {
  dayNumber,
  isoDate,
  type LocalTime,
  localTime,
  minuteOfDay,
  monthOf,
  readInstant,
  timeText,
  weekdayOf,
} from './calendar.ts';
import type { Catalogue } from './catalogue.ts';
import { type Coder, coderOf } from './codes.ts';
import { isNumberOf, readValue } from './parse.ts';
import { fold } from './text-folding.ts';

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

/** Stands for a value that has not been read yet. */
const unread: Fact = Object.freeze(['unread']);

const noClasses: number[] = [];

/**
 * A viewer as conditions see one: a value an attribute, by the catalogue's places, undefined where it is missing. Dates are
 * day numbers, instants milliseconds since 1970 UTC, times of day minutes since midnight. Each value is read from the raw
 * viewer when it is first asked for, so that a decision costs what it asks; the viewer must not change meanwhile.
 */
export class Facts {
  private readonly values: Fact[];
  private folded: (string | undefined)[] | undefined;
  private owner: object | undefined;
  private classes: number[] = noClasses;
  private day: number;

  private constructor(
    values: Fact[],
    day: number,
    private readonly reader: FactReader | undefined,
    private readonly viewer: Viewer | undefined,
  ) {
    this.values = values;
    this.day = day;
  }

  /** Facts that are known already, by place, without codes; today is a day number. */
  static of(values: readonly Fact[], today: number): Facts {
    return new Facts([...values], today, undefined, undefined);
  }

  /** Facts of a viewer, see {@link FactReader.read}. */
  static reading(reader: FactReader, viewer: Viewer, values: Fact[]): Facts {
    return new Facts(values, Number.NaN, reader, viewer);
  }

  /** The value at a place of the catalogue. */
  at(place: number): Fact {
    const value = this.values[place];
    return value === unread ? this.readAt(place) : value;
  }

  /** A text in the form in which texts are compared; undefined for a missing value and for anything else. */
  textAt(place: number): string | undefined {
    const value = this.at(place);
    if (typeof value !== 'string') return undefined;
    this.folded ??= [];
    let text = this.folded[place];
    if (text === undefined) {
      text = fold(value);
      this.folded[place] = text;
    }
    return text;
  }

  /**
   * The code of the value at a place, see codes.ts; NaN where it is missing or its attribute has no codes. Behind the
   * places of all values stand those of dates counted from today, see {@link Catalogue.placeFromToday}.
   */
  codeAt(place: number): number {
    return this.reader && this.viewer ? this.reader.codeAt(place, this.viewer, this) : Number.NaN;
  }

  /**
   * What somebody keeps about the codes, for as long as nobody else does: an array of its own for each viewer.
   *
   * @param blank what it begins as
   */
  classesOf(owner: object, blank: readonly number[]): number[] {
    if (this.owner !== owner) {
      this.owner = owner;
      this.classes = blank.slice();
    }
    return this.classes;
  }

  /** The local day of the viewer's instant, as a day number. */
  get today(): number {
    if (Number.isNaN(this.day)) this.day = this.reader?.localTimeOf(this.viewer?.instant ?? 0).day ?? 0;
    return this.day;
  }

  private readAt(place: number): Fact {
    const value = this.reader && this.viewer ? this.reader.readAt(place, this.viewer) : undefined;
    this.values[place] = value;
    return value;
  }
}

type Raw = { readonly [attribute: string]: unknown };
type Reader = (raw: Raw) => Fact;

interface Reading {
  readonly source: AttributeSource;
  readonly id: string;
  readonly read: Reader;
  readonly code: Coder | undefined;
  /** Whether a code is that of the value as it is stored, so that it need not be read first. */
  readonly isStoredAlike: boolean;
}

/**
 * Turns viewers into facts, made once for a catalogue. Values of a wrong type count as missing. An anonymous viewer lacks
 * every contact attribute and is never signed in, whatever `signedIn` says.
 */
export class FactReader {
  private readonly readings: readonly (Reading | undefined)[];
  private readonly zone: string;
  /** What a viewer has before anything is read. */
  private readonly blank: readonly Fact[];
  private readonly dates: readonly number[];

  /** @param used the attributes that will be asked for; others are left missing. All when not given. */
  constructor(catalogue: Catalogue, used?: ReadonlySet<string>) {
    this.zone = catalogue.zone;
    this.readings = catalogue.attributes.map((attribute) =>
      attribute.source === 'sign-in' || (used?.has(attribute.id) ?? true) ? readingOf(attribute) : undefined,
    );
    this.blank = this.readings.map((reading) => (reading ? unread : undefined));
    this.dates = catalogue.dates;
  }

  read(viewer: Viewer): Facts {
    return Facts.reading(this, viewer, this.blank.slice());
  }

  /** The value of one attribute, by its place. */
  readAt(place: number, viewer: Viewer): Fact {
    const reading = this.readings[place];
    if (!reading) return undefined;
    const stored = storedValues(reading.source, viewer);
    if (stored) return reading.read(stored);
    if (reading.source === 'sign-in') return viewer.contact !== null && viewer.signedIn;
    if (reading.source !== 'moment' || !isInCalendar(viewer.instant)) return undefined;
    const { day, minute } = this.localTimeOf(viewer.instant);
    return momentFact(reading.id, viewer.instant, day, minute);
  }

  /** The code of one attribute's value, by its place; see {@link Facts.codeAt}. */
  codeAt(place: number, viewer: Viewer, facts: Facts): number {
    if (place >= this.readings.length)
      return facts.codeAt(this.dates[place - this.readings.length] ?? 0) - facts.today;
    const reading = this.readings[place];
    if (!reading?.code) return Number.NaN;
    const stored = reading.isStoredAlike ? storedValues(reading.source, viewer) : undefined;
    return reading.code(stored ? stored[reading.id] : facts.at(place));
  }

  /** What local clocks show at an instant; at the beginning of 1970 for one outside the calendar. */
  localTimeOf(instant: number): LocalTime {
    return localTime(isInCalendar(instant) ? instant : 0, this.zone);
  }
}

function readingOf(attribute: Attribute): Reading {
  const { source, id, type } = attribute;
  const isStoredAlike = type === 'choice' || type === 'set' || type === 'yes-no';
  return { source, id, read: readerOf(attribute), code: coderOf(attribute), isStoredAlike };
}

/** The values of a viewer that an attribute's is one of; undefined for a viewer without, and for what is not stored. */
function storedValues(source: AttributeSource, { contact, visit, item }: Viewer): Raw | undefined {
  if (source === 'contact') return contact ?? undefined;
  if (source === 'visit') return visit;
  return source === 'item' ? (item ?? undefined) : undefined;
}

function isInCalendar(instant: number): boolean {
  return Math.abs(instant) <= latestInstant;
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
