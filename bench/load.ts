import { Agent, request } from 'node:http';
import { sized } from './size.ts';

const connections = 16;
export const requestsARound = sized(3000, 100);
export const rounds = sized(7, 1);

export interface Target {
  readonly address: string;
  readonly cookie: string;
}

/**
 * Requests per second over some connections kept open, and the time that one in a hundred takes longer than, in ms.
 *
 * @param targets asked in turn
 */
export async function load(...targets: readonly Target[]): Promise<{ perSecond: number; p99: number }> {
  const agent = new Agent({ keepAlive: true, maxSockets: connections });
  const times = new Float64Array(requestsARound);
  let next = 0;
  const start = performance.now();
  await Promise.all(
    Array.from({ length: connections }, async () => {
      for (let own = next++; own < requestsARound; own = next++) {
        const asked = performance.now();
        const { address, cookie } = targets[own % targets.length] ?? { address: '', cookie: '' };
        await get(address, cookie, agent);
        times[own] = performance.now() - asked;
      }
    }),
  );
  const seconds = (performance.now() - start) / 1000;
  agent.destroy();
  times.sort();
  return {
    perSecond: requestsARound / seconds,
    p99: times[Math.floor(requestsARound * 0.99)] ?? Number.NaN,
  };
}

export function get(address: string, cookie: string, agent: Agent): Promise<void> {
  return new Promise((resolve, reject) => {
    const asked = request(address, { agent, headers: cookie === '' ? {} : { cookie } }, (response) => {
      if (response.statusCode !== 200) reject(new Error(`status ${response.statusCode}`));
      response.resume();
      response.once('end', resolve);
    });
    asked.once('error', (error) => {
      // A connection that stood idle was closed at the very moment it was to be used again: Node.js, request.reusedSocket.
      if (asked.reusedSocket && 'code' in error && error.code === 'ECONNRESET')
        get(address, cookie, agent).then(resolve, reject);
      else reject(error);
    });
    asked.end();
  });
}
