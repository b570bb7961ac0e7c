// A thread starts without the loader of TypeScript: it is registered here first, then the tasks are handed on.
import { register } from 'tsx/esm/api';

register();
export const { preview, draw, drawClaim, readBank, margins, margin } = await import('./thread.ts');
