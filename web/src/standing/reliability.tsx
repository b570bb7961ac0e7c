// How dependable machines were: mean times by model with how sure they are, and the machines that failed again and again.
import { Link } from 'react-router';
import type { FailingMachine, ModelReliability } from '#api/reliability.ts';
import { Table, type Column } from '../parts/table/index.ts';
import { sayMinutes } from '../parts/words.ts';
import { Waiting } from '../shell/waiting.tsx';
import { AskedPeriod, useAsked } from './asked.tsx';
import { standingApi } from './endpoints.ts';
import { StandingParts } from './parts.tsx';

/** Days as whole numbers, short times with a digit. */
const sayDays = (days: number): string =>
  `${days >= 10 ? Math.round(days).toLocaleString('en-GB') : days.toFixed(1)} d`;

function sayInterval({ lowerDays, upperDays }: ModelReliability): string {
  if (lowerDays === null) return '';
  return upperDays === null ? `more than ${sayDays(lowerDays)}` : `${sayDays(lowerDays)} to ${sayDays(upperDays)}`;
}

const MODELS: readonly Column<ModelReliability>[] = [
  { id: 'model', head: 'Model', value: (m) => m.model },
  { id: 'class', head: 'Class', value: (m) => m.className },
  { id: 'machines', head: 'Machines', isNumber: true, value: (m) => m.machines },
  { id: 'failures', head: 'Failures', isNumber: true, value: (m) => m.failures },
  {
    ...{ id: 'between', head: 'Between failures', isNumber: true },
    value: (m) => m.betweenDays,
    show: (m) => (m.betweenDays === null ? <span className="quiet">none failed</span> : sayDays(m.betweenDays)),
  },
  { id: 'interval', head: 'Nine times in ten', value: sayInterval, className: 'whitespace-nowrap' },
  {
    ...{ id: 'restore', head: 'To restoration', isNumber: true },
    value: (m) => m.restoreMinutes,
    show: (m) => (m.restoreMinutes === null ? '' : sayMinutes(m.restoreMinutes)),
  },
  { id: 'repeats', head: 'Again within 30 days', isNumber: true, value: (m) => m.repeats },
];

const MACHINES: readonly Column<FailingMachine>[] = [
  {
    ...{ id: 'machine', head: 'Machine' },
    value: (m) => `${m.model} ${m.tag}`,
    show: (m) => (
      <>
        {m.model}{' '}
        <Link className="serial link-ink" to={`/assets/${m.assetId}`}>
          {m.tag}
        </Link>
      </>
    ),
  },
  { id: 'customer', head: 'Customer', value: (m) => m.customer },
  { id: 'failures', head: 'Failures', isNumber: true, value: (m) => m.failures },
  { id: 'repeats', head: 'Again within 30 days', isNumber: true, value: (m) => m.repeats },
  {
    ...{ id: 'restore', head: 'To restoration', isNumber: true },
    value: (m) => m.restoreMinutes,
    show: (m) => (m.restoreMinutes === null ? '' : sayMinutes(m.restoreMinutes)),
  },
];

export function ReliabilityRoom() {
  const asked = useAsked(12);
  const period = asked?.period ?? null;
  const query = standingApi.useReadReliabilityQuery(
    { query: period ?? { from: '', to: '' } },
    { skip: period === null },
  );
  return (
    <div className="px-7 pt-5 pb-12">
      <header className="flex flex-wrap items-end gap-3">
        <h1 className="mr-2">Standing</h1>
        {asked && <AskedPeriod asked={asked} />}
      </header>
      <StandingParts />
      <p className="quiet mt-3 max-w-3xl">
        Machines in service now. A failure is a repair of priority 1; the time between them is the time machines ran,
        divided by their failures. Nine times in ten the true time lies where the interval says.
      </p>
      <Waiting query={{ ...query, data: query.error ? undefined : query.data }}>
        {({ models, machines }) => (
          <>
            <Table
              name="reliability"
              caption="By model"
              columns={MODELS}
              rows={models}
              idOf={(m) => `${m.className} ${m.model}`}
            />
            <section className="mt-8">
              {machines.length === 0 ? (
                <p className="quiet">No machine failed more than once in this period.</p>
              ) : (
                <Table
                  name="failing-machines"
                  caption="Machines that failed more than once"
                  title={<h2>Machines that failed more than once</h2>}
                  columns={MACHINES}
                  rows={machines}
                  idOf={(m) => m.assetId}
                />
              )}
            </section>
          </>
        )}
      </Waiting>
    </div>
  );
}
