export { storesApi } from './endpoints.ts';
export { ChoosePart, type ChosenPart } from './choose.tsx';
