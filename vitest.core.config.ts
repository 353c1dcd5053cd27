import { mergeConfig } from 'vitest/config';
import every from './vitest.config.ts';

/** The tests of the core alone, without those of what takes longest, which `npm run mutate` runs. */
const { include: _, ...test } = every.test ?? {};

export default mergeConfig(
  { test },
  { test: { include: ['core/**/*.test.ts'], exclude: ['core/analysis/limits.test.ts'] } },
);
