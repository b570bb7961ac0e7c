export { signalsApi } from './endpoints.ts';
export { AlertsOf } from './of-order.tsx';
