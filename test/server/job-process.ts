import { setTimeout as delay } from 'node:timers/promises';
import { QueryTypes } from 'sequelize';
import { z } from 'zod';
import { ChangeLog } from '../../server/store/change-log.ts';
import { openDatabase } from '../../server/tables.ts';
import { JobQueue } from '../../server/work/queue.ts';

// A process that does jobs of many small steps until it is killed.

const sequelize = await openDatabase(process.env.DATABASE_URL ?? '');
const log = await ChangeLog.open(sequelize);
const queue = new JobQueue(log, { lease: 400, pause: 50 });
const reachedSchema = z.number().default(0);

queue.handle({
  kind: 'steps',
  payload: z.object({ steps: z.number() }),
  tries: 1000,
  async run(job) {
    for (let step = reachedSchema.parse(job.state) + 1; step <= job.payload.steps; step++) {
      await delay(Math.random() * 20);
      await job.commit(
        (transaction) =>
          sequelize.query('INSERT INTO effects (job, step) VALUES (?, ?)', {
            replacements: [job.id, step],
            type: QueryTypes.INSERT,
            transaction,
          }),
        { progress: step / job.payload.steps, state: step },
      );
    }
    return { steps: job.payload.steps };
  },
});
log.start();
queue.start();
process.send?.('works');
