// What plugs in.
import type { Room } from '../shell/room.ts';

export const orders: Room = {
  name: 'orders',
  rail: { word: 'Orders', path: '/orders', key: 'o' },
  pages: [{ path: 'orders/:id?', load: async () => (await import('./orders.tsx')).OrdersRoom }],
  today: [
    {
      place: 1,
      card: async () => (await import('./today.tsx')).PromisesCard,
      summary: async () => (await import('./today.tsx')).PromisesSummary,
    },
  ],
  found: [{ kind: 'order', group: 'Orders', open: (hit) => `/orders/${hit.id}` }],
};
