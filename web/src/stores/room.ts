// What plugs in.
import { listParts } from '#api/stores.ts';
import type { Room } from '../shell/room.ts';

export const stores: Room = {
  name: 'stores',
  rail: { word: 'Stores', path: '/stores', key: 'p', shown: listParts },
  pages: [
    { path: 'stores', load: async () => (await import('./parts.tsx')).PartsRoom },
    { path: 'stores/all', load: async () => (await import('./stores.tsx')).StoresRoom },
    { path: 'stores/all/:id', load: async () => (await import('./shelves.tsx')).StoreRoom },
    { path: 'stores/all/:id/picking', load: async () => (await import('./picking.tsx')).PickingRoom },
    { path: 'stores/counts/:id', load: async () => (await import('./counts.tsx')).CountRoom },
    { path: 'stores/buy', load: async () => (await import('./to-buy.tsx')).ToBuyRoom },
    { path: 'stores/low', load: async () => (await import('./low.tsx')).LowRoom },
    { path: 'stores/purchases', load: async () => (await import('./purchases.tsx')).PurchasesRoom },
    { path: 'stores/purchases/:id', load: async () => (await import('./purchase.tsx')).PurchaseRoom },
    { path: 'stores/suppliers', load: async () => (await import('./suppliers.tsx')).SuppliersRoom },
    { path: 'stores/asked', load: async () => (await import('./van-asks.tsx')).VanAsksRoom },
    { path: 'stores/returns', load: async () => (await import('./returns.tsx')).ReturnsRoom },
    { path: 'stores/figures', load: async () => (await import('./store-figures.tsx')).StoreFiguresRoom },
    { path: 'stores/scan/:number', load: async () => (await import('./by-label.tsx')).PartByLabel },
    { path: 'stores/parts/:id/unit', load: async () => (await import('./units.tsx')).UnitRoom },
    { path: 'stores/parts/:id', load: async () => (await import('./part.tsx')).PartRoom },
  ],
  found: [{ kind: 'part', group: 'Parts', open: (hit) => `/stores/parts/${hit.id}` }],
};
