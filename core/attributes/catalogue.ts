import type { Attribute } from './attribute.ts';
import { contactBasics, itemBasics, momentAttributes, signInAttributes, visitAttributes } from './builtin.ts';

const builtin = [
  ...contactBasics,
  ...signInAttributes,
  ...visitAttributes,
  ...momentAttributes,
  ...itemBasics,
];

/** All attributes that conditions and merge fields may name, by id and by a dense index. Immutable. */
export class Catalogue {
  readonly attributes: readonly Attribute[];
  /** The places of the attributes that are dates. */
  readonly dates: readonly number[];
  private readonly indexes: ReadonlyMap<string, number>;

  /**
   * @param defined the organisation's own attributes; the built-in ones are added.
   * @param zone the IANA time zone that local moments are in
   */
  constructor(
    defined: readonly Attribute[],
    readonly zone: string,
  ) {
    const taken = new Set(builtin.map((attribute) => attribute.id));
    this.attributes = [
      ...contactBasics,
      ...defined.filter((attribute) => !taken.has(attribute.id)),
      ...signInAttributes,
      ...visitAttributes,
      ...momentAttributes,
      ...itemBasics,
    ];
    this.indexes = new Map(this.attributes.map((attribute, index) => [attribute.id, index]));
    this.dates = this.attributes.flatMap(({ type }, index) => (type === 'date' ? [index] : []));
  }

  get(id: string): Attribute | undefined {
    const index = this.indexes.get(id);
    return index === undefined ? undefined : this.attributes[index];
  }

  /** The place of an attribute's value in {@link Facts}, or undefined where there is no such attribute. */
  indexOf(id: string): number | undefined {
    return this.indexes.get(id);
  }

  /** The place of the code of a date counted in days from today, behind those of all values; see codes.ts. */
  placeFromToday(place: number): number {
    return this.attributes.length + this.dates.indexOf(place);
  }
}
