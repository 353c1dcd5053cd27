import { type Attribute, choicesOf } from './attribute.ts';

/**
 * Values as numbers, so that most tests are one comparison: numbers, dates, instants and times of day as facts hold them,
 * yes as 1 and no as 0, choices by their place, sets as a bit for each member. NaN where a value is missing.
 */
export type Coder = (value: unknown) => number;

/** How many members a set may have to be one number: the bits of a positive integer in the language's bitwise operators. */
const mostBits = 31;

const coders = new WeakMap<Attribute, Coder>();

/**
 * The coder of an attribute, for its values as facts hold them and for stored ones that facts hold alike: choices, sets
 * and yes or no. Undefined for texts and the like, and for sets of more members than a number has bits.
 */
export function coderOf(attribute: Attribute): Coder | undefined {
  let coder = coders.get(attribute);
  if (!coder) {
    coder = makeCoder(attribute);
    if (coder) coders.set(attribute, coder);
  }
  return coder;
}

function makeCoder(attribute: Attribute): Coder | undefined {
  switch (attribute.type) {
    case 'number':
    case 'date':
    case 'date-time':
    case 'time':
      return (value) => (typeof value === 'number' ? value : Number.NaN);
    case 'yes-no':
      return (value) => (typeof value === 'boolean' ? Number(value) : Number.NaN);
    case 'choice': {
      const places = placesOf(attribute);
      return (value) => places.get(value) ?? Number.NaN;
    }
    case 'set':
      return attribute.choices.length > mostBits ? undefined : setCoder(placesOf(attribute));
    default:
      return undefined;
  }
}

function placesOf(attribute: Attribute): ReadonlyMap<unknown, number> {
  return new Map(choicesOf(attribute).map(({ id }, place) => [id, place]));
}

/** A set of which no member exists any more is missing. */
function setCoder(places: ReadonlyMap<unknown, number>): Coder {
  return (value) => {
    if (!Array.isArray(value)) return Number.NaN;
    let bits = 0;
    for (const member of value) {
      const place = places.get(member);
      if (place !== undefined) bits |= 1 << place;
    }
    return bits === 0 ? Number.NaN : bits;
  };
}
