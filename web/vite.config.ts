import tailwind from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { join } from 'node:path';
import { defineConfig, type UserConfig } from 'vite';

const OURS = /\/(web|api|core)\/src\//;
const ENTRIES = /\.css$|\/main\.tsx$/;

const port = Number(process.env.STAVOK_PORT ?? 4780);

/** How a page is built with all that it names. */
export const pageOf = (page: string): UserConfig => ({
  root: import.meta.dirname,
  plugins: [react(), tailwind()],
  build: {
    outDir: '../dist/web',
    emptyOutDir: true,
    target: 'es2022',
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 400,
    manifest: true,
    // A room's face hands over many parts; whoever takes one of them does not load the others.
    rolldownOptions: {
      input: [join(import.meta.dirname, page)],
      treeshake: { moduleSideEffects: (id) => !OURS.test(id) || ENTRIES.test(id) },
    },
  },
});

export default defineConfig({
  ...pageOf('index.html'),
  server: { port: port + 1, host: '127.0.0.1', strictPort: true, proxy: { '/api': `http://127.0.0.1:${port}` } },
});
