export { firstTerms, ScheduleFields } from './editor/fields.tsx';
export { Previewed, usePreview } from './editor/preview.tsx';
