import tailwind from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

const port = Number(process.env.STAVOK_PORT ?? 4780);

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react(), tailwind()],
  build: {
    outDir: '../dist/web',
    emptyOutDir: true,
    target: 'es2022',
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 400,
  },
  server: { port: port + 1, host: '127.0.0.1', strictPort: true, proxy: { '/api': `http://127.0.0.1:${port}` } },
});
