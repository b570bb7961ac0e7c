// Margins: what agreements, customers, classes or machines earned and cost in a period, those that lose most first.
import { Link, useNavigate, useSearchParams } from 'react-router';
import { MARGINS_BY, type MarginList, type MarginsBy } from '#api/margins.ts';
import { sayAmountOf } from '#core/money.ts';
import { addDays, addMonths, localDateAt, type LocalDate } from '#core/time/index.ts';
import { PeriodField } from '../parts/period-field.tsx';
import { Pager, usePages } from '../parts/pager.tsx';
import { Table, type Column } from '../parts/table/index.ts';
import { plural } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { settleApi } from './endpoints.ts';
import { SettleParts } from './sections.tsx';

type Row = MarginList['items'][number];

const money = (id: 'earned' | 'charged' | 'cost' | 'margin' | 'before', head: string): Column<Row> => ({
  ...{ id, head, isNumber: true },
  value: (row) => row[id],
  show: (row) => sayAmountOf(row[id], row.currency),
});

/** Where it goes: of the margin now and in as many days before. */
const TREND: Column<Row> = {
  ...{ id: 'trend', head: 'Trend' },
  value: (row) => row.margin - row.before,
  show: ({ margin, before }) => (margin === before ? 'as before' : margin > before ? '▲ better' : '▼ worse'),
};

const HEADS: Readonly<Record<MarginsBy, string>> = {
  agreement: 'Agreement',
  customer: 'Customer',
  class: 'Class',
  machine: 'Machine',
};

/** Where one is looked at by itself; null: nowhere. */
function placeOf(by: MarginsBy, { id }: Row): string | null {
  if (id === 0) return null;
  return {
    agreement: `/settle/margins/${id}`,
    customer: `/register?customer=${id}`,
    class: null,
    machine: `/assets/${id}`,
  }[by];
}

function Name({ by, row }: { by: MarginsBy; row: Row }) {
  const place = placeOf(by, row);
  return place === null ? (
    row.name
  ) : (
    <Link className="link-ink" to={place}>
      {row.name}
    </Link>
  );
}

const columnsOf = (by: MarginsBy): Column<Row>[] => [
  { id: 'name', head: HEADS[by], value: (row) => row.name, show: (row) => <Name by={by} row={row} /> },
  ...(by === 'agreement' || by === 'machine'
    ? [{ id: 'customer', head: 'Customer', value: (row: Row) => row.customer?.name ?? '' }]
    : []),
  money('earned', 'Earned'),
  money('charged', 'Charged beside it'),
  money('cost', 'Cost'),
  money('margin', 'Margin'),
  {
    ...{ id: 'percent', head: '%', isNumber: true },
    value: (row) => (row.earned === 0 ? null : row.margin / row.earned),
    show: (row) => (row.earned === 0 ? '' : `${Math.round((row.margin / row.earned) * 100)} %`),
  },
  money('before', 'Before'),
  TREND,
];

function Summary({ sums, notApproved }: Pick<MarginList, 'sums' | 'notApproved'>) {
  return (
    <>
      {sums.map((s) => (
        <p key={s.currency}>
          <strong className="font-serif text-2xl font-semibold">
            {s.currency} {sayAmountOf(s.margin, s.currency)}
          </strong>{' '}
          of {sayAmountOf(s.earned, s.currency)} earned in fees, service credits taken off, is left after{' '}
          {sayAmountOf(s.cost, s.currency)} of cost; {sayAmountOf(s.charged, s.currency)} was charged beside them.
        </p>
      ))}
      {notApproved > 0 && (
        <p className="quiet">
          {plural(notApproved, 'order')} of the period {notApproved === 1 ? 'is' : 'are'} not looked through yet; what{' '}
          {notApproved === 1 ? 'it' : 'they'} took is not counted.
        </p>
      )}
    </>
  );
}

function Margins({ today }: { today: LocalDate }) {
  const navigate = useNavigate();
  const pages = usePages();
  const [params, setParams] = useSearchParams();
  const by = MARGINS_BY.find((known) => known === params.get('by')) ?? 'agreement';
  const from = (params.get('from') ?? addDays(addMonths(today, -12), 1)) as LocalDate;
  const to = (params.get('to') ?? today) as LocalDate;
  const set = (next: { by?: string; from?: string; to?: string }): void => {
    pages.begin();
    setParams({ by, from, to, ...next });
  };
  const { after } = pages;
  const query = settleApi.useListMarginsQuery({ query: { from, to, by, ...(after && { after }) } });
  return (
    <>
      <div className="flex flex-wrap items-end gap-4 py-3">
        <PeriodField from={{ label: 'From', value: from }} to={{ label: 'To', value: to }} onChange={set} />
        <select aria-label="By" className="box-select w-40" value={by} onChange={(e) => set({ by: e.target.value })}>
          {MARGINS_BY.map((one) => (
            <option key={one} value={one}>
              by {one}
            </option>
          ))}
        </select>
      </div>
      <Waiting query={query}>
        {({ items, next, sums, notApproved }) => (
          <>
            <Summary sums={sums} notApproved={notApproved} />
            {items.length === 0 ? (
              <p className="quiet mt-3 border-y border-hairline py-4">Nothing was earned or done in that period.</p>
            ) : (
              <Table
                key={by}
                name={`margins by ${by}`}
                caption="Margins"
                rows={items}
                columns={columnsOf(by)}
                idOf={(row) => `${row.id} ${row.currency}`}
                onOpen={(row) => {
                  const place = placeOf(by, row);
                  if (place !== null) void navigate(place);
                }}
              />
            )}
            <Pager pages={pages} next={next} />
          </>
        )}
      </Waiting>
    </>
  );
}

export function MarginsRoom() {
  const reader = useReader();
  const { data: session } = server.useReadSessionQuery();
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <h1 className="mb-2">Margins</h1>
      <SettleParts />
      {session && <Margins today={localDateAt(reader.zone, session.now)} />}
    </div>
  );
}
