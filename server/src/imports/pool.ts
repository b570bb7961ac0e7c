// The tasks of imports, run on a thread: a dry run never waits for somebody else's long import.
import { refusal } from '#core/refusal.ts';
import { onThreads } from '../platform/threads.ts';
import type * as thread from './thread.ts';

export const onThread = onThreads<Pick<typeof thread, 'look' | 'remarks' | 'carryOut' | 'whole'>>(
  new URL('./thread.ts', import.meta.url),
  refusal('too-large', 'The file is too large to be looked through at once; split it.', 'file'),
);
