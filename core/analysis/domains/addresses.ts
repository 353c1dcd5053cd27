import type { Attribute } from '../../attributes/attribute.ts';
import { addressNumber, addressOfNumber, contains } from '../../attributes/networks.ts';
import type { Fact } from '../../attributes/viewer.ts';
import type { Question } from '../../conditions/meaning.ts';
import type { Diagram } from '../diagrams/diagrams.ts';
import { cellsWhere, type Domain, known, type Levels, notAsked, type Variable } from './domain.ts';
import { sayPresence } from './words.ts';

const [v4Start, v6Start] = [addressNumber('0.0.0.0'), addressNumber('::')];
const v6End = addressNumber('ffff:ffff:ffff:ffff:ffff:ffff:ffff:ffff') + 1n;
/** Numbers of v6 that stand for v4 addresses; these are always read as v4. */
const [mappedStart, mappedEnd] = [v6Start + (0xffffn << 32n), v6Start + (0x10000n << 32n)];

/** IP addresses: a cell for each stretch between the ends of ranges. */
export class AddressDomain implements Domain {
  readonly variables: readonly [Variable];
  /** Where each stretch begins, in order. */
  private readonly starts: readonly bigint[];

  /** @param questions of kind `networks` and `known` */
  constructor(
    readonly attribute: Attribute,
    questions: readonly Question[],
  ) {
    const bounds = new Set([v4Start, v6Start, mappedStart, mappedEnd]);
    for (const question of questions)
      if (question.kind === 'networks')
        for (const { first, last } of question.networks) {
          bounds.add(first);
          bounds.add(last + 1n);
        }
    this.starts = [...bounds]
      .filter((bound) => bound < v6End && !(bound >= mappedStart && bound < mappedEnd))
      .sort((left, right) => (left < right ? -1 : 1));
    this.variables = [
      {
        width: this.starts.length + 1,
        say: (cells) => sayPresence(attribute, cells, this.starts.length + 1),
      },
    ];
  }

  answer(question: Question, levels: Levels): Diagram {
    const [variable] = this.variables;
    if (question.kind === 'known') return known(levels, variable);
    if (question.kind !== 'networks') throw notAsked(question, this.attribute);
    return cellsWhere(levels, variable, (cell) => {
      const start = this.starts[cell - 1];
      return start !== undefined && contains(question.networks, start);
    });
  }

  constraints(): Diagram[] {
    return [];
  }

  invent([cell = 0]: readonly number[]): Fact {
    const start = this.starts[cell - 1];
    return start === undefined ? undefined : addressOfNumber(start);
  }

  place(fact: Fact): number[] {
    if (typeof fact !== 'string') return [0];
    const number = addressNumber(fact);
    return [this.starts.findLastIndex((start) => start <= number) + 1];
  }
}
