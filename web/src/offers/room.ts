// What plugs in.
import { listOffers } from '#api/offers.ts';
import type { Room } from '../shell/room.ts';

export const offers: Room = {
  name: 'offers',
  rail: { word: 'Offers', path: '/offers', key: 'f', shown: listOffers },
  found: [{ kind: 'offer', group: 'Offers', open: (hit) => `/offers/${hit.id}` }],
  pages: [
    { path: 'offers', load: async () => (await import('./offers.tsx')).OffersRoom },
    { path: 'offers/new', load: async () => (await import('./write.tsx')).NewOffer },
    { path: 'offers/:id', load: async () => (await import('./offer.tsx')).OfferRoom },
  ],
  today: [{ place: 3, decisions: async () => (await import('./today.tsx')).LapsedOffers }],
};
