// Everybody's hours of a month, and what they cost.
import { Link, useNavigate, useParams } from 'react-router';
import { sum } from 'd3-array';
import type { HoursOfMonth } from '#api/labour-month.ts';
import { addMonths, localDateAt, parseLocalDate, SHORT_MONTHS, type LocalDate } from '#core/time/index.ts';
import { Table, type Column } from '../parts/table/index.ts';
import { sayMoney } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { sayClock } from './clock-figures.ts';
import { labourApi } from './endpoints.ts';

type Item = HoursOfMonth['items'][number];
type Minutes = 'work' | 'travel' | 'waiting' | 'normal' | 'outside' | 'night' | 'holiday';

const minutes = (id: Minutes, head: string, className = ''): Column<Item> => ({
  ...{ id, head, isNumber: true, className },
  value: (i) => i[id],
  show: (i) => sayClock(i[id]),
});

const columnsOf = ({ month, currency }: HoursOfMonth): readonly Column<Item>[] => [
  {
    id: 'person',
    head: 'Who',
    value: (i) => i.person.name,
    show: (i) => (
      <>
        <Link className="link-ink" to={`/hours/${i.person.id}/${month}-01`}>
          {i.person.name}
        </Link>
        {i.craft && <span className="quiet">, {i.craft}</span>}
      </>
    ),
  },
  minutes('work', 'Work'),
  minutes('travel', 'Travel'),
  minutes('waiting', 'Waiting'),
  {
    id: 'all',
    head: 'In all',
    isNumber: true,
    value: (i) => i.work + i.travel + i.waiting,
    show: (i) => sayClock(i.work + i.travel + i.waiting),
  },
  minutes('outside', 'outside hours', 'quiet'),
  minutes('night', 'at night', 'quiet'),
  minutes('holiday', 'Sundays, holidays', 'quiet'),
  {
    id: 'cost',
    head: `Cost, ${currency}`,
    isNumber: true,
    value: (i) => i.cost / 100,
    show: (i) => (
      <>
        {sayMoney(i.cost, currency)}
        {i.withoutRate && <span className="quiet block">some without a rate</span>}
      </>
    ),
  },
];

export function MonthRoom() {
  const reader = useReader();
  const navigate = useNavigate();
  const params = useParams();
  const { data: session } = server.useReadSessionQuery();
  const thisMonth = localDateAt(reader.zone, session?.now ?? (0 as never)).slice(0, 7);
  const month = parseLocalDate(`${params.month ?? ''}-01`) === null ? thisMonth : (params.month as string);
  const query = labourApi.useReadMonthQuery({ query: { month } });
  const go = (months: number): void =>
    void navigate(`/hours/month/${addMonths(`${month}-01` as LocalDate, months).slice(0, 7)}`);
  return (
    <main className="px-7 pt-5 pb-12">
      <header className="flex flex-wrap items-baseline gap-x-4">
        <h1>
          Hours of {SHORT_MONTHS[Number(month.slice(5)) - 1]} {month.slice(0, 4)}
        </h1>
        <span className="flex gap-3">
          <button className="link-ink" onClick={() => go(-1)}>
            the month before
          </button>
          <button className="link-ink" onClick={() => go(1)}>
            the next
          </button>
          <Link className="link-ink" to="/hours">
            weeks
          </Link>
        </span>
      </header>
      <Waiting query={query}>
        {(found) =>
          found.items.length === 0 ? (
            <p className="quiet mt-4 border-y border-hairline py-2">Nobody has entered time in this month.</p>
          ) : (
            <>
              <p className="mt-1">
                {sayClock(sum(found.items, (i) => i.work + i.travel + i.waiting))} hours
                {found.card === null
                  ? '; no rate card is the standard one yet, so they have no cost'
                  : ` at ${sayMoney(
                      sum(found.items, (i) => i.cost),
                      found.currency,
                    )} by ${found.card}`}
                .
              </p>
              <Table
                name="hours-of-month"
                caption={`Everybody’s hours of ${month}`}
                rows={found.items}
                idOf={(i) => i.person.id}
                columns={columnsOf(found)}
              />
            </>
          )
        }
      </Waiting>
    </main>
  );
}
