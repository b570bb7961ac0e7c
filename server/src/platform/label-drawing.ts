// Labels, drawn on a thread: each code takes some milliseconds, and a sheet holds hundreds.
import { refusal } from '#core/refusal.ts';
import { onThreads, type Answered } from '../platform/threads.ts';
import type { Label } from './labels.ts';

type Tasks = { draw(labels: readonly Label[]): Promise<Answered<Uint8Array>> };

const onThread = onThreads<Tasks>(
  new URL('./labels-thread.mjs', import.meta.url),
  refusal('too-large', 'So many labels cannot be drawn at once; print fewer.'),
);

export const drawLabels = async (labels: readonly Label[]): Promise<Buffer> =>
  Buffer.from(await onThread('draw', labels));
