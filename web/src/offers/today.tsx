// What Today shows of offers: those that lapsed without an answer.
import { listOffers, offerNumber } from '#api/offers.ts';
import { COUNTED, DecisionOfFew } from '../shell/today-card.tsx';
import { useReader } from '../shell/reader.tsx';
import { offersApi } from './endpoints.ts';

export function LapsedOffers() {
  const may = useReader().may(listOffers);
  const query = { show: 'lapsed', limit: String(COUNTED) } as const;
  const { data } = offersApi.useListOffersQuery({ query }, { skip: !may });
  return (
    <DecisionOfFew
      what="Lapsed without an answer"
      thing="offer"
      items={(data?.items ?? []).map((o) => ({
        ...{ id: o.id, to: `/offers/${o.id}`, name: `${offerNumber(o.id)} ${o.title}` },
        beside: o.customer.name,
      }))}
      more={(data?.next ?? null) !== null}
      all="/offers?show=lapsed"
    />
  );
}
