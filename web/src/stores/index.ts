export { storesApi } from './endpoints.ts';
export { ChoosePart } from './choose.tsx';
