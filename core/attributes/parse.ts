import { type Attribute, choicesOf, type Value } from './attribute.ts';
import { dayNumber, minuteOfDay, readInstant, timeText } from './calendar.ts';
import { findCountry, isCountry } from './countries.ts';
import { isLanguageTag, mostLanguages, readLanguages } from './languages.ts';
import { readAddress } from './networks.ts';

export type Parsed = { ok: true; value: Value | undefined } | { ok: false; reason: string };

/** In English and as spreadsheets and neighbouring languages have it. */
const yes = new Set([
  'yes',
  'true',
  '1',
  'y',
  'on',
  'x',
  '✓',
  '✔',
  'ja',
  'j',
  'oui',
  'si',
  'sí',
  'sim',
  'wahr',
]);
const no = new Set(['no', 'false', '0', 'n', 'off', 'nein', 'non', 'nee', 'nej', 'não', 'falsch']);
/** Longest text kept as a value; a longer one is an error, not cut. */
export const longestText = 2000;

/**
 * A typed value from text as it stands in a file or form. Blank text is a missing value. Numbers take a dot or a
 * single comma as the decimal sign; dates are ISO 8601, instants ISO 8601 with their offset from UTC; sets are split at
 * `;` or `|`; choices and countries match by id or label without regard to case. Anything else is refused with a
 * reason that can be shown to a person.
 */
export function parseValue(attribute: Attribute, raw: string): Parsed {
  const text = raw.trim();
  if (text === '') return { ok: true, value: undefined };
  if (text.includes('\0')) return refuse('contains a NUL character');
  switch (attribute.type) {
    case 'yes-no': {
      const word = text.toLowerCase();
      if (yes.has(word)) return { ok: true, value: true };
      if (no.has(word)) return { ok: true, value: false };
      return refuse(`“${short(text)}” is neither yes nor no`);
    }
    case 'number': {
      const plain = /^[+-]?\d+,\d+$/.test(text) ? text.replace(',', '.') : text;
      if (!/^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(plain) || !Number.isFinite(Number(plain)))
        return refuse(`“${short(text)}” is not a number`);
      const value = Number(plain);
      return isNumberOf(attribute, value) ? { ok: true, value } : refuse(`“${short(text)}” ${notWhole}`);
    }
    case 'date':
      return dayNumber(text) === undefined
        ? refuse(`“${short(text)}” is not a date written as year-month-day, such as 2026-11-29`)
        : { ok: true, value: text };
    case 'date-time': {
      const form = /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}(:\d{2}(\.\d{1,9})?)?(Z|[+-]\d{2}:\d{2})$/;
      const instant =
        form.test(text) && dayNumber(text.slice(0, 10)) !== undefined ? Date.parse(text) : Number.NaN;
      return Number.isNaN(instant)
        ? refuse(
            `“${short(text)}” is not a date and time with its offset from UTC, such as 2026-11-29T18:00+01:00`,
          )
        : { ok: true, value: new Date(instant).toISOString() };
    }
    case 'time': {
      const minute = minuteOfDay(text.length === 4 ? `0${text}` : text);
      return minute === undefined
        ? refuse(`“${short(text)}” is not a time of day such as 18:30`)
        : { ok: true, value: timeText(minute) };
    }
    case 'country': {
      const code = findCountry(text);
      return code === undefined
        ? refuse(`“${short(text)}” is neither a country’s two-letter code nor its English name`)
        : { ok: true, value: code };
    }
    case 'address': {
      const address = readAddress(text);
      return address === undefined
        ? refuse(`“${short(text)}” is not an IP address`)
        : { ok: true, value: address };
    }
    case 'language': {
      const tags = readLanguages(text);
      return tags.length === 0
        ? refuse(`“${short(text)}” is not a language tag such as de or pt-BR`)
        : { ok: true, value: tags };
    }
    case 'path':
      return text.startsWith('/') && text.length <= longestText
        ? { ok: true, value: text }
        : refuse(`“${short(text)}” is not the path of an address, such as /guides/moon`);
    case 'text':
      return text.length > longestText
        ? refuse(`is longer than ${longestText} characters`)
        : { ok: true, value: text };
    case 'choice': {
      const id = findChoice(attribute, text);
      return id === undefined
        ? refuse(`“${short(text)}” is not one of the choices`)
        : { ok: true, value: id };
    }
    case 'set': {
      const ids: string[] = [];
      for (const part of choiceParts(attribute, text)) {
        const id = findChoice(attribute, part);
        if (id === undefined) return refuse(`“${short(part)}” is not one of the choices`);
        if (!ids.includes(id)) ids.push(id);
      }
      const clash = exclusiveClash(attribute, ids);
      if (clash) return refuse(clash);
      return { ok: true, value: ids.length > 0 ? ids : undefined };
    }
  }
}

