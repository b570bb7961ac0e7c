export { EntryDialog, type Line } from './entry-dialog.tsx';
export { labourApi } from './endpoints.ts';
