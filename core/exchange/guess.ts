import type { Attribute, Choice } from '../attributes/attribute.ts';
import { splitSet } from '../attributes/parse.ts';
import type { ColumnPlan, ImportPlan, Target } from './plan.ts';
import { fresh, slug } from './slug.ts';
import { type ColumnSurvey, looksLikeChoices } from './survey.ts';

/** So many of a column's values must fit a type for the column to be guessed as that type. */
const fitting = 0.95;
const emailHeader = /^(e-?mail|e-?mail[ _-]?address|primary[ _-]?e-?mail)$/i;
const idHeader = /^((external|crm|contact|customer|member|person|record)[ _-]?)?(id|uid|number)$/i;
/** Names of columns whose numbers are none to reckon with. */
const codeHeader = /\b(zip|plz|post(al)?[ _-]?code|postleitzahl|phone|tel|telephone|telefon|mobile|fax)\b/i;
/** Other usual names of attributes, by id. */
const otherNames: { [header: string]: string } = {
  'given-name': 'first-name',
  forename: 'first-name',
  firstname: 'first-name',
  surname: 'last-name',
  'family-name': 'last-name',
  lastname: 'last-name',
};

/**
 * What each column most likely is, to be corrected by whoever knows: first by its name, then by its values. What can
 * only be guessed, such as whether the day or the month comes first, is left open.
 */
export function guessPlan(surveys: readonly ColumnSurvey[], known: readonly Attribute[]): ImportPlan {
  const taken = new Set(known.map(({ id }) => id));
  const used = new Set<string>();
  const emailAt = emailColumn(surveys);
  const idAt = surveys.findIndex(({ header }, index) => index !== emailAt && idHeader.test(header.trim()));
  const columns = surveys.map((survey, index): ColumnPlan => {
    const { header, dates, decimals } = survey;
    if (index === emailAt) return { header, to: { kind: 'email' } };
    if (index === idAt) return { header, to: { kind: 'external-id' } };
    const to = guessTarget(survey, known, taken, used);
    return {
      header,
      to,
      ...(dates && dates !== 'either' && dates !== 'mixed' && { dates }),
      ...(decimals && decimals !== 'either' && decimals !== 'mixed' && { decimals }),
    };
  });
  return {
    columns,
    matchBy: emailAt < 0 && idAt >= 0 ? 'external-id' : 'email',
    known: 'overwrite',
    blank: 'keep',
    unreadable: 'row',
    given: [],
  };
}

/** By its name, or else the one whose values are nearly all addresses. */
function emailColumn(surveys: readonly ColumnSurvey[]): number {
  const named = surveys.findIndex(({ header }) => emailHeader.test(header.trim()));
  return named >= 0
    ? named
    : surveys.findIndex(({ filled, fits }) => filled > 0 && fits.email >= fitting * filled);
}

function guessTarget(
  survey: ColumnSurvey,
  known: readonly Attribute[],
  taken: Set<string>,
  used: Set<string>,
): Target {
  const plain = slug(survey.header);
  const wanted = otherNames[plain] ?? plain;
  const match = known.find(
    ({ id, source, label }) =>
      source === 'contact' && id !== 'email' && !used.has(id) && (id === wanted || slug(label) === wanted),
  );
  if (match) {
    used.add(match.id);
    return { kind: 'attribute', attribute: match.id, addChoices: false };
  }
  if (survey.filled === 0) return { kind: 'skip' };
  return { kind: 'new', attribute: newAttribute(survey, guessType(survey), fresh(plain, taken)) };
}

export function guessType(survey: ColumnSurvey): Attribute['type'] {
  const { filled, fits, distinct } = survey;
  const most = (count: number) => count >= fitting * filled;
  const wordy = distinct?.some((value) => /\D/.test(value)) ?? false;
  if (wordy && most(fits['yes-no'])) return 'yes-no';
  // Nobody adds up codes and telephone numbers, and their zeros count.
  if (fits.code > 0 || (codeHeader.test(survey.header) && fits.number > 0)) return 'text';
  if (most(fits.number)) return 'number';
  if (most(fits.date)) return 'date';
  if (most(fits['date-time'])) return 'date-time';
  if (fits.list > 0 && looksLikeChoices(survey, members(survey))) return 'set';
  return looksLikeChoices(survey) ? 'choice' : 'text';
}

/** A new attribute for a column, whose choices are the values that occur. */
export function newAttribute(
  survey: ColumnSurvey,
  type: Attribute['type'],
  id: string,
  splitAt?: string,
): Attribute {
  const label = survey.header.trim().slice(0, 120) || id;
  const base = { id, source: 'contact' as const, label, description: '' };
  switch (type) {
    case 'choice':
      return { ...base, type, ordered: false, choices: choicesFor(survey.distinct ?? []) };
    case 'set':
      return { ...base, type, choices: choicesFor(members(survey, splitAt)), exclusiveGroups: [] };
    default:
      return { ...base, type };
  }
}

/** Every different member of the lists in a column. */
function members({ distinct }: ColumnSurvey, splitAt?: string): string[] {
  return [...new Set((distinct ?? []).flatMap((value) => membersOf(value, splitAt)))];
}

export function membersOf(text: string, splitAt: string | undefined): string[] {
  return splitAt === undefined
    ? splitSet(text)
    : text
        .split(splitAt)
        .map((part) => part.trim())
        .filter((part) => part !== '');
}

/** Choices in alphabetical order; values that differ in their case alone are one. */
export function choicesFor(labels: readonly string[], taken = new Set<string>()): Choice[] {
  const known = new Set<string>();
  return [...labels]
    .sort((one, two) => one.localeCompare(two, 'en'))
    .filter((label) => {
      const folded = label.toLocaleLowerCase('en');
      if (label === '' || label.length > 120 || known.has(folded)) return false;
      known.add(folded);
      return true;
    })
    .slice(0, 500)
    .map((label) => ({ id: fresh(slug(label), taken), label }));
}
