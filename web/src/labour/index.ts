export { OrderTime } from './of-order.tsx';
export { labourApi } from './endpoints.ts';
