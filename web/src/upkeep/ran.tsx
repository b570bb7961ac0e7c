// Runs that raise: how far one is while it is carried out, what came of it, and the last ones.
import { Link, useParams } from 'react-router';
import type { Ran } from '#api/upkeep.ts';
import { Table, type Column } from '../parts/table/index.ts';
import { plural, sayDate, sayMoment } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { upkeepApi } from './endpoints.ts';

const ASK_EVERY_MS = 1000;

/** "1,200 of 3,400 visits raised". */
export const sayRaised = ({ raised, wanted, state }: Ran): string =>
  state === 'raising'
    ? `Raising: ${raised.toLocaleString('en-GB')} of ${plural(wanted, 'visit')} so far`
    : `${plural(raised, 'visit')} raised as work orders`;

/** A run begun here, or by somebody else: followed until it is done. */
export function Following({ id }: { id: number }) {
  const { data } = upkeepApi.useReadRunQuery({ params: { id: String(id) } });
  upkeepApi.useReadRunQuery(
    { params: { id: String(id) } },
    { pollingInterval: data?.state === 'done' ? 0 : ASK_EVERY_MS },
  );
  if (!data) return null;
  return (
    <div role="status" className="mt-2 border border-base-content bg-base-100 px-3 py-1.5">
      {sayRaised(data)}
      {data.leftCount > 0 && `; ${plural(data.leftCount, 'visit')} left alone`}.{' '}
      {data.state === 'raising' ? (
        <>
          <progress className="mx-2 w-40 align-middle" max={Math.max(data.wanted, 1)} value={data.raised} />
          It goes on when you leave this page.
        </>
      ) : (
        <>
          <Link className="link-ink" to={`/upkeep/runs/${id}`}>
            What came of it
          </Link>{' '}
          ·{' '}
          <Link className="link-ink" to="/orders?kind=preventive">
            Look at the orders
          </Link>
        </>
      )}
    </div>
  );
}

const LEFT: readonly Column<Ran['left'][number]>[] = [
  { id: 'tag', head: 'Asset', value: (l) => l.tag, show: (l) => <span className="serial">{l.tag}</span> },
  { id: 'work', head: 'Work', value: (l) => l.jobPlan },
  { id: 'nominal', head: 'Date of the rule', value: (l) => l.nominal, show: (l) => sayDate(l.nominal) },
  { id: 'why', head: 'Why it was left', value: (l) => l.reason },
];

const useNow = () => server.useReadSessionQuery().data?.now;

/** What came of a run, for the screen and for paper. */
export function RanPage() {
  const { id = '' } = useParams();
  const reader = useReader();
  const now = useNow();
  const query = upkeepApi.useReadRunQuery({ params: { id } });
  return (
    <div className="max-w-6xl px-7 pt-5 pb-12">
      <Waiting query={query}>
        {(run) => (
          <>
            <h1>Upkeep run to {sayDate(run.to)}</h1>
            <p className="mt-1">
              {run.who ?? 'By itself, at night'}, {now && sayMoment(run.at, now, reader.zone)}. Looked at: {run.scope}.
            </p>
            <p className="mt-3 text-lg">
              {sayRaised(run)}
              {run.leftCount > 0 && `; ${plural(run.leftCount, 'visit')} left alone`}.
            </p>
            <p className="mt-3 flex gap-2 print:hidden">
              <button className="act" onClick={() => window.print()}>
                Print
              </button>
              <Link className="act" to="/upkeep">
                Back to the run
              </Link>
            </p>
            {run.left.length > 0 && (
              <div className="mt-5">
                <Table
                  name="run-left"
                  caption="Visits left alone"
                  title={<h2>Visits left alone</h2>}
                  columns={LEFT}
                  rows={run.left}
                  idOf={(l) => `${l.scheduleId}/${l.nominal}`}
                />
                {run.left.length < run.leftCount && (
                  <p className="quiet pt-1">
                    The first {run.left.length} of {run.leftCount} are named.
                  </p>
                )}
              </div>
            )}
          </>
        )}
      </Waiting>
    </div>
  );
}

/** The last runs, newest first. */
export function LastRuns() {
  const reader = useReader();
  const now = useNow();
  const { data } = upkeepApi.useListRunsQuery();
  const runs = data?.items ?? [];
  if (runs.length === 0 || !now) return null;
  return (
    <section className="mt-7">
      <h2 className="pb-1">Last runs</h2>
      <ul className="border-y border-hairline py-1">
        {runs.slice(0, 5).map((run) => (
          <li key={run.id} className="py-0.5">
            <Link className="link-ink" to={`/upkeep/runs/${run.id}`}>
              {sayMoment(run.at, now, reader.zone)}
            </Link>{' '}
            {run.who ?? 'by itself, at night'}: {sayRaised(run)}
            {run.leftCount > 0 && `, ${run.leftCount} left alone`}
            <span className="quiet">
              {' '}
              · to {sayDate(run.to)}, {run.scope}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
