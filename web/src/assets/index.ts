export { BulkDialog } from './bulk.tsx';
export { assetsApi } from './endpoints.ts';
export { AssetForm } from './form.tsx';
export { AssetTable, type AssetListFilter, type Sorting, usePiece } from './table.tsx';
export { Twins } from './twins.tsx';
export { ChooseAsset } from './choose.tsx';
export { useAssetTicks, type AssetTicks } from './ticks.ts';
export { ChosenMachines } from './chosen-machines.tsx';
