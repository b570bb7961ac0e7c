// What plugs in.
import { raiseOrder, readOrderSettings } from '#api/calls.ts';
import type { Room } from '../shell/room.ts';

export const orders: Room = {
  name: 'orders',
  rail: { word: 'Orders', path: '/orders', key: 'o' },
  pages: [
    { path: 'orders/exceptions', load: async () => (await import('./exceptions.tsx')).ExceptionsRoom },
    { path: 'clocks', load: async () => (await import('./at-work.tsx')).ClocksAtWorkRoom },
    { path: 'orders/:id?', load: async () => (await import('./orders.tsx')).OrdersRoom },
    { path: 'call', load: async () => (await import('./call.tsx')).CallRoom },
  ],
  setup: [
    {
      ...{ path: 'orders', word: 'Orders', shown: readOrderSettings },
      load: async () => (await import('./settings.tsx')).OrderSettings,
    },
  ],
  keys: [{ key: 'c', word: 'Take a call', path: '/call', shown: raiseOrder }],
  today: [
    {
      place: 1,
      card: async () => (await import('./today.tsx')).PromisesCard,
      summary: async () => (await import('./today.tsx')).PromisesSummary,
    },
  ],
  found: [{ kind: 'order', group: 'Orders', open: (hit) => `/orders/${hit.id}` }],
};
