export { OrderTime } from './of-order.tsx';
