// Offers: those that are open with their age, and those that came to an end.
import { Link, useNavigate, useSearchParams } from 'react-router';
import { addOffer, OFFER_SHOWS, offerNumber, type OfferRow } from '#api/offers.ts';
import { orderNumber } from '#api/shapes.ts';
import { sayAmountOf } from '#core/money.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { Table, type Column } from '../parts/table/index.ts';
import { plural, sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { offersApi } from './endpoints.ts';

type Show = (typeof OFFER_SHOWS)[number];
const WORDS: Readonly<Record<Show, string>> = {
  open: 'Open: drafts, and sent ones that hold',
  draft: 'Drafts',
  sent: 'Sent, and still hold',
  lapsed: 'Lapsed without an answer',
  accepted: 'Accepted',
  declined: 'Declined',
  withdrawn: 'Withdrawn',
  all: 'All',
};

const sayAge = ({ age, standing }: OfferRow): string =>
  `${standing === 'draft' ? 'begun' : 'sent'} ${age === 0 ? 'today' : age === 1 ? 'yesterday' : `${age} days ago`}`;

const COLUMNS: Column<OfferRow>[] = [
  {
    id: 'number',
    head: 'Number',
    width: 96,
    value: (row) => row.id,
    show: (row) => (
      <Link className="serial link-ink" to={`/offers/${row.id}`}>
        {offerNumber(row.id)}
      </Link>
    ),
  },
  { id: 'title', head: 'What', value: (row) => row.title },
  { id: 'customer', head: 'Customer', value: (row) => row.customer.name },
  {
    id: 'standing',
    head: 'Stands',
    value: (row) => row.standing,
    className: (row) => (row.standing === 'lapsed' ? 'font-semibold' : ''),
  },
  { id: 'age', head: 'Age', value: (row) => row.age, show: sayAge },
  {
    id: 'until',
    head: 'Valid until',
    value: (row) => row.validUntil,
    show: (row) => sayDate(row.validUntil),
    className: 'whitespace-nowrap',
  },
  {
    id: 'total',
    head: 'Without tax',
    isNumber: true,
    value: (row) => row.withoutTax,
    show: (row) => `${row.currency} ${sayAmountOf(row.withoutTax, row.currency)}`,
  },
  {
    id: 'order',
    head: 'Order',
    value: (row) => row.orderId,
    show: (row) =>
      row.orderId === null ? (
        ''
      ) : (
        <Link className="serial link-ink" to={`/orders/${row.orderId}`}>
          {orderNumber(row.orderId)}
        </Link>
      ),
  },
];

export function OffersRoom() {
  const navigate = useNavigate();
  const reader = useReader();
  const pages = usePages();
  const [params, setParams] = useSearchParams();
  const show = OFFER_SHOWS.find((s) => s === params.get('show')) ?? 'open';
  const customer = params.get('customer');
  const { after } = pages;
  const query = offersApi.useListOffersQuery({
    query: { show, ...(customer && { customer }), ...(after && { after }) },
  });
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <header className="flex items-end gap-4 pb-3">
        <h1>Offers</h1>
        <select
          aria-label="Which"
          className="box-select max-w-72"
          value={show}
          onChange={(e) => {
            pages.begin();
            setParams(e.target.value === 'open' ? {} : { show: e.target.value });
          }}
        >
          {OFFER_SHOWS.map((s) => (
            <option key={s} value={s}>
              {WORDS[s]}
            </option>
          ))}
        </select>
        {reader.may(addOffer) && (
          <Link className="act-main ml-auto" to="/offers/new">
            Write an offer…
          </Link>
        )}
      </header>
      <Waiting query={query}>
        {({ items, next }) =>
          items.length === 0 ? (
            <p className="quiet border-y border-hairline py-4">
              {show === 'open'
                ? 'No offer is open. One is begun here, from a call that nobody covers, from a message, or from past work.'
                : `${plural(0, 'offer')} here.`}{' '}
              {show !== 'open' && (
                <button className="link-ink" onClick={() => setParams({ show: 'all' })}>
                  Show all
                </button>
              )}
            </p>
          ) : (
            <>
              <Table
                name="offers"
                caption="Offers"
                rows={items}
                columns={COLUMNS}
                idOf={(row) => row.id}
                onOpen={(row) => void navigate(`/offers/${row.id}`)}
              />
              <Pager pages={pages} next={next} words={['Newer', 'Older']} />
            </>
          )
        }
      </Waiting>
    </div>
  );
}
