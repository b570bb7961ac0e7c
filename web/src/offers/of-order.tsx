// Offers an order came of, or that were made of it.
import { Link } from 'react-router';
import { listOffers, offerNumber } from '#api/offers.ts';
import { useReader } from '../shell/reader.tsx';
import { offersApi } from './endpoints.ts';

export function OffersOf({ orderId }: { orderId: number }) {
  const skip = !useReader().may(listOffers);
  const { data } = offersApi.useListOffersQuery({ query: { show: 'all', order: String(orderId) } }, { skip });
  if (!data || data.items.length === 0) return null;
  return (
    <p className="quiet">
      {data.items.map((offer, i) => (
        <span key={offer.id}>
          {i > 0 && ', '}
          <Link className="link-ink" to={`/offers/${offer.id}`}>
            {offerNumber(offer.id)}
          </Link>{' '}
          {offer.orderId === orderId ? 'became this order' : `was made of it (${offer.standing})`}
        </span>
      ))}
    </p>
  );
}
