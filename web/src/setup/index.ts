export { EditableList } from './editable-list.tsx';
export { setupApi } from './endpoints.ts';
export { useTechnicians } from './technicians.ts';
