// Exceptions: what was decided about orders although something spoke against it, and by whom.
import { Link, useSearchParams } from 'react-router';
import type { listExceptions, OrderException } from '#api/order-lists.ts';
import { orderNumber } from '#api/shapes.ts';
import { EXCEPTIONS, type ExceptionKind } from '#core/orders/index.ts';
import { instant, parseLocalDate, type Instant, type Zone } from '#core/time/index.ts';
import { DateField } from '../parts/date-field.tsx';
import { Pager, usePages } from '../parts/pager.tsx';
import { Table, type Column } from '../parts/table/index.ts';
import { sayMoment } from '../parts/words.ts';
import { setupApi } from '../setup/index.ts';
import { askedIn, type Args } from '../shell/calls.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { ordersApi } from './endpoints.ts';

const WORDS: Readonly<Record<ExceptionKind, string>> = {
  'over terms': 'raised over credit terms',
  'decided again': 'decided again',
  'task left': 'task left undone',
  'machine left': 'machine left undone',
  'not signed for': 'nobody signed',
  'done with something missing': 'done with something missing',
};
const KEYS = ['kind', 'who', 'depot', 'from', 'to'] as const;

function columnsOf(now: Instant, zone: Zone, search: (who: number) => string) {
  const columns: Column<OrderException>[] = [
    {
      ...{ id: 'at', head: 'When', width: 110, className: 'whitespace-nowrap' },
      value: (e) => e.at,
      show: (e) => sayMoment(e.at, now, zone),
    },
    {
      ...{ id: 'order', head: 'Order' },
      value: (e) => e.order.id,
      show: (e) => (
        <>
          <Link className="serial link-ink" to={`/orders/${e.order.id}`}>
            {orderNumber(e.order.id)}
          </Link>{' '}
          {e.order.title}
          <span className="quiet">, {e.order.stage}</span>
        </>
      ),
    },
    { id: 'customer', head: 'Customer', value: (e) => e.customer },
    { id: 'kind', head: 'Exception', value: (e) => WORDS[e.kind] },
    { id: 'text', head: 'What was said', value: (e) => e.text },
    {
      ...{ id: 'who', head: 'Decided by' },
      value: (e) => e.who?.name ?? '',
      show: (e) =>
        e.who ? (
          <Link className="link-ink" to={search(e.who.id)} title="Only those">
            {e.who.name}
          </Link>
        ) : (
          'by itself'
        ),
    },
  ];
  return columns;
}

/** The filter as the address has it. */
const filterOf = (params: URLSearchParams): NonNullable<Args<typeof listExceptions>['query']> => askedIn(params, KEYS);

function Filters({ params, change }: { params: URLSearchParams; change: (key: string, value: string) => void }) {
  const { data } = setupApi.useReadReferenceQuery();
  const search = params.toString();
  return (
    <div className="flex flex-wrap items-end gap-3 pb-3">
      <select
        aria-label="Exception"
        className="box-select w-60"
        value={params.get('kind') ?? ''}
        onChange={(e) => change('kind', e.target.value)}
      >
        <option value="">Every exception</option>
        {EXCEPTIONS.map((kind) => (
          <option key={kind} value={kind}>
            {WORDS[kind]}
          </option>
        ))}
      </select>
      <select
        aria-label="Depot"
        className="box-select w-44"
        value={params.get('depot') ?? ''}
        onChange={(e) => change('depot', e.target.value)}
      >
        <option value="">Every depot</option>
        {(data?.depots ?? []).map((d) => (
          <option key={d.id} value={d.id}>
            {d.name}
          </option>
        ))}
      </select>
      {(['from', 'to'] as const).map((key) => (
        <DateField
          key={key}
          label={key === 'from' ? 'From' : 'To'}
          value={params.get(key) ?? ''}
          // What is no day yet stays in the field until it is one.
          onChange={(day) => (day === '' || parseLocalDate(day) !== null) && change(key, day)}
          className="w-40"
        />
      ))}
      <a className="quiet link-ink pb-1" href={`/api/order-exceptions.csv${search ? `?${search}` : ''}`} download>
        all of them as CSV
      </a>
    </div>
  );
}

export function ExceptionsRoom() {
  const { zone } = useReader();
  const pages = usePages();
  const [params, setParams] = useSearchParams();
  const { data: session } = server.useReadSessionQuery();
  const { after } = pages;
  const query = ordersApi.useListExceptionsQuery({ query: { ...filterOf(params), ...(after && { after }) } });
  const changed = (key: string, value: string): URLSearchParams => {
    const next = new URLSearchParams(params);
    if (value) next.set(key, value);
    else next.delete(key);
    return next;
  };
  const set = (next: URLSearchParams): void => {
    pages.begin();
    setParams(next);
  };
  const who = query.data?.items.find((e) => String(e.who?.id) === params.get('who'))?.who;
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <header className="flex items-baseline gap-4 pb-2">
        <h1>Exceptions</h1>
        <p className="quiet">What was decided about orders although something spoke against it.</p>
        <Link className="link-ink ml-auto" to="/orders">
          Orders
        </Link>
      </header>
      <Filters params={params} change={(key, value) => set(changed(key, value))} />
      {params.get('who') && (
        <p className="pb-2">
          Only what {who?.name ?? 'this person'} decided.{' '}
          <button className="link-ink" onClick={() => set(changed('who', ''))}>
            Everybody’s
          </button>
        </p>
      )}
      <Waiting query={query}>
        {({ items, next }) =>
          items.length === 0 ? (
            <p className="quiet border-y border-hairline py-4">
              {params.size === 0 ? 'Nothing was decided against anything yet.' : 'None answers the filter.'}{' '}
              {params.size > 0 && (
                <button className="link-ink" onClick={() => set(new URLSearchParams())}>
                  Lift the filter
                </button>
              )}
            </p>
          ) : (
            <>
              <Table
                name="exceptions"
                caption="Exceptions"
                rows={items}
                columns={columnsOf(
                  session?.now ?? instant(0),
                  zone,
                  (id) => `?${changed('who', String(id)).toString()}`,
                )}
                idOf={(e) => e.id}
              />
              <Pager pages={pages} next={next} words={['Newer', 'Older']} />
            </>
          )
        }
      </Waiting>
    </div>
  );
}
