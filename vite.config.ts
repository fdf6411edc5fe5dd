import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';
import { ensureKernel } from './scripts/lib/kernel.mjs';

ensureKernel(import.meta.dirname);

const isolation = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
};

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: {
    outDir: 'dist/web',
    emptyOutDir: true,
    manifest: true,
    target: 'es2022',
    chunkSizeWarningLimit: 1500,
  },
  worker: { format: 'es' },
  server: {
    host: '127.0.0.1',
    headers: isolation,
    proxy: { '/api': 'http://127.0.0.1:4870' },
    watch: { ignored: ['**/.farlo/**', '**/dist/**', '**/.tmp/**'] },
  },
});
