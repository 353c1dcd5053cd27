import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';
import { compression, defineAlgorithm } from 'vite-plugin-compression2';
import { preloads } from './scripts/preloads.mjs';

/** The modules behind the sign-in screen. */
const ofSignIn =
  /node_modules\/(?:react|react-dom|scheduler|swr|use-sync-external-store|dequal)\/|lucide-react\/dist\/esm\/(?!icons\/)|circle-exclamation-point|web\/data\/(?:api|reach|position|open-work)\.ts|web\/parts\/(?:button|field|notice)\.tsx|contract\/session\.ts/;

const isOfTheBeginning = /\/(?:app|base|common|door|icons|loading|looking|rolldown-runtime|zod)-[^/]*$/;

export default defineConfig({
  root: 'web',
  // Compressed once, as well as can be, for every browser that asks.
  plugins: [
    react(),
    tailwindcss(),
    preloads(),
    compression({ threshold: 1024, algorithms: [defineAlgorithm('gzip', { level: 9 }), 'brotliCompress'] }),
  ],
  // Modules, so that the worker can wait for its parts before it says that it is ready.
  worker: { format: 'es' },
  build: {
    outDir: '../dist/web',
    emptyOutDir: true,
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 700,
    // What the studio begins with is there before any part of it is asked for.
    modulePreload: {
      // Every browser that runs the rest knows it by itself.
      polyfill: false,
      resolveDependencies: (_file, files, { hostType }) =>
        hostType === 'html' ? files : files.filter((file) => !isOfTheBeginning.test(file)),
    },
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            // What runs before anything else is here.
            {
              name: 'loading',
              test: /vite\/preload-helper|web\/data\/early\.ts|contract\/headers\.ts/,
              priority: 4,
            },
            // Zod and its settings in one file, so that they are set before any schema is made.
            { name: 'zod', test: /node_modules\/zod\/|\/no-eval\.ts$/, priority: 3 },
            // What the sign-in screen needs, and nothing else.
            { name: 'base', test: ofSignIn, priority: 2 },
            // What most screens have in common comes in one piece: browsers ask for six things at a time.
            // Recurrences are read by few, though many screens reach them.
            { name: 'common', test: /^(?!.*rrule|.*recurrence-rule)/, minShareCount: 13, priority: 1 },
            { name: 'icons', test: /lucide-react\/dist\/esm\/icons\//, minShareCount: 3, priority: 0 },
          ],
        },
      },
    },
  },
});
