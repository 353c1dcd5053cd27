import { availableParallelism } from 'node:os';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['{core,contract,server,web,demo}/**/*.test.ts', 'test/**/*.test.ts'],
    exclude: ['**/node_modules/**'],
    // A machine of two processors has one worker otherwise, and waits for the database half the time.
    maxWorkers: Math.max(2, availableParallelism() - 1),
    testTimeout: 30_000,
    hookTimeout: 60_000,
  },
});
