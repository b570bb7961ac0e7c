// What customers owe, by age, those with most overdue first; one customer's open items; and reminders.
import { useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { sendReminders, typePayment, type Debtor, type OpenItemOut, type OpenItemsPage } from '#api/payments.ts';
import { sayAmountOf } from '#core/money.ts';
import { AGES } from '#core/settle/index.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { Table, type Column } from '../parts/table/index.ts';
import { plural, sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { settleApi } from './endpoints.ts';
import { TypeDialog } from './payments.tsx';
import { RemindDialog } from './remind.tsx';
import { SettleParts } from './sections.tsx';

const amount = (minor: number, currency: string): string => (minor === 0 ? '' : sayAmountOf(minor, currency));

const COLUMNS: Column<Debtor>[] = [
  {
    id: 'customer',
    head: 'Customer',
    value: (row) => row.customer.name,
    show: (row) => (
      <Link className="link-ink" to={`/settle/open/${row.customer.id}`}>
        {row.customer.name}
      </Link>
    ),
  },
  ...AGES.map((age, i): Column<Debtor> => ({
    id: `age${i}`,
    head: age === 'not due' ? 'Not due' : age,
    isNumber: true,
    value: (row) => row.ages[i] ?? 0,
    show: (row) => amount(row.ages[i] ?? 0, row.currency),
  })),
  {
    id: 'free',
    head: 'In their favour',
    isNumber: true,
    value: (row) => row.free,
    show: (row) => amount(row.free, row.currency),
  },
  {
    id: 'total',
    head: 'Together',
    isNumber: true,
    value: (row) => row.total,
    show: (row) => `${row.currency} ${sayAmountOf(row.total, row.currency)}`,
  },
  {
    id: 'reminded',
    head: 'Reminded',
    value: (row) => row.level,
    show: (row) => (row.level === 0 ? '' : `level ${row.level}`),
  },
  {
    id: 'over',
    head: 'Over terms since',
    value: (row) => row.overSince,
    show: (row) => (row.overSince ? sayDate(row.overSince) : ''),
    className: 'whitespace-nowrap',
  },
];

type Sums = readonly { currency: string; ages: readonly number[]; free: number; total: number }[];

/** All of it at a glance: how much, and how much of it is late. */
function Summary({ sums, waiting }: { sums: Sums; waiting: number }) {
  return (
    <div className="flex flex-wrap items-baseline gap-x-8 gap-y-1 py-3">
      {sums.map(({ currency, ages, free, total }) => (
        <p key={currency}>
          <strong className="font-serif text-2xl font-semibold">
            {currency} {sayAmountOf(total, currency)}
          </strong>{' '}
          open,{' '}
          {sayAmountOf(
            ages.slice(1).reduce((sum, n) => sum + n, 0),
            currency,
          )}{' '}
          of it past due
          {free !== 0 && `, ${sayAmountOf(-free, currency)} in customers’ favour taken off`}.
        </p>
      ))}
      {waiting > 0 && (
        <Link className="link-ink" to="/settle/payments?state=open">
          {plural(waiting, 'payment')} {waiting === 1 ? 'waits' : 'wait'} to be allocated
        </Link>
      )}
    </div>
  );
}

export function DebtorsRoom() {
  const navigate = useNavigate();
  const reader = useReader();
  const pages = usePages();
  const [params, setParams] = useSearchParams();
  const [isReminding, setReminding] = useState(false);
  const overdue = params.get('overdue') === 'yes';
  const { after } = pages;
  const query = settleApi.useListDebtorsQuery({
    query: { ...(overdue && { overdue: 'yes' as const }), ...(after && { after }) },
  });
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <h1 className="mb-2">Open items</h1>
      <SettleParts />
      <Waiting query={query}>
        {({ items, next, sums, waiting }) => (
          <>
            <Summary sums={sums} waiting={waiting} />
            <div className="flex items-center gap-4 pb-3">
              <label className="flex items-center gap-2">
                <input
                  type="checkbox"
                  className="box-tick"
                  checked={overdue}
                  onChange={(e) => {
                    pages.begin();
                    setParams(e.target.checked ? { overdue: 'yes' } : {});
                  }}
                />
                only with something past due
              </label>
              {reader.may(sendReminders) && (
                <button className="act" onClick={() => setReminding(true)}>
                  Remind…
                </button>
              )}
            </div>
            {items.length === 0 ? (
              <p className="quiet border-y border-hairline py-4">
                {overdue ? 'Nothing is past due.' : 'Nothing is open: everything that was billed is paid.'}
              </p>
            ) : (
              <>
                <Table
                  name="open items"
                  caption="Open items"
                  rows={items}
                  columns={COLUMNS}
                  idOf={(row) => `${row.customer.id} ${row.currency}`}
                  onOpen={(row) => void navigate(`/settle/open/${row.customer.id}`)}
                />
                <Pager pages={pages} next={next} />
              </>
            )}
          </>
        )}
      </Waiting>
      {isReminding && <RemindDialog customerIds={[]} onClose={() => setReminding(false)} />}
    </div>
  );
}

const ITEM_COLUMNS: Column<OpenItemOut>[] = [
  {
    id: 'number',
    head: 'Number',
    width: 112,
    value: (row) => row.number,
    show: (row) => (
      <Link className="serial link-ink" to={`/settle/documents/${row.id}`}>
        {row.number}
      </Link>
    ),
  },
  { id: 'about', head: 'About', value: (row) => (row.kind === 'invoice' ? row.about : `credit: ${row.about}`) },
  { id: 'issued', head: 'Issued', value: (row) => row.issuedOn, show: (row) => sayDate(row.issuedOn) },
  {
    id: 'due',
    head: 'Due',
    value: (row) => row.dueOn,
    show: (row) => (row.kind === 'invoice' ? sayDate(row.dueOn) : ''),
  },
  { id: 'age', head: 'Past due', value: (row) => row.age, show: (row) => (row.unpaid > 0 ? row.age : '') },
  {
    id: 'reminded',
    head: 'Reminded',
    value: (row) => row.level,
    show: (row) => (row.remindedOn ? `level ${row.level}, ${sayDate(row.remindedOn)}` : ''),
  },
  {
    id: 'with',
    head: 'Was',
    isNumber: true,
    value: (row) => row.withTax,
    show: (row) => sayAmountOf(row.unpaid < 0 ? -row.withTax : row.withTax, row.currency),
  },
  {
    id: 'unpaid',
    head: 'Open',
    isNumber: true,
    value: (row) => row.unpaid,
    show: (row) => `${row.currency} ${sayAmountOf(row.unpaid, row.currency)}`,
  },
];

function sayTerms({ overSince, follows, creditLimit, creditCurrency }: OpenItemsPage): string {
  const limit =
    creditLimit === null
      ? 'no credit limit'
      : `a limit of ${creditCurrency} ${sayAmountOf(creditLimit, creditCurrency)}`;
  const state = overSince === null ? 'Within their terms' : `✕ Over their credit terms since ${sayDate(overSince)}`;
  return `${state}, ${limit}${follows ? '.' : '; marked by hand.'}`;
}

function DebtorPage({ page }: { page: OpenItemsPage }) {
  const navigate = useNavigate();
  const reader = useReader();
  const [asking, setAsking] = useState<'type' | 'remind' | null>(null);
  const close = (): void => setAsking(null);
  return (
    <article aria-label={page.customer.name}>
      <h1 className="mt-3">{page.customer.name}</h1>
      <p className="quiet">
        {sayTerms(page)}{' '}
        <Link className="link-ink" to={`/register?customer=${page.customer.id}`}>
          The customer
        </Link>
      </p>
      <div className="flex gap-2 py-3">
        {reader.may(typePayment) && (
          <button className="act" onClick={() => setAsking('type')}>
            Type a payment…
          </button>
        )}
        {reader.may(sendReminders) && (
          <button className="act" onClick={() => setAsking('remind')}>
            Remind…
          </button>
        )}
      </div>
      {page.items.length === 0 ? (
        <p className="quiet border-y border-hairline py-4">Nothing of theirs is open.</p>
      ) : (
        <Table
          name="open items of a customer"
          caption="Open items"
          rows={page.items}
          columns={ITEM_COLUMNS}
          idOf={(row) => row.id}
          onOpen={(row) => void navigate(`/settle/documents/${row.id}`)}
        />
      )}
      {page.more > 0 && <p className="quiet">{page.more} younger ones are not shown.</p>}
      {page.payments.length > 0 && (
        <>
          <h2 className="mt-5">Payments with something left</h2>
          <ul>
            {page.payments.map((p) => (
              <li key={p.id} className="border-t border-hairline py-1.5">
                <Link className="link-ink" to={`/settle/payments/${p.id}`}>
                  {p.currency} {sayAmountOf(p.left, p.currency)}
                </Link>{' '}
                of {sayAmountOf(p.minor, p.currency)}, {sayDate(p.bookedOn)}
                {p.text && <span className="quiet"> “{p.text}”</span>}
              </li>
            ))}
          </ul>
        </>
      )}
      {asking === 'type' && <TypeDialog of={page.customer} onClose={close} />}
      {asking === 'remind' && <RemindDialog customerIds={[page.customer.id]} onClose={close} />}
    </article>
  );
}

export function DebtorRoom() {
  const { id = '' } = useParams();
  const query = settleApi.useReadOpenItemsQuery({ params: { id } });
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <SettleParts />
      <Waiting query={query}>{(page) => <DebtorPage key={page.customer.id} page={page} />}</Waiting>
    </div>
  );
}
