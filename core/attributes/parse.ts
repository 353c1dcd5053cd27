import { type Attribute, choicesOf, type Value } from './attribute.ts';
import { dayNumber } from './calendar.ts';

export type Parsed = { ok: true; value: Value | undefined } | { ok: false; reason: string };

const yes = new Set(['yes', 'true', '1', 'y', 'on']);
const no = new Set(['no', 'false', '0', 'n', 'off']);
/** Longest text kept as a value; a longer one is an error, not cut. */
export const longestText = 2000;

/**
 * A typed value from text as it stands in a file or form. Blank text is a missing value. Numbers take a dot or a
 * single comma as the decimal sign; dates are ISO 8601; sets are split at `;` or `|`; choices match by id or label
 * without regard to case. Anything else is refused with a reason that can be shown to a person.
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
      return { ok: true, value: Number(plain) };
    }
    case 'date':
      return dayNumber(text) === undefined
        ? refuse(`“${short(text)}” is not a date written as year-month-day, such as 2026-11-29`)
        : { ok: true, value: text };
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
      for (const part of splitSet(text)) {
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
      return typeof raw === 'number' && Number.isFinite(raw) ? raw : undefined;
    case 'text':
      return typeof raw === 'string' && raw !== '' ? raw : undefined;
    case 'date':
      return typeof raw === 'string' && dayNumber(raw) !== undefined ? raw : undefined;
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

function exclusiveClash(attribute: Attribute, ids: readonly string[]): string | undefined {
  if (attribute.type !== 'set') return undefined;
  for (const group of attribute.exclusiveGroups) {
    const held = ids.filter((id) => group.members.includes(id));
    if (held.length > 1) return `holds ${held.length} values of “${group.name}”, which allows one`;
  }
  return undefined;
}

function findChoice(attribute: Attribute, text: string): string | undefined {
  const folded = text.toLocaleLowerCase('en');
  return choicesOf(attribute).find((choice) => choice.id === text || choice.label.toLowerCase() === folded)
    ?.id;
}

function refuse(reason: string): Parsed {
  return { ok: false, reason };
}

function short(text: string): string {
  return text.length > 60 ? `${text.slice(0, 59)}…` : text;
}
