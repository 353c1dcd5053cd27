import { createReadStream, createWriteStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { type ExportRequest, exportQuerySchema, exportRequestSchema } from '../../contract/people.ts';
import { parse } from '../http/parse.ts';
import { notFound } from '../refusal.ts';
import type { Sequelize } from '../store/database.ts';
import { readPieces, removePiecesBefore, storePieces } from '../store/pieces.ts';
import type { JobQueue, RunningJob } from '../work/queue.ts';
import type { Contacts } from './contacts.ts';

/** How long the file of an export is kept, in milliseconds. */
const keptFor = 24 * 3_600_000;
/** How often it is stored how far an export has come, in milliseconds. */
const tellEvery = 1000;
const kind = 'export';

/** What each kind of file is called and sent as. */
export const exportTypes = {
  csv: { type: 'text/csv', ending: 'csv' },
  vcard: { type: 'text/vcard', ending: 'vcf' },
  'json-lines': { type: 'application/jsonl', ending: 'jsonl' },
};

const fileOf = (job: number) => `${kind}-${job}`;

/** Files of many people: made in the background, by any server, and kept for a day. */
export class Exports {
  constructor(
    private readonly sequelize: Sequelize,
    private readonly queue: JobQueue,
    private readonly contacts: Contacts,
  ) {
    queue.handle({ kind, payload: exportRequestSchema, tries: 3, run: (job) => this.run(job) });
  }

  /** Begins an export; refused where its filter has a problem. Returns the id of its job. */
  async begin(request: ExportRequest, accountName: string): Promise<number> {
    const people = (await this.contacts.idsToExport(parse(exportQuerySchema, request))).length;
    const title = `Export ${people === 1 ? 'one person' : `${people.toLocaleString('en-GB')} people`}`;
    return this.queue.add({ kind, title, payload: request, accountName });
  }

  /** The file that an export made. */
  async file(job: number): Promise<{ file: Readable; type: string; name: string }> {
    const made = await this.queue.payloadOf(job, kind);
    const pieces = readPieces(this.sequelize, fileOf(job));
    const first = await pieces.next();
    if (made === undefined || first.done) throw notFound('file; exports are kept for a day');
    const { type, ending } = exportTypes[exportRequestSchema.parse(made).kind];
    const whole = async function* () {
      yield first.value;
      yield* pieces;
    };
    return { file: Readable.from(whole()), type, name: `people.${ending}` };
  }

  /** Removes the files that were kept long enough. */
  async clear(): Promise<void> {
    await removePiecesBefore(this.sequelize, `${kind}-`, new Date(Date.now() - keptFor));
  }

  /** Removes every file: somebody who is in them is to be forgotten. */
  async forgetAll(): Promise<void> {
    await removePiecesBefore(this.sequelize, `${kind}-`, new Date(Date.now() + keptFor));
  }

  private async run(job: RunningJob<ExportRequest>): Promise<{ file: string; until: string }> {
    const query = parse(exportQuerySchema, job.payload);
    const ids = await this.contacts.idsToExport(query);
    const folder = await mkdtemp(join(tmpdir(), 'apple-porch-export-'));
    try {
      const path = join(folder, 'file');
      let [written, toldAt] = [0, Date.now()];
      const tell = new Transform({
        objectMode: true,
        transform: (lines: { text: string; people: number }, _encoding, done) => {
          written += lines.people;
          if (Date.now() - toldAt < tellEvery) return done(null, lines.text);
          toldAt = Date.now();
          const progress = written / Math.max(1, ids.length);
          job
            .commit(async () => {}, { progress, state: null })
            .then(
              () => done(null, lines.text),
              (error: Error) => done(error),
            );
        },
      });
      const lines = Readable.from(this.contacts.written(query.kind, ids));
      await pipeline(lines, tell, createWriteStream(path), { signal: job.signal });
      await job.commit(
        (transaction) => storePieces(this.sequelize, fileOf(job.id), createReadStream(path), transaction),
        { progress: 1, state: null },
      );
      return {
        file: `/contacts/exports/${job.id}/people.${exportTypes[query.kind].ending}`,
        until: new Date(Date.now() + keptFor).toISOString(),
      };
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  }
}
