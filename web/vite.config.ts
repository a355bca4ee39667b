import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

const isolation = { 'Cross-Origin-Opener-Policy': 'same-origin', 'Cross-Origin-Embedder-Policy': 'require-corp' };
export default defineConfig({
  root: import.meta.dirname,
  plugins: [react()],
  resolve: { conditions: ['source', 'browser', 'module', 'import', 'default'] },
  build: { outDir: 'dist', emptyOutDir: true, target: 'es2023', chunkSizeWarningLimit: 2000 },
  worker: { format: 'es' },
  server: { headers: isolation, proxy: { '/api': 'http://127.0.0.1:4460' } },
  preview: { headers: isolation },
});
