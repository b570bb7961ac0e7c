export { OrderGlance } from './glance.tsx';
