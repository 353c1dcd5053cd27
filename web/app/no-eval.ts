import { z } from 'zod';

// Before any schema is made: compiling them with eval is what the Content-Security-Policy forbids.
z.config({ jitless: true });
