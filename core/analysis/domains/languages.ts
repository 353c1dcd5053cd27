import type { Attribute } from '../../attributes/attribute.ts';
import { lookup, mostLanguages } from '../../attributes/languages.ts';
import type { Fact } from '../../attributes/viewer.ts';
import type { Question } from '../../conditions/meaning.ts';
import type { Diagram } from '../diagrams/diagrams.ts';
import { cellsWhere, type Domain, known, type Levels, notAsked, type Variable } from './domain.ts';
import { atMost } from './members.ts';
import { eitherOf, orMissing, sayPresence } from './words.ts';

/** A tag that stands for no language, for private use (RFC 5646, 2.2.1). */
const noLanguage = 'qaa';

/**
 * Languages in order of preference. Lookup (RFC 4647, 3.4) shortens a language until it is a tag that is named, so that a
 * language counts as the longest named tag it leads to, or as another one: which comes first, and for each tag whether
 * any does.
 */
export class LanguageDomain implements Domain {
  readonly variables: readonly Variable[];
  private readonly tags: readonly string[];
  private readonly first: Variable;
  private readonly spoken: readonly Variable[];

  /** @param questions of kind `languages` and `known` */
  constructor(
    readonly attribute: Attribute,
    questions: readonly Question[],
  ) {
    const named = new Map<string, string>();
    for (const question of questions)
      if (question.kind === 'languages')
        for (const tag of question.tags) if (!named.has(tag.toLowerCase())) named.set(tag.toLowerCase(), tag);
    this.tags = [...named.values()];
    const { tags } = this;
    this.first = {
      width: tags.length + 2,
      say: (cells) => {
        const presence = sayPresence(attribute, cells, tags.length + 2);
        if (presence) return presence;
        const words = [...tags, 'another'].filter((_, index) => cells.has(index + 1));
        return orMissing(`${attribute.label} begins with ${eitherOf(words)}`, cells);
      },
    };
    this.spoken = tags.map((tag) => ({
      width: 2,
      say: (cells) => `${attribute.label} ${cells.has(1) ? 'includes' : 'does not include'} ${tag}`,
    }));
    this.variables = [this.first, ...this.spoken];
  }

  answer(question: Question, levels: Levels): Diagram {
    if (question.kind === 'known') return known(levels, this.first);
    if (question.kind !== 'languages') throw notAsked(question, this.attribute);
    const leads = this.tags.map((tag) => lookup([tag], question.tags) !== undefined);
    if (question.first) return cellsWhere(levels, this.first, (cell) => leads[cell - 1] === true);
    return levels.diagrams.any(
      this.spoken.flatMap((one, index) => (leads[index] ? [known(levels, one)] : [])),
    );
  }

  constraints(levels: Levels): Diagram[] {
    const { diagrams } = levels;
    const level = levels.levelOf(this.first);
    const nothing = diagrams.all(this.spoken.map((one) => diagrams.not(known(levels, one))));
    const runs = Array.from({ length: this.first.width }, (_, cell) => {
      if (cell === 0) return nothing;
      const own = this.spoken[cell - 1];
      // Beside a first language that no test names there is room for one less.
      const most = own ? mostLanguages : mostLanguages - 1;
      const few = this.spoken.length > most ? atMost(most, this.spoken, levels) : undefined;
      const spoken = own ? known(levels, own) : undefined;
      return diagrams.all([few, spoken].filter((one) => one !== undefined));
    });
    return [
      diagrams.node(
        level,
        runs.map((next, cell) => ({ end: cell + 1, next })),
      ),
    ];
  }

  invent([first = 0, ...spoken]: readonly number[]): Fact {
    if (first === 0) return undefined;
    const own = this.tags[first - 1] ?? noLanguage;
    return [own, ...this.tags.filter((tag, index) => spoken[index] === 1 && tag !== own)];
  }

  place(fact: Fact): number[] {
    const ranges: readonly string[] = typeof fact === 'object' ? fact : [];
    const classOf = (range: string) => {
      const found = lookup([range], this.tags);
      return found === undefined ? this.tags.length + 1 : this.tags.indexOf(found) + 1;
    };
    const [first] = ranges;
    const classes = new Set(ranges.map(classOf));
    return [
      first === undefined ? 0 : classOf(first),
      ...this.tags.map((_, index) => (classes.has(index + 1) ? 1 : 0)),
    ];
  }
}
