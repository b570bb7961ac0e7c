// Field is built by itself, beside the rest: what it shares with the desk would come to a phone in many small pieces, each a turn away.
import { defineConfig, mergeConfig } from 'vite';
import { fieldWorker } from './field-worker.ts';
import { pageOf } from './vite.config.ts';

export default defineConfig(
  mergeConfig(pageOf('field/index.html'), {
    plugins: [fieldWorker()],
    build: { emptyOutDir: false, copyPublicDir: false, manifest: '.vite/field.json' },
  }),
);
