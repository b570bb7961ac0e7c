export { EditableList } from './editable-list.tsx';
export { NameForm } from './name-form.tsx';
export { setupApi } from './endpoints.ts';
export { useTechnicians } from './technicians.ts';
