// The tasks of runs, run on a thread.
import { refusal } from '#core/refusal.ts';
import { onThreads } from '../platform/threads.ts';
import type * as thread from './thread.ts';

export const onThread = onThreads<Pick<typeof thread, 'preview' | 'commit' | 'look'>>(
  new URL('./thread.mjs', import.meta.url),
  refusal('too-large', 'So many visits cannot be worked out at once; choose a nearer date.', 'to'),
);
