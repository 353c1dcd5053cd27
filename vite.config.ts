import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';
import { compression, defineAlgorithm } from 'vite-plugin-compression2';

export default defineConfig({
  root: 'web',
  // Compressed once, as well as can be, for every browser that asks.
  plugins: [
    react(),
    tailwindcss(),
    compression({ threshold: 1024, algorithms: [defineAlgorithm('gzip', { level: 9 }), 'brotliCompress'] }),
  ],
  // Modules, so that the worker can wait for its parts before it says that it is ready.
  worker: { format: 'es' },
  build: {
    outDir: '../dist/web',
    emptyOutDir: true,
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 700,
    rolldownOptions: {
      output: {
        // What Zod is told comes with it, before whatever makes a schema.
        codeSplitting: { groups: [{ name: 'zod', test: /node_modules\/zod\/|\/no-eval\.ts$/ }] },
      },
    },
  },
});
