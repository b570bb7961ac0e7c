// A thread starts without the loader of TypeScript: it is registered here first, then the task is handed on.
import { register } from 'tsx/esm/api';

register();
const { reportDocument } = await import('./report-document.ts');
export const draw = async (report) => ({ value: await reportDocument(report) });
