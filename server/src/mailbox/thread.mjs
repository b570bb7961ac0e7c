// A thread starts without the loader of TypeScript: it is registered here first, then the task is handed on.
import { register } from 'tsx/esm/api';

register();
const { parseMail } = await import('./parse.ts');
export const parse = async ({ raw }) => ({ value: await parseMail(raw) });
