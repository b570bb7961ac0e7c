export { signalsApi } from './endpoints.ts';
