export { storesApi } from './endpoints.ts';
export { ChoosePart, type ChosenPart } from './choose.tsx';
export { FromStore, useFromStores, type FromStores } from './from-store.tsx';
export { PartsNeeded } from './needs.tsx';
export { BuiltInto } from './units.tsx';
