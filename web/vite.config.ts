import tailwind from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { join } from 'node:path';
import { defineConfig } from 'vite';
import { fieldWorker } from './field-worker.ts';

const OURS = /\/(web|api|core)\/src\//;
const ENTRIES = /\.css$|\/main\.tsx$/;

const port = Number(process.env.STAVOK_PORT ?? 4780);

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react(), tailwind(), fieldWorker()],
  build: {
    outDir: '../dist/web',
    emptyOutDir: true,
    target: 'es2022',
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 400,
    manifest: true,
    // A room's face hands over many parts; whoever takes one of them does not load the others.
    rolldownOptions: {
      input: [join(import.meta.dirname, 'index.html'), join(import.meta.dirname, 'field/index.html')],
      treeshake: { moduleSideEffects: (id) => !OURS.test(id) || ENTRIES.test(id) },
    },
  },
  server: { port: port + 1, host: '127.0.0.1', strictPort: true, proxy: { '/api': `http://127.0.0.1:${port}` } },
});
