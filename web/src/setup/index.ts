export { setupApi } from './endpoints.ts';
export { useTechnicians } from './technicians.ts';
