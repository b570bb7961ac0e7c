// Standing: were we in time, was upkeep done inside its window; each figure unfolds to what stands behind it.
import { Link, useSearchParams } from 'react-router';
import type { Answer } from '#api/contract.ts';
import type { PledgeOut, readStanding, standingDetail, StandingRow } from '#api/standing.ts';
import { sayAmountOf } from '#core/money.ts';
import { orderNumber } from '#api/shapes.ts';
import { marginOf } from '#core/service-levels/index.ts';
import {
  addDays,
  addMonths,
  localDateAt,
  parseLocalDate,
  type Instant,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { sayMargin, TONE } from '../parts/margin-bar.tsx';
import { PeriodField } from '../parts/period-field.tsx';
import { plural, sayDate, sayMinutes, sayShare } from '../parts/words.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { Table, type Column } from '../parts/table/index.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { standingApi } from './endpoints.ts';
import { StandingParts } from './parts.tsx';
import { StatementFile } from './statement.tsx';
import { Waiting } from '../shell/waiting.tsx';

type Period = { readonly from: LocalDate; readonly to: LocalDate };
type By = 'agreement' | 'asset';

/** A share as a short bar with its number: the length says it, the words say it again. */
function ShareBar({ share }: { share: number | null }) {
  if (share === null) return null;
  return (
    <svg width="70" height="8" aria-hidden="true" className="inline-block">
      <rect y="3" width="70" height="2" fill="var(--hairline)" />
      <rect width={70 * share} height="8" fill="currentColor" fillOpacity="0.75" />
    </svg>
  );
}

const percentOf = (hundredths: number): string => `${hundredths / 100} %`;

/** What the service levels pledged and what is owed for it. */
function Pledges({ pledges }: { pledges: PledgeOut[] }) {
  return (
    <section className="col-span-2" aria-label="What was pledged">
      <h2>What was pledged</h2>
      <table className="dense">
        <thead>
          <tr>
            <th>Service level</th>
            <th>Promises met</th>
            <th>Credit owed</th>
            <th>Availability</th>
          </tr>
        </thead>
        <tbody>
          {pledges.map((p) => (
            <tr key={p.serviceLevel}>
              <td>{p.serviceLevel}</td>
              <td>
                {p.attainment === null ? <span className="quiet">no promise fell due</span> : sayShare(p.attainment)}
              </td>
              <td>
                {p.tiers.length === 0 ? (
                  <span className="quiet">no credit agreed</span>
                ) : p.attainment === null ? (
                  'none'
                ) : p.credit === 0 ? (
                  `none: not below ${percentOf(Math.max(...p.tiers.map((t) => t.below)))}`
                ) : (
                  <>
                    <span className="font-semibold">
                      {p.currency} {sayAmountOf(p.amount, p.currency)}
                    </span>{' '}
                    <span className="quiet">
                      {percentOf(p.credit)} of the fee for the period, {sayAmountOf(p.fee, p.currency)}
                      {p.cap !== null && p.credit === p.cap ? ', the cap' : ''}
                    </span>
                  </>
                )}
              </td>
              <td>
                {p.availability === null ? (
                  <span className="quiet">none agreed</span>
                ) : p.availability.share === null ? (
                  <span className="quiet">no service time in this period</span>
                ) : (
                  <>
                    <span className={p.availability.share * 10_000 < p.availability.target ? 'text-missed' : ''}>
                      {p.availability.share * 10_000 < p.availability.target ? '✕ ' : ''}
                      {(p.availability.share * 100).toFixed(2)} %
                    </span>{' '}
                    <span className="quiet">
                      of {percentOf(p.availability.target)} agreed {p.availability.measure};{' '}
                      {sayMinutes(p.availability.downMinutes)} down over {plural(p.availability.machines, 'machine')}
                    </span>
                  </>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

type Answered = Answer<typeof standingDetail>;

function Clocks({
  row,
  clocks,
  reader,
  now,
}: {
  row: StandingRow;
  clocks: Answered['clocks'];
  reader: Zone;
  now: Instant;
}) {
  return (
    <section>
      <h2>
        Clocks, {row.met} met and {row.missed} missed
      </h2>
      {clocks.length === 0 ? (
        <p className="quiet">No promise fell due in this period.</p>
      ) : (
        <table className="dense">
          <tbody>
            {clocks.map((c) => (
              <tr key={`${c.orderId}${c.target}${c.assetId}`}>
                <td>
                  <Link className="serial link-ink" to={`/orders/${c.orderId}`}>
                    {orderNumber(c.orderId)}
                  </Link>
                </td>
                <td className="serial">{c.tag}</td>
                <td>{c.target}</td>
                <td className={TONE[marginOf(c)]}>{sayMargin(c, now, reader)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function Visits({ row, visits }: { row: StandingRow; visits: Answered['visits'] }) {
  return (
    <section>
      <h2>
        Visits, {row.inWindow} of {row.owed} in window
        {row.declined > 0 ? `, ${row.declined} declined by the customer` : ''}
      </h2>
      {visits.length === 0 ? (
        <p className="quiet">No window ended in this period.</p>
      ) : (
        <table className="dense">
          <tbody>
            {visits.map((v) => (
              <tr key={`${v.scheduleId}${v.nominal}`}>
                <td>
                  {v.orderId ? (
                    <Link className="serial link-ink" to={`/orders/${v.orderId}`}>
                      {orderNumber(v.orderId)}
                    </Link>
                  ) : (
                    ''
                  )}
                </td>
                <td>
                  {v.label}, due {sayDate(v.due)}
                </td>
                <td className={v.state === 'in window' || v.state === 'declined' ? '' : 'text-missed'}>
                  {v.state === 'in window' ? '● ' : v.state === 'declined' ? '' : '✕ '}
                  {v.state}
                  {v.completedOn ? `, done ${sayDate(v.completedOn)}` : ''}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function Detail({
  row,
  by,
  period,
  reader,
  now,
}: {
  row: StandingRow;
  by: By;
  period: Period;
  reader: Zone;
  now: Instant;
}) {
  const query = standingApi.useStandingDetailQuery({ query: { ...period, [by]: String(row.id) } });
  return (
    <Waiting query={query}>
      {({ clocks, visits, pledges }) => (
        <div className="grid grid-cols-2 gap-8 py-2 pl-6">
          {pledges.length > 0 && <Pledges pledges={pledges} />}
          <Clocks row={row} clocks={clocks} reader={reader} now={now} />
          <Visits row={row} visits={visits} />
        </div>
      )}
    </Waiting>
  );
}

const columnsBy = (by: By): Column<StandingRow>[] => [
  {
    id: 'what',
    head: by === 'agreement' ? 'Agreement' : 'Asset',
    show: (r) => (
      <>
        <Link className="link-ink" to={by === 'agreement' ? `/agreements/${r.id}` : `/assets/${r.id}`}>
          {r.label}
        </Link>{' '}
        <span className="serial">{r.detail}</span>
      </>
    ),
  },
  { id: 'customer', head: 'Customer', show: (r) => r.customer },
  { id: 'met', head: 'Met', isNumber: true, show: (r) => r.met },
  {
    id: 'missed',
    head: 'Missed',
    isNumber: true,
    show: (r) => (r.missed > 0 ? `✕ ${r.missed}` : 0),
    className: (r) => (r.missed > 0 ? 'text-missed' : ''),
  },
  {
    id: 'attainment',
    head: 'Attainment',
    isNumber: true,
    show: (r) => (r.attainment === null ? <span className="quiet">no promise fell due</span> : sayShare(r.attainment)),
    className: 'whitespace-nowrap',
  },
  {
    id: 'attainment-bar',
    head: '',
    drawnHead: <span className="sr-only">Attainment as a bar</span>,
    width: 80,
    show: (r) => <ShareBar share={r.attainment} />,
  },
  { id: 'owed', head: 'Visits owed', isNumber: true, show: (r) => r.owed },
  { id: 'in-window', head: 'In window', isNumber: true, show: (r) => r.inWindow },
  {
    id: 'upkeep',
    head: 'Upkeep',
    isNumber: true,
    show: (r) => (r.compliance === null ? '' : sayShare(r.compliance)),
  },
  {
    id: 'upkeep-bar',
    head: '',
    drawnHead: <span className="sr-only">Upkeep as a bar</span>,
    width: 80,
    show: (r) => <ShareBar share={r.compliance} />,
  },
];

/** The period and what it is told by. */
function Asked({
  typed,
  by,
  today,
  set,
}: {
  typed: { readonly from: string; readonly to: string };
  by: By;
  today: LocalDate;
  set: (changes: Record<string, string>) => void;
}) {
  const yesterday = addDays(today, -1);
  return (
    <header className="flex flex-wrap items-end gap-3">
      <h1 className="mr-2">Standing</h1>
      <PeriodField
        from={{ label: 'From', value: typed.from }}
        to={{ label: 'To, this day included', value: typed.to }}
        onChange={set}
      />
      <label>
        <span className="quiet block pb-0.5">For each</span>
        <select className="box-select w-36" value={by} onChange={(e) => set({ by: e.target.value })}>
          <option value="agreement">agreement</option>
          <option value="asset">asset</option>
        </select>
      </label>
      <button className="act" onClick={() => set({ from: addMonths(today, -3), to: yesterday })}>
        last 3 months
      </button>
      <button className="act" onClick={() => set({ from: `${today.slice(0, 4)}-01-01`, to: today })}>
        this year
      </button>
      <button className="act" onClick={() => set({ from: addMonths(today, -12), to: yesterday })}>
        last 12 months
      </button>
    </header>
  );
}

function Total({ total }: { total: Answer<typeof readStanding>['total'] }) {
  return (
    <dl className="mt-4 flex gap-12 border-y border-hairline py-3">
      <div>
        <dd className="figure">{sayShare(total.attainment)}</dd>
        <dt className="quiet">
          {total.attainment === null
            ? 'no promise fell due'
            : `promises met, ${total.met} of ${total.met + total.missed}`}
        </dt>
      </div>
      <div>
        <dd className={`figure ${total.missed > 0 ? 'text-missed' : ''}`}>{total.missed}</dd>
        <dt className="quiet">promises missed</dt>
      </div>
      <div>
        <dd className="figure">{sayShare(total.compliance)}</dd>
        <dt className="quiet">
          {total.compliance === null
            ? 'no window ended'
            : `upkeep in window, ${total.inWindow} of ${total.owed} visits`}
        </dt>
      </div>
    </dl>
  );
}

export function StandingRoom() {
  const reader = useReader();
  const [params, setParams] = useSearchParams();
  const { data: session } = server.useReadSessionQuery();
  const today = localDateAt(reader.zone, session?.now ?? (0 as never));
  const quarter = addMonths(today, -3);
  const typed = { from: params.get('from') ?? quarter, to: params.get('to') ?? addDays(today, -1) };
  const period = { from: parseLocalDate(typed.from), to: parseLocalDate(typed.to) };
  const by: By = params.get('by') === 'asset' ? 'asset' : 'agreement';
  const pages = usePages();
  const { after } = pages;
  const readable = period.from !== null && period.to !== null;
  const asked = { from: period.from ?? today, to: period.to ?? today };
  const query = standingApi.useReadStandingQuery(
    { query: { ...asked, by, ...(after && { after }) } },
    { skip: !readable },
  );
  const set = (changes: Record<string, string>): void => {
    pages.begin();
    setParams({ ...typed, by, ...changes }, { replace: true });
  };
  return (
    <div className="px-7 pt-5 pb-12">
      <Asked typed={typed} by={by} today={today} set={set} />
      <StandingParts />
      {readable && (
        <Waiting query={{ ...query, data: query.error ? undefined : query.data }}>
          {({ items, total, now, next }) => (
            <>
              <Total total={total} />
              {items.length === 0 ? (
                <p className="py-6">
                  Nothing fell due from {sayDate(asked.from)} to {sayDate(asked.to)}. Choose a longer period.
                </p>
              ) : (
                <div className="mt-3">
                  <Table
                    name="standing"
                    caption="Standing"
                    columns={columnsBy(by)}
                    rows={items}
                    idOf={(r) => r.id}
                    csv={`/api/standing.csv?${new URLSearchParams({ ...asked, by }).toString()}`}
                    unfold={{
                      nameOf: (r) => r.detail,
                      show: (row) => <Detail row={row} by={by} period={asked} reader={reader.zone} now={now} />,
                    }}
                  />
                </div>
              )}
              <Pager pages={pages} next={next} />
              <StatementFile period={asked} />
            </>
          )}
        </Waiting>
      )}
    </div>
  );
}
