export { setupApi } from './endpoints.ts';
