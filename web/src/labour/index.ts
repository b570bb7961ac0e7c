export { EntryDialog, type Line } from './entry-dialog.tsx';
export { RunningTime } from './running.tsx';
export { labourApi } from './endpoints.ts';
