// A thread starts without the loader of TypeScript: it is registered here first, then the task is handed on.
import { register } from 'tsx/esm/api';

register();
const { offerDocument } = await import('./document.ts');
export const draw = async (page) => ({ value: await offerDocument(page) });
