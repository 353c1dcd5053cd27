import { availableParallelism } from 'node:os';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['{core,contract,server,web,demo}/**/*.test.ts', 'test/**/*.test.ts'],
    exclude: ['**/node_modules/**', 'test/cluster/**'],
    // A machine of two processors has one worker otherwise, and waits for the database half the time.
    maxWorkers: Math.max(2, availableParallelism() - 1),
    // Only a test that hangs comes to these. Slow ones take half a minute, and a busy machine several times that.
    testTimeout: 300_000,
    hookTimeout: 300_000,
  },
});
