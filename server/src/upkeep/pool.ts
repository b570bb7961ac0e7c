// The tasks of plans and runs, run on a thread.
import { refusal } from '#core/refusal.ts';
import { onThreads } from '../platform/threads.ts';
import type * as thread from './thread.ts';

/** What runs on a thread, by name. */
type Tasks = Pick<
  typeof thread,
  | 'preview'
  | 'decide'
  | 'raise'
  | 'plan'
  | 'load'
  | 'levelling'
  | 'move'
  | 'year'
  | 'yearDocument'
  | 'feed'
  | 'facility'
>;

export const onThread = onThreads<Tasks>(
  new URL('./thread.ts', import.meta.url),
  refusal('too-large', 'So many visits cannot be worked out at once; choose a nearer date.', 'to'),
);
