import Papa from 'papaparse';
import type { Attribute } from '../attributes/attribute.ts';
import { choiceLabel } from '../attributes/attribute.ts';
import { readValue } from '../attributes/parse.ts';
import type { ExportKind } from './export-kinds.ts';
import { valueText } from './value-text.ts';
import { escaped, escapedPart, folded } from './vcard.ts';

export interface ExportedPerson {
  readonly email: string;
  readonly externalId: string | null;
  readonly values: { readonly [attribute: string]: unknown };
}

/** Writes people one after another; what it writes is read back by the import as the same people. */
export interface PersonWriter {
  readonly start: string;
  write(person: ExportedPerson): string;
}

/** @param attributes those of contacts that are written, besides the address */
export function writerFor(kind: ExportKind, attributes: readonly Attribute[]): PersonWriter {
  const columns = attributes.filter(({ id }) => id !== 'email');
  switch (kind) {
    case 'csv':
      return csvWriter(columns);
    case 'vcard':
      return vcardWriter(columns);
    case 'json-lines':
      return jsonWriter(columns);
  }
}

/** What a spreadsheet would take for a formula, a plain number being harmless; and what reading would take for one made harmless. */
const formula = /^(?:[=@\t\r]|[+-](?!\d+(?:\.\d+)?$)|'+[=+\-@\t\r]).*$/s;

/** A row of RFC 4180; a cell that a spreadsheet would take for a formula gets an apostrophe before it. */
export function csvRow(cells: readonly string[]): string {
  return `${Papa.unparse([[...cells]], { escapeFormulae: formula })}\r\n`;
}

function csvWriter(attributes: readonly Attribute[]): PersonWriter {
  return {
    // The mark makes spreadsheets read the file as UTF-8.
    start: `\uFEFF${csvRow(['email', 'id', ...attributes.map(({ label }) => label)])}`,
    write: ({ email, externalId, values }) =>
      csvRow([
        email,
        externalId ?? '',
        ...attributes.map((attribute) => valueText(attribute, values[attribute.id])),
      ]),
  };
}

function jsonWriter(attributes: readonly Attribute[]): PersonWriter {
  return {
    start: '',
    write: ({ email, externalId, values }) => {
      const object: { [key: string]: unknown } = { email };
      if (externalId !== null) object.id = externalId;
      for (const attribute of attributes) {
        const value = readValue(attribute, values[attribute.id]);
        if (value !== undefined)
          object[attribute.label] =
            attribute.type === 'choice'
              ? choiceLabel(attribute, String(value))
              : Array.isArray(value)
                ? value.map((one) => choiceLabel(attribute, one))
                : value;
      }
      return `${JSON.stringify(object)}\n`;
    },
  };
}

/** vCard 4.0, RFC 6350; what has no property of its own has one that begins with X-, as section 6.10 allows. */
function vcardWriter(attributes: readonly Attribute[]): PersonWriter {
  return {
    start: '',
    write: ({ email, externalId, values }) => {
      const text = (id: string) => (typeof values[id] === 'string' ? values[id] : '');
      const [first, last] = [text('first-name'), text('last-name')];
      const lines = [
        'BEGIN:VCARD',
        'VERSION:4.0',
        `FN:${escaped([first, last].filter((part) => part !== '').join(' ') || email)}`,
        `N:${escapedPart(last)};${escapedPart(first)};;;`,
        `EMAIL:${escaped(email)}`,
        ...(externalId === null ? [] : [`UID:${escaped(externalId)}`]),
      ];
      for (const attribute of attributes) {
        if (attribute.id === 'first-name' || attribute.id === 'last-name') continue;
        const value = readValue(attribute, values[attribute.id]);
        if (value === undefined) continue;
        const parts = Array.isArray(value)
          ? value.map((one) => choiceLabel(attribute, one))
          : [valueText(attribute, value)];
        const property = attribute.id === 'tags' ? 'CATEGORIES' : `X-${attribute.id.toUpperCase()}`;
        lines.push(`${property}:${parts.map(escaped).join(',')}`);
      }
      return [...lines, 'END:VCARD'].map(folded).join('');
    },
  };
}
