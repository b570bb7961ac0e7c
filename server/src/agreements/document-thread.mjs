// A thread starts without the loader of TypeScript: it is registered here first, then the task is handed on.
import { register } from 'tsx/esm/api';

register();
const { agreementDocument } = await import('./document.ts');
export const draw = async ({ page, facts }) => ({ value: await agreementDocument(page, facts) });
