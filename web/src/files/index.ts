export { Files } from './files.tsx';
export { filesApi } from './endpoints.ts';
