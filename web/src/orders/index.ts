export { OrderGlance } from './glance.tsx';
export { RaiseRepair } from './raise.tsx';
