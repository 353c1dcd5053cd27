import { createHash } from 'node:crypto';
import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Catalogue } from '../../core/attributes/catalogue.ts';
import type { ColumnImage } from '../../core/population/column.ts';
import { Population, type PopulationImage } from '../../core/population/population.ts';
import { type ImageHead, readImage, removeImage, writeImage } from './contact-image.ts';
import type { TextBlock } from './texts-by-id.ts';

/** Names of some contacts, and the texts they are searched by. */
export interface NamedContacts {
  readonly names: TextBlock;
  /** Folded names and addresses. */
  readonly found: TextBlock;
}

export interface Everybody {
  readonly population: Population;
  readonly named: Iterable<NamedContacts>;
  /** The ids by name, where they are known. */
  readonly order: Uint32Array | undefined;
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
  yield* named;
  // The end, so that a file that was cut off is not taken for a whole one.
  yield null;
}

/** Throws where the parts are not those that were written. */
function readParts(next: () => unknown, catalogue: Catalogue): Everybody {
  // What this program wrote of this version is read as what it is; a file of another version was refused before.
  const { columns: count, order, ...image } = next() as Beginning;
  const columns = Array.from({ length: count }, () => next() as ColumnImage);
  const population = Population.of(catalogue, { ...image, columns });
  const named: NamedContacts[] = [];
  for (let part = next() as NamedContacts | null; part; part = next() as NamedContacts | null)
    named.push({ names: alone(part.names), found: alone(part.found) });
  return { population, named, order };
}

/** A block that does not hold on to all that it was read from. */
function alone({ ids, text }: TextBlock): TextBlock {
  return { ids: ids.slice(), text };
}