/** The parts of a text that names choices; a label that has a separator in it is one part. */
function choiceParts(attribute: Attribute, text: string): string[] {
  const parts = splitSet(text);
  if (!choicesOf(attribute).some(({ label }) => /[;|]/.test(label))) return parts;
  const pieces = text.split(/(?<=[;|])/);
  const found: string[] = [];
  for (let from = 0; from < pieces.length; ) {
    let until = pieces.length;
    const joined = () => pieces.slice(from, until).join('').replace(/[;|]$/, '').trim();
    while (until > from + 1 && findChoice(attribute, joined()) === undefined) until--;
    if (joined() !== '') found.push(joined());
    from = until;
  }
  return found;
}

export function splitSet(text: string): string[] {
  return text
    .split(/[;|]/)
    .map((part) => part.trim())
    .filter((part) => part !== '');
}

/**
 * A stored value checked against its attribute: the value where it is of the attribute's type, undefined where it
 * is missing or of another type. A set keeps the choices that exist; an empty set is missing.
 */
export function readValue(attribute: Attribute, raw: unknown): Value | undefined {
  switch (attribute.type) {
    case 'yes-no':
      return typeof raw === 'boolean' ? raw : undefined;
    case 'number':
      return typeof raw === 'number' && isNumberOf(attribute, raw) ? raw : undefined;
    case 'text':
      return typeof raw === 'string' && raw !== '' ? raw : undefined;
    case 'date':
      return typeof raw === 'string' && dayNumber(raw) !== undefined ? raw : undefined;
    case 'date-time':
      return typeof raw === 'string' && readInstant(raw) !== undefined ? raw : undefined;
    case 'time':
      return typeof raw === 'string' && minuteOfDay(raw) !== undefined ? raw : undefined;
    case 'country':
      return typeof raw === 'string' && isCountry(raw) ? raw : undefined;
    case 'address':
      return typeof raw === 'string' && readAddress(raw) === raw ? raw : undefined;
    case 'path':
      return typeof raw === 'string' && raw.startsWith('/') && raw.length <= longestText ? raw : undefined;
    case 'language': {
      if (!Array.isArray(raw) || raw.length === 0 || raw.length > mostLanguages) return undefined;
      const tags = raw.filter((tag): tag is string => typeof tag === 'string' && isLanguageTag(tag));
      return tags.length === raw.length ? tags : undefined;
    }
    case 'choice':
      return typeof raw === 'string' && attribute.choices.some((choice) => choice.id === raw)
        ? raw
        : undefined;
    case 'set': {
      if (!Array.isArray(raw)) return undefined;
      const known: string[] = [];
      for (const { id } of attribute.choices) if (raw.includes(id)) known.push(id);
      return known.length > 0 ? known : undefined;
    }
  }
}

/**
 * Why a value can't be stored for an attribute; undefined where it can. Unlike reading, which passes over what no longer
 * fits, nothing of it may be lost.
 */
export function unstorable(attribute: Attribute, value: unknown): string | undefined {
  const read = readValue(attribute, value);
  if (attribute.type === 'text' && typeof value === 'string' && value.length > longestText)
    return `is longer than ${longestText} characters`;
  if (attribute.type === 'number' && Number.isFinite(value) && read === undefined) return notWhole;
  if (read === undefined || (Array.isArray(value) && Array.isArray(read) && value.length !== read.length))
    return 'is not a value of this attribute';
  return Array.isArray(read) ? exclusiveClash(attribute, read) : undefined;
}

const notWhole = 'is not a whole number';

/** Whether a number can be a value of an attribute: a finite one, and for whole numbers one that is whole and exact. */
export function isNumberOf(attribute: Attribute, number: number): boolean {
  const whole = attribute.type === 'number' && attribute.whole === true;
  return whole ? Number.isSafeInteger(number) : Number.isFinite(number);
}

export function exclusiveClash(attribute: Attribute, ids: readonly string[]): string | undefined {
  if (attribute.type !== 'set') return undefined;
  for (const group of attribute.exclusiveGroups) {
    const held = ids.filter((id) => group.members.includes(id));
    if (held.length > 1) return `holds ${held.length} values of “${group.name}”, which allows one`;
  }
  return undefined;
}

/** The id of the choice that a text names, by its label or its id. */
export function findChoice(attribute: Attribute, text: string): string | undefined {
  const folded = text.toLocaleLowerCase('en');
  const choices = choicesOf(attribute);
  // What is written out are labels, so that they come first.
  const found =
    choices.find(({ label }) => label === text) ??
    choices.find(({ label }) => label.toLocaleLowerCase('en') === folded) ??
    choices.find(({ id }) => id === text);
  return found?.id;
}

function refuse(reason: string): Parsed {
  return { ok: false, reason };
}

function short(text: string): string {
  return text.length > 60 ? `${text.slice(0, 59)}…` : text;
}
