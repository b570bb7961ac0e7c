export { CalledIn } from './called-in.tsx';
export { OrderGlance } from './glance.tsx';
export { CauseDialog } from './change-dialog.tsx';
