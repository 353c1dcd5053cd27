import { inBatches, linesOf, mostColumns, type Source, type SourceRecord, UnreadableFile } from './source.ts';

/**
 * Reads JSON Lines: one object on each line, its keys being the columns in the order in which they first occur. Lists
 * become their members with `;` between, as sets are written; what lies in an object within has the column `outer.inner`.
 *
 * @throws UnreadableFile for more columns than can be imported
 */
export function readJsonLines(pieces: AsyncIterable<string>): Source {
  const headers: string[] = [];
  const places = new Map<string, number>();
  const placeOf = (key: string): number => {
    let place = places.get(key);
    if (place === undefined) {
      place = headers.push(key) - 1;
      places.set(key, place);
      if (headers.length > mostColumns)
        throw new UnreadableFile(
          `The objects have more than ${mostColumns} different keys; so many columns can’t be imported.`,
        );
    }
    return place;
  };
  return { headers, batches: inBatches(recordsOf(pieces, placeOf)) };
}

async function* recordsOf(
  pieces: AsyncIterable<string>,
  placeOf: (key: string) => number,
): AsyncGenerator<SourceRecord> {
  let row = 0;
  for await (const line of linesOf(pieces)) {
    row++;
    if (line.trim() === '') continue;
    const cells: string[] = [];
    const problem = fill(cells, line, placeOf);
    yield problem === undefined ? { row, cells } : { row, cells, problem };
  }
}

function fill(cells: string[], line: string, placeOf: (key: string) => number): string | undefined {
  let object: unknown;
  try {
    object = JSON.parse(line);
  } catch {
    return 'is not JSON';
  }
  if (typeof object !== 'object' || object === null || Array.isArray(object)) return 'is not a JSON object';
  for (const [key, value] of Object.entries(object)) {
    if (isObject(value))
      for (const [inner, innerValue] of Object.entries(value)) {
        const text = textOf(innerValue);
        if (text === undefined) return `has objects within objects within “${key}”`;
        cells[placeOf(`${key}.${inner}`)] = text;
      }
    else {
      const text = textOf(value);
      if (text === undefined) return `has lists of objects in “${key}”`;
      cells[placeOf(key)] = text;
    }
  }
  return undefined;
}

function isObject(value: unknown): value is object {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** A plain value as text; undefined for one with objects in it. */
function textOf(value: unknown): string | undefined {
  if (value === null) return '';
  if (Array.isArray(value))
    return value.some((one) => typeof one === 'object' && one !== null) ? undefined : value.join(';');
  return typeof value === 'object' ? undefined : String(value);
}
