export { finderApi } from './endpoints.ts';
