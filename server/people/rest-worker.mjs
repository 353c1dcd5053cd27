// A thread does not take over the way its parent reads TypeScript, so it is set up here before the real work.
import { register } from 'tsx/esm/api';

register();
await import('./rest.worker.ts');
