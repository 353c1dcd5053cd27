import { createHash } from 'node:crypto';
import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Catalogue } from '../../core/attributes/catalogue.ts';
import type { ColumnImage } from '../../core/population/column.ts';
import { Population, type PopulationImage } from '../../core/population/population.ts';
import { type ImageHead, readImage, removeImage, writeImage } from './contact-image.ts';

/** How many names are one part. */
const namesAPart = 20_000;

/** What of a contact is held besides its columns. */
export interface NamedContact {
  readonly id: number;
  readonly name: string;
  /** What it is found by. */
  readonly found: string;
}

export interface Everybody {
  readonly population: Population;
  readonly named: Iterable<NamedContact>;
  /** The ids by name, where they are known. */
  readonly order: Uint32Array | undefined;
}

interface Names {
  readonly ids: number[];
  readonly names: string[];
  readonly found: string[];
}

/** The files in which the contacts of one database are kept for the next start, one for each set of columns. */
export class KeptPeople {
  private readonly of: string;

  /** @param database what tells it from others that may keep theirs in the same folder */
  constructor(
    private readonly folder: string,
    database: string,
  ) {
    this.of = short(database);
  }

  /** Writes everybody down, in the place of what was written of them before. */
  write(head: ImageHead, everybody: Everybody): void {
    writeImage(this.pathOf(head.columns), head, partsOf(everybody));
  }

  /** Removes what was written of other columns than these. */
  clear(columns: readonly string[]): void {
    const paths = new Set(columns.map((one) => this.pathOf(one)));
    if (!existsSync(this.folder)) return;
    for (const name of readdirSync(this.folder)) {
      const path = join(this.folder, name);
      if (name.startsWith(this.of) && !paths.has(path)) removeImage(path);
    }
  }

  /**
   * Opens what was written of some columns; undefined where there is nothing.
   *
   * @returns the name that it has in the database, and what reads it
   */
  open(
    columns: string,
  ): { token: string; read: (catalogue: Catalogue) => Everybody; drop: () => void } | undefined {
    const path = this.pathOf(columns);
    const image = readImage(path);
    if (!image) return undefined;
    if (image.head.columns !== columns) {
      image.close();
      return undefined;
    }
    return {
      token: image.head.token,
      read: (catalogue) => {
        try {
          return readParts(image.next, catalogue);
        } finally {
          image.close();
        }
      },
      drop: () => {
        image.close();
        removeImage(path);
      },
    };
  }

  private pathOf(columns: string): string {
    return join(this.folder, `${this.of}-${short(columns)}.contacts`);
  }
}

function short(text: string): string {
  return createHash('sha256').update(text).digest('hex').slice(0, 24);
}

type Beginning = Omit<PopulationImage, 'columns'> & {
  readonly columns: number;
  readonly order: Uint32Array | undefined;
};

function* partsOf({ population, named, order }: Everybody): Generator<unknown> {
  const { columns, ...image } = population.image();
  yield { ...image, columns: columns.length, order } satisfies Beginning;
  yield* columns;
  let part: Names = { ids: [], names: [], found: [] };
  for (const { id, name, found } of named) {
    part.ids.push(id);
    part.names.push(name);
    part.found.push(found);
    if (part.ids.length < namesAPart) continue;
    yield part;
    part = { ids: [], names: [], found: [] };
  }
  yield part;
  // The end, so that a file that was cut off is not taken for a whole one.
  yield null;
}

/** Throws where the parts are not those that were written. */
function readParts(next: () => unknown, catalogue: Catalogue): Everybody {
  // What this program wrote of this version is read as what it is; a file of another version was refused before.
  const { columns: count, order, ...image } = next() as Beginning;
  const columns = Array.from({ length: count }, () => next() as ColumnImage);
  const population = Population.of(catalogue, { ...image, columns });
  const parts: Names[] = [];
  for (let part = next() as Names | null; part; part = next() as Names | null) parts.push(part);
  return { population, named: eachOf(parts), order };
}

function* eachOf(parts: readonly Names[]): Generator<NamedContact> {
  for (const { ids, names, found } of parts)
    for (const [at, id] of ids.entries()) yield { id, name: names[at] ?? '', found: found[at] ?? '' };
}
