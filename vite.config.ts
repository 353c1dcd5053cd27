import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  root: 'web',
  plugins: [react(), tailwindcss()],
  // Modules, so that the worker can wait for its parts before it says that it is ready.
  worker: { format: 'es' },
  build: { outDir: '../dist/web', emptyOutDir: true, assetsInlineLimit: 0, chunkSizeWarningLimit: 700 },
});
