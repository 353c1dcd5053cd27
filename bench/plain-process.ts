import { listening, plainServer } from './plain-server.ts';

// A process of its own: it is told what to send, and says where it listens.
process.once('message', async (bytes) => {
  const { address } = await listening(plainServer(String(bytes)));
  process.send?.({ address });
});
