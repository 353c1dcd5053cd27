import type { AddressInfo } from 'node:net';
import express from 'express';
import helmet from 'helmet';

/** A plain Express that sends some bytes to everybody, with the same security headers as the site. */
export function plainServer(bytes: string): express.Express {
  const plain = express();
  plain.disable('x-powered-by');
  plain.use(helmet());
  plain.get('/site/', (_request, response) => {
    response.set({ 'Cache-Control': 'private, no-cache', Vary: 'Cookie' });
    response.type('html').send(bytes);
  });
  return plain;
}

/** Has it listen on a port of its own; where, and what stops it. */
export async function listening(plain: express.Express): Promise<{ address: string; stop: () => void }> {
  const server = plain.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const { port } = server.address() as AddressInfo;
  return {
    address: `http://127.0.0.1:${port}/site/`,
    stop: () => {
      server.closeAllConnections();
      server.close();
    },
  };
}
