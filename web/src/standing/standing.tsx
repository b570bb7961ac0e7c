// Standing: were we in time, was upkeep done inside its window; what needs explaining first, and each figure with what stands behind it.
import { Link } from 'react-router';
import type { Answer } from '#api/contract.ts';
import { STANDING_BY, type readStandingTotal, type StandingBy } from '#api/standing.ts';
import { ChooseCustomer, useCustomerChoice } from '../customers/index.ts';
import { plural, sayDate, sayShare } from '../parts/words.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { Table } from '../parts/table/index.ts';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { AskedPeriod, useAsked, UsualPeriods, type Asked, type Period } from './asked.tsx';
import { Course } from './course.tsx';
import { Detail } from './detail.tsx';
import { standingApi } from './endpoints.ts';
import { StandingParts } from './parts.tsx';
import { columnsBy, sayPoints } from './rows.tsx';
import { StatementFile } from './statement.tsx';

type Totals = Answer<typeof readStandingTotal>;

const Before = ({ now, before }: { now: number | null; before: number | null }) =>
  now === null || before === null ? null : (
    <div className="quiet">
      {sayPoints(now, before)} {sayPoints(now, before) === 'as before' ? '' : 'points'}
    </div>
  );

function Total({ total, before }: Totals) {
  return (
    <dl className="mt-4 flex gap-12 border-y border-hairline py-3">
      <div>
        <dd className="figure">{sayShare(total.attainment)}</dd>
        <dt className="quiet">
          {total.attainment === null
            ? 'no promise fell due'
            : `promises met, ${total.met} of ${total.met + total.missed}`}
          <Before now={total.attainment} before={before.attainment} />
        </dt>
      </div>
      <div>
        <dd className={`figure ${total.missed > 0 ? 'text-missed' : ''}`}>{total.missed}</dd>
        <dt className="quiet">
          promises missed
          <div>
            {before.missed} from {sayDate(before.from)} to {sayDate(before.to)}
          </div>
        </dt>
      </div>
      <div>
        <dd className="figure">{sayShare(total.compliance)}</dd>
        <dt className="quiet">
          {total.compliance === null
            ? 'no window ended'
            : `upkeep in window, ${total.inWindow} of ${total.owed} visits`}
          <Before now={total.compliance} before={before.compliance} />
        </dt>
      </div>
    </dl>
  );
}

function Head({ asked, by, customer }: { asked: Asked; by: StandingBy; customer: string }) {
  const chosen = useCustomerChoice(customer);
  return (
    <header className="flex flex-wrap items-end gap-3">
      <h1 className="mr-2">Standing</h1>
      <AskedPeriod asked={asked} />
      <label>
        <span className="quiet block pb-0.5">For each</span>
        <select className="box-select w-36" value={by} onChange={(e) => asked.set({ by: e.target.value })}>
          {STANDING_BY.map((each) => (
            <option key={each} value={each}>
              {each}
            </option>
          ))}
        </select>
      </label>
      {(by === 'agreement' || by === 'asset') && (
        <div className="w-56">
          <ChooseCustomer
            label="Of"
            none="every customer"
            chosen={chosen}
            onChoose={(choice) => asked.set({ customer: choice && String(choice.id) })}
          />
        </div>
      )}
      <div className="flex gap-3">
        <UsualPeriods asked={asked} />
      </div>
    </header>
  );
}

/** What of one customer is told apart. */
const More = ({ id, period }: { id: number; period: Period }) => (
  <p className="flex gap-4">
    {(['agreement', 'asset'] as const).map((by) => (
      <Link
        key={by}
        className="link-ink"
        to={`/standing?${new URLSearchParams({ ...period, by, customer: String(id) }).toString()}`}
      >
        {by === 'agreement' ? 'Each of its agreements' : 'Each of its machines'}
      </Link>
    ))}
  </p>
);

/** Months that were closed and turned out otherwise, where some were found in the period. */
function Found({ period }: { period: Period }) {
  const { data } = standingApi.useReadAdjustmentsQuery({ query: period });
  if (!data || data.items.length === 0) return null;
  return (
    <p className="mt-3">
      <Link className="link-ink" to={`/standing/months?${new URLSearchParams(period).toString()}`}>
        {data.isCut ? 'More than 200 adjustments' : plural(data.items.length, 'adjustment')}
      </Link>{' '}
      of closed months {data.items.length === 1 ? 'was' : 'were'} found in this period and{' '}
      {data.items.length === 1 ? 'is' : 'are'} not counted in it.
    </p>
  );
}

function Page({ asked, period }: { asked: Asked; period: Period }) {
  const reader = useReader();
  const by = STANDING_BY.find((each) => each === asked.param('by')) ?? 'agreement';
  const customer = by === 'agreement' || by === 'asset' ? asked.param('customer') : null;
  const pages = usePages();
  const { after } = pages;
  const ask = { ...period, by, ...(customer !== null && { customer }) };
  const totals = standingApi.useReadStandingTotalQuery({
    query: { ...period, ...(customer !== null && { customer }) },
  });
  const query = standingApi.useReadStandingQuery({ query: { ...ask, ...(after && { after }) } });
  const ids = (query.data?.items ?? []).map((r) => r.id).join(',');
  // What is compared comes a moment later: nobody waits for it to see what is.
  const { currentData: earlier } = standingApi.useReadStandingBeforeQuery(
    { query: { ...period, by, ids } },
    { skip: query.data === undefined },
  );
  return (
    <Waiting query={{ ...query, data: query.error ? undefined : query.data }}>
      {({ items, now, next }) => (
        <>
          {totals.currentData && <Total {...totals.currentData} />}
          <Found period={period} />
          {items.length === 0 ? (
            <p className="py-6">
              Nothing fell due from {sayDate(period.from)} to {sayDate(period.to)}. Choose a longer period.
            </p>
          ) : (
            <>
              <div className="mt-4 grid grid-cols-2 gap-8">
                {customer === null ? (
                  <Course by="all" period={period} />
                ) : (
                  <Course by="customer" id={Number(customer)} period={period} />
                )}
              </div>
              <div className="mt-4">
                <Table
                  name="standing"
                  caption="Standing"
                  columns={columnsBy(by, earlier?.attainment ?? {})}
                  rows={items}
                  idOf={(r) => r.id}
                  csv={`/api/standing.csv?${new URLSearchParams(ask).toString()}`}
                  unfold={{
                    nameOf: (r) => r.detail || r.label,
                    show: (row) => (
                      <>
                        {by === 'customer' && <More id={row.id} period={period} />}
                        <Detail row={row} by={by} period={period} reader={reader.zone} now={now} />
                      </>
                    ),
                  }}
                />
              </div>
            </>
          )}
          <Pager pages={pages} next={next} />
          <StatementFile period={period} />
        </>
      )}
    </Waiting>
  );
}

export function StandingRoom() {
  const asked = useAsked(3);
  if (asked === null) return null;
  const by = STANDING_BY.find((each) => each === asked.param('by')) ?? 'agreement';
  const customer = asked.param('customer') ?? '';
  // Another question begins at its first page.
  const question = JSON.stringify([asked.period, by, customer]);
  return (
    <div className="px-7 pt-5 pb-12">
      <Head asked={asked} by={by} customer={customer} />
      <StandingParts />
      {asked.period && <Page key={question} asked={asked} period={asked.period} />}
    </div>
  );
}
