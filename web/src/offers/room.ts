// What plugs in.
import { listOffers } from '#api/offers.ts';
import type { Room } from '../shell/room.ts';

export const offers: Room = {
  name: 'offers',
  rail: { word: 'Offers', path: '/offers', key: 'f', shown: listOffers },
  pages: [
    { path: 'offers', load: async () => (await import('./offers.tsx')).OffersRoom },
    { path: 'offers/new', load: async () => (await import('./write.tsx')).NewOffer },
    { path: 'offers/:id', load: async () => (await import('./offer.tsx')).OfferRoom },
  ],
};
