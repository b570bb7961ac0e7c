import type { Room } from '../room.ts';
import { assetsDerived } from './derived.ts';
import { fileRoutes } from './files.ts';
import { assetsFound } from './finder.ts';
import { assetLookRoutes } from './looking.ts';
import { assetsFollow } from './place-merged.ts';
import { assetRoutes } from './routes.ts';
import { treeEffectRoutes } from './tree-effect.ts';

export { assetRows } from './rows.ts';
export { assetsFound, indexAssets, indexNewAssets } from './finder.ts';
export {
  recordFacts,
  registerMany,
  writeEvents,
  type AssetRow,
  type Fact,
  type Registered,
  type AssetHappening,
} from './facts.ts';
export { changeAsset, orTaken, recordLife, registerAsset, swapAsset } from './commands.ts';
export { assetByCode } from './scanned.ts';
export { attachIn, mediaTypeOf } from './files.ts';
export { carryFiles, freeName, namesAttached } from './carry-files.ts';

export const assets: Room = {
  name: 'assets',
  routes: [assetLookRoutes, assetRoutes, fileRoutes, treeEffectRoutes],
  found: [assetsFound],
  placeMerged: assetsFollow,
  derived: [assetsDerived],
};
