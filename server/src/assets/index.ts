import type { Room } from '../room.ts';
import { bulkRoutes } from './bulk.ts';
import { fileRoutes } from './files.ts';
import { assetsFound } from './finder.ts';
import { assetLookRoutes } from './looking.ts';
import { assetRoutes } from './routes.ts';
import { treeEffectRoutes } from './tree-effect.ts';

export { assetRows } from './rows.ts';
export { assetsFound, indexAssets, indexNewAssets } from './finder.ts';
export { keepContent, readContent } from './files.ts';

export const assets: Room = {
  name: 'assets',
  routes: [assetLookRoutes, assetRoutes, bulkRoutes, fileRoutes, treeEffectRoutes],
  found: assetsFound,
};
