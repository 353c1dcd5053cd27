import { listening, plainServer } from './plain-server.ts';

// Runs as its own process: the parent sends the bytes to serve, and gets the address back.
process.once('message', async (bytes) => {
  const { address } = await listening(plainServer(String(bytes)));
  process.send?.({ address });
});
