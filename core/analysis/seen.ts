import { stringify } from 'safe-stable-stringify';
import { everyoneElse } from '../deciding/decide.ts';
import {
  type Block,
  type Content,
  type Document,
  listsOf,
  type Node,
  regionNames,
  slotsOf,
  withText,
} from '../documents/document.ts';
import { words } from '../documents/text.ts';

/** Numbers for texts, the same for the same text. */
export class Numbers {
  private readonly known = new Map<string, number>();

  of(text: string): number {
    let number = this.known.get(text);
    if (number === undefined) {
      number = this.known.size;
      this.known.set(text, number);
    }
    return number;
  }
}

/** Hands over a number for each thing that is seen with some choices, in order. */
type Show = (choices: readonly number[], take: (seen: number) => void) => void;

/**
 * What somebody with some choices sees of a document: a number for each block in order, which two blocks have in common
 * where they say the same; ids and the names of sections are left out. Each block is written out once, whatever the number
 * of faces that are compared.
 *
 * @param frame what stands around the content, as text
 */
export function seenOf(
  { kind, content }: Pick<Document, 'kind' | 'content'>,
  frame: string,
  numbers: Numbers,
): (choices: readonly number[]) => number[] {
  const showing = new Showing(content, numbers);
  const around = numbers.of(`frame ${kind} ${frame}`);
  const regions = regionNames.map((region) => ({
    region: numbers.of(`region ${region}`),
    show: showing.all(content[region]),
  }));
  return (choices) => {
    const seen = [around];
    const take = (one: number) => seen.push(one);
    for (const { region, show } of regions) {
      seen.push(region);
      show(choices, take);
    }
    return seen;
  };
}

class Showing {
  /** The place of each slot among the choices. */
  private readonly order: ReadonlyMap<string, number>;
  private readonly end: number;

  constructor(
    content: Content,
    private readonly numbers: Numbers,
  ) {
    this.order = new Map(slotsOf(content).map((slot, index) => [slot.id, index]));
    this.end = numbers.of('end');
  }

  all(nodes: readonly Node[]): Show {
    const shows = nodes.map((node) => this.one(node));
    return (choices, take) => {
      for (const show of shows) show(choices, take);
    };
  }

  private one(node: Node): Show {
    if (node.kind === 'slot') {
      const place = this.order.get(node.id) ?? -1;
      const variants = node.variants.map(({ content }) => this.all(content));
      const otherwise = this.all(node.otherwise);
      return (choices, take) => {
        const show = variants[choices[place] ?? everyoneElse] ?? otherwise;
        show(choices, take);
      };
    }
    if (node.kind === 'section' || node.kind === 'links') {
      const { id: _id, children, name: _name, ...rest } = node;
      const own = this.numbers.of(stringify(rest));
      const inner = this.all(children);
      return (choices, take) => {
        take(own);
        inner(choices, take);
        take(this.end);
      };
    }
    if (listsOf(node).length > 0) return (choices, take) => take(this.numbers.of(this.words(node, choices)));
    const { id: _id, ...rest } = node;
    const own = this.numbers.of(stringify(rest));
    return (_choices, take) => take(own);
  }

  /** A block in whose words some differ, as somebody reads it. */
  private words(node: Block, choices: readonly number[]): string {
    const { id: _id, ...rest } = withText(node, (inline) =>
      inline.type === 'alternatives'
        ? words(
            inline.attrs.variants[choices[this.order.get(inline.attrs.id) ?? -1] ?? everyoneElse]?.words ??
              inline.attrs.otherwise,
          )
        : [inline],
    );
    return stringify(rest);
  }
}
