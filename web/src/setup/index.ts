export { EditableList } from './editable-list.tsx';
export { NameForm } from './name-form.tsx';
export { setupApi } from './endpoints.ts';
export { usePeople, useTechnicians } from './people-found.ts';
export { usePriorities, usePriorityChoices } from './priorities.ts';
