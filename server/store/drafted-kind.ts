/** A thing of a kind as it is drafted. */
export interface Drafted<Value> {
  readonly id: string;
  readonly value: Value;
  /** What its place among the others of its kind depends on; one whose place is as before stands where it stood. */
  readonly place: string;
}

/** What is drafted of one kind. */
export interface DraftedKind<Value> {
  /** Those of some ids that there are, or all in their order. */
  read(ids?: readonly string[]): Promise<Drafted<Value>[]>;
  /** The ids of all in their order. */
  order(): Promise<string[]>;
}

/**
 * What is drafted of one kind, by its table.
 *
 * @param find the rows that meet a condition, in order
 * @param ids the ids of all rows, in order
 * @param place what the order depends on, unless it never changes
 */
export function draftedKind<Row extends { readonly id: string }, Value>(
  find: (where: { id?: string[] }) => Promise<Row[]>,
  ids: () => Promise<{ readonly id: string }[]>,
  made: (row: Row) => Value,
  place: (row: Row) => string = () => '',
): DraftedKind<Value> {
  return {
    async read(wanted) {
      const rows = await find(wanted ? { id: [...wanted] } : {});
      return rows.map((row) => ({ id: row.id, value: made(row), place: place(row) }));
    },
    async order() {
      return (await ids()).map(({ id }) => id);
    },
  };
}
