import { parentPort, workerData } from 'node:worker_threads';
import { readHalf } from './people-half.ts';
import type { GivenRest, ToldOfRest } from './rest-of-people.ts';

const { access, scope, from }: GivenRest = workerData;
const tell = (told: ToldOfRest) => parentPort?.postMessage(told);
tell({ half: await readHalf(access, scope, { from }, (read) => tell({ read })) });
