// A thread starts without the loader of TypeScript: it is registered here first, then the task is handed on.
import { register } from 'tsx/esm/api';

register();
const { labelSheet } = await import('./labels.ts');
export const draw = async (labels) => ({ value: await labelSheet(labels) });
