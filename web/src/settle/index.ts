export { ComesTo } from './of-order.tsx';
export { settleApi } from './endpoints.ts';
