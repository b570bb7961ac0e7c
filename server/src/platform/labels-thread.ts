// The task of labels that runs on a thread.
import { labelSheet, type Label } from './labels.ts';
import type { Answered } from './threads.ts';

export const draw = async (labels: readonly Label[]): Promise<Answered<Uint8Array>> => ({
  value: await labelSheet(labels),
});
