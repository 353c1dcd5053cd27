import { z } from 'zod';

// Must be imported before any schema: compiling schemas with eval is what the Content-Security-Policy forbids.
z.config({ jitless: true });
