// Labels, drawn on a thread: each code takes some milliseconds, and a sheet holds hundreds.
import { refusal } from '#core/refusal.ts';
import { onThreads } from '../platform/threads.ts';
import type { Label } from './labels.ts';
import type * as tasks from './labels-thread.ts';

const onThread = onThreads<typeof tasks>(
  new URL('./labels-thread.ts', import.meta.url),
  refusal('too-large', 'So many labels cannot be drawn at once; print fewer.'),
);

export const drawLabels = async (labels: readonly Label[]): Promise<Buffer> =>
  Buffer.from(await onThread('draw', labels));
