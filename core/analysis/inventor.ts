import type { Attribute, Value } from '../attributes/attribute.ts';
import { localDay } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { type Fact, type Viewer, valueOfFact } from '../attributes/viewer.ts';
import { type Cell, candidates, outcomesOf, signature, TooManyValues } from './cells.ts';
import type { State } from './states.ts';
import type { AttributeVariable, SameVariable, Variable } from './variables.ts';

/** Makes up viewers who lie in given cells. */
export class Inventor {
  /** @param instant now, in milliseconds since 1970 UTC */
  constructor(
    private readonly variables: readonly Variable[],
    private readonly catalogue: Catalogue,
    private readonly instant: number,
    private readonly hasItem: boolean,
  ) {}

  /** A viewer in cells by level, the first of a variable where none is given. */
  viewer(cells: ReadonlyMap<number, number>, state: State): Viewer {
    const values: { [source: string]: { [id: string]: Value } } = { contact: {}, visit: {}, item: {} };
    const moment = this.variables.findIndex(({ kind }) => kind === 'moment');
    const instant = this.momentAt(moment < 0 ? undefined : cells.get(moment + 1));
    const put = (attribute: Attribute, fact: Fact): void => {
      const own = values[attribute.source];
      if (own && fact !== undefined) own[attribute.id] = valueOfFact(attribute, fact);
    };
    for (const [index, variable] of this.variables.entries()) {
      if (variable.kind !== 'attribute') continue;
      const cell = variable.cells[cells.get(index + 1) ?? 0];
      if (cell) put(variable.attribute, this.factAt(variable, cell, instant));
    }
    for (const [index, variable] of this.variables.entries())
      if (variable.kind === 'same' && cells.get(index + 1) !== 1) this.tellApart(variable, cells, values);
    const { contact = {}, visit = {}, item = {} } = values;
    return {
      contact: state === 'anonymous' ? null : contact,
      signedIn: state === 'signed-in',
      visit,
      item: this.hasItem ? item : null,
      instant,
    };
  }

  /** The moment that a cell of it stands for; the world's own where none is asked for. */
  momentAt(cell: number | undefined): number {
    const moment = this.variables.find((variable) => variable.kind === 'moment');
    return moment?.kind === 'moment' ? (moment.cells[cell ?? 0]?.instant ?? this.instant) : this.instant;
  }

  /** A value of a cell as it is at a moment: what counts from today moves with it. */
  factAt(variable: AttributeVariable, cell: Cell, instant: number): Fact {
    const { attribute, tests } = variable;
    if (cell.fact === undefined || (instant === this.instant && !variable.tied)) return cell.fact;
    if (attribute.type !== 'date' && attribute.type !== 'date-time') return cell.fact;
    const today = localDay(instant, this.catalogue.zone);
    const outcomes = outcomesOf(tests, this.catalogue);
    const wanted = signature(cell.outcomes);
    return (
      candidates(attribute, tests, this.catalogue, today).find(
        (fact) => signature(outcomes(fact, today)) === wanted,
      ) ?? cell.fact
    );
  }

  /** Gives the item another text of its cell than the viewer's own, where the two must differ. */
  private tellApart(
    { attribute, other }: SameVariable,
    cells: ReadonlyMap<number, number>,
    values: { [source: string]: { [id: string]: Value } },
  ): void {
    const [own, theirs] = [values[attribute.source], values[other.source]];
    const text = own?.[attribute.id];
    if (!own || typeof text !== 'string' || text !== theirs?.[other.id]) return;
    const at = this.variables.findIndex(
      (one) => one.kind === 'attribute' && one.attribute.id === attribute.id,
    );
    const variable = this.variables[at];
    if (variable?.kind !== 'attribute') return;
    const cell = variable.cells[cells.get(at + 1) ?? 0];
    const outcomes = outcomesOf(variable.tests, this.catalogue);
    const wanted = signature(cell?.outcomes ?? []);
    const middle = text.length >> 1;
    const others = ['\uE001', '\uE002'].flatMap((char) => [
      text + char,
      char + text,
      text.slice(0, middle) + char + text.slice(middle),
    ]);
    const found = others.find(
      (one) => signature(outcomes(one, localDay(this.instant, this.catalogue.zone))) === wanted,
    );
    if (found === undefined)
      throw new TooManyValues(`no two texts of ${attribute.label} could be told apart`);
    own[attribute.id] = found;
  }
}
