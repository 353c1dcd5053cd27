import { choiceLabel } from '../attributes/attribute.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { countryName } from '../attributes/countries.ts';
import { formatValue } from '../attributes/format.ts';
import { numberFormat } from '../attributes/formatters.ts';
import type { Condition, Test } from './condition.ts';
import { english, type Phrase, type Phrasebook } from './english.ts';
import { type OperandKind, type Operator, operandKind, operatorOf } from './operators.ts';

export interface TestWords {
  readonly subject: string;
  readonly verb: string;
  readonly operands: readonly string[];
  readonly joiner: string;
  readonly after: string;
}

/** The pieces of a test's sentence: "membership tier", "is", ["Dusk", "Twilight"], "or". */
export function testWords(test: Test, catalogue: Catalogue, book: Phrasebook = english): TestWords {
  return pieces(test, catalogue, book, (text) => text);
}

function pieces(
  test: Test,
  catalogue: Catalogue,
  book: Phrasebook,
  quote: (text: string) => string,
): TestWords {
  const attribute = catalogue.get(test.attribute);
  const operator: Operator | undefined = attribute && operatorOf(attribute, test.op);
  const phrase: Phrase | undefined = attribute && book.tests[attribute.type][test.op];
  if (!attribute || !operator || !phrase)
    return {
      subject: test.attribute,
      verb: test.op,
      operands: test.values.map(String),
      joiner: ',',
      after: '',
    };
  const operands = test.values.map((value, place) => {
    const kind = operandKind(operator, place);
    const said =
      kind === 'choice' ? choiceLabel(attribute, String(value)) : operandWords(value, kind, catalogue, book);
    return needsQuotes(said, kind) ? quote(said) : said;
  });
  return {
    subject: attribute.label,
    verb: phrase.verb,
    operands,
    joiner: phrase.joiner ?? '',
    after: phrase.after ?? '',
  };
}

function operandWords(
  value: string | number,
  kind: OperandKind,
  catalogue: Catalogue,
  book: Phrasebook,
): string {
  switch (kind) {
    case 'number':
    case 'days':
      return numberFormat(book.locale, { maximumFractionDigits: 20 }).format(Number(value));
    case 'minutes':
      return book.minutes(Number(value));
    case 'date':
      return formatValue(dateAttribute, String(value), book.locale);
    case 'moment':
      return `${formatValue(dateAttribute, String(value).slice(0, 10), book.locale)}, ${String(value).slice(11)}`;
    case 'country':
      return countryName(String(value), book.locale);
    case 'rule':
      return book.recurring(String(value));
    case 'attribute':
      return book.ownValue(catalogue.get(String(value))?.label ?? String(value));
    default:
      return String(value);
  }
}

const dateAttribute = { id: 'date', source: 'contact', label: '', description: '', type: 'date' } as const;

/** Whether words of somebody's own could be taken for words of the sentence. */
function needsQuotes(said: string, kind: OperandKind): boolean {
  if (kind === 'text' || kind === 'part' || kind === 'path' || kind === 'pattern') return true;
  return kind === 'choice' && (/[^\p{L}\p{N} .'’&/+-]/u.test(said) || / (or|and|to) /.test(said));
}

/** A test as one clause: "membership tier is Dusk or Twilight". */
export function sayTest(test: Test, catalogue: Catalogue, book: Phrasebook = english): string {
  const words = pieces(test, catalogue, book, book.quote);
  const joiner = words.joiner === ',' ? ', ' : ` ${words.joiner} `;
  const operands = words.operands.join(joiner);
  return [words.subject, words.verb, operands, words.after].filter((part) => part !== '').join(' ');
}

/**
 * A condition as a sentence without its subject: "membership tier is Dusk and not (roles include staff)". Groups
 * inside groups stand in brackets so that no two different conditions read the same.
 */
export function say(
  condition: Condition,
  catalogue: Catalogue,
  audienceName: (id: string) => string | undefined,
  book: Phrasebook = english,
): string {
  const inner = (part: Condition): string => {
    switch (part.kind) {
      case 'test':
        return sayTest(part, catalogue, book);
      case 'audience':
        return book.inAudience(audienceName(part.audience) ?? book.lostAudience);
      case 'not':
        return book.not(inner(part.of));
      case 'all':
      case 'any': {
        if (part.of.length === 0) return part.kind === 'all' ? book.everybody : book.nobody;
        const clauses = part.of.map((child) =>
          child.kind === 'all' || child.kind === 'any' ? `(${inner(child)})` : inner(child),
        );
        return clauses.length === 1
          ? book.onlyOf(part.kind, clauses[0] ?? '')
          : clauses.join(part.kind === 'all' ? book.all : book.any);
      }
    }
  };
  // A group of one means its only part; at the top the sentence is plainer without it.
  if ((condition.kind === 'all' || condition.kind === 'any') && condition.of.length === 1 && condition.of[0])
    return inner(condition.of[0]);
  return inner(condition);
}
