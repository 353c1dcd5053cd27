import { mergeConfig } from 'vitest/config';
import every from './vitest.config.ts';

/** The tests of the core alone, which `npm run mutate` runs. */
const { include: _, ...test } = every.test ?? {};

export default mergeConfig({ test }, { test: { include: ['core/**/*.test.ts'] } });
