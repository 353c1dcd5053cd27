import { defineConfig } from 'vitest/config';

/** The test of a cluster: npm run test:cluster. It takes ten minutes, and Debian's galera-4, mariadb-backup and socat. */
export default defineConfig({
  test: { include: ['test/cluster/*.test.ts'], testTimeout: 3_600_000, hookTimeout: 300_000 },
});
