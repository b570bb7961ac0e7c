export { OffersOf } from './of-order.tsx';
