// The upkeep schedules of an agreement.
import { useState } from 'react';
import { Link } from 'react-router';
import type { AgreementPage as Page } from '#api/agreements/index.ts';
import { Table, type Column } from '../parts/table/index.ts';
import { sayDate, sayMinutes } from '../parts/words.ts';
import { agreementsApi } from './endpoints.ts';
import { ScheduleForm } from './schedule-form.tsx';

const SCHEDULES_SHOWN = 12;

type Schedule = Page['schedules'][number];

const COLUMNS: readonly Column<Schedule>[] = [
  {
    id: 'asset',
    head: 'Asset',
    value: (s) => s.tag,
    show: (s) => (
      <Link className="serial link-ink" to={`/assets/${s.assetId}`}>
        {s.tag}
      </Link>
    ),
  },
  { id: 'plan', head: 'Job plan', value: (s) => s.jobPlan },
  {
    id: 'minutes',
    head: 'Duration',
    isNumber: true,
    value: (s) => s.minutes,
    show: (s) => sayMinutes(s.minutes),
    className: (s) => (s.minutes === 0 ? 'font-semibold' : ''),
  },
  {
    id: 'when',
    head: 'When',
    value: (s) => s.sentence,
    show: (s) => (
      <Link className="link-ink" title={s.rule} to={`/schedules/${s.id}`}>
        {s.sentence}
      </Link>
    ),
  },
  { id: 'window', head: 'In time', value: (s) => s.window, className: 'quiet' },
  { id: 'lead', head: 'Raised ahead', value: (s) => s.lead, className: 'quiet' },
  { id: 'next', head: 'Next due', value: (s) => s.next, show: (s) => (s.next ? sayDate(s.next) : 'none in the term') },
];

export function Schedules({
  agreement,
  mayAdd,
  mayRemove,
}: {
  agreement: Page;
  mayAdd: boolean;
  /** Of a draft; what is in force is ended from a visit on. */
  mayRemove: boolean;
}) {
  const [adding, setAdding] = useState(false);
  const [all, setAll] = useState(false);
  const [remove] = agreementsApi.useRemoveScheduleMutation();
  const columns: Column<Schedule>[] = [
    ...COLUMNS,
    ...(mayRemove
      ? [
          {
            id: 'remove',
            head: '',
            drawnHead: <span className="sr-only">Remove</span>,
            show: (s: Schedule) => (
              <button
                className="quiet link-ink"
                onClick={() => void remove({ params: { id: String(agreement.id), schedule: String(s.id) } })}
              >
                remove
              </button>
            ),
          },
        ]
      : []),
  ];
  const shown = all ? agreement.schedules : agreement.schedules.slice(0, SCHEDULES_SHOWN);
  return (
    <section className="mt-4">
      <div className="flex items-baseline gap-4">
        <h2>Upkeep schedules</h2>
        {mayAdd && !adding && agreement.assetsTotal > 0 && (
          <button className="act" onClick={() => setAdding(true)}>
            Add a schedule…
          </button>
        )}
        {agreement.schedules.length > 0 && (
          <Link className="link-ink" to={`/upkeep/year?agreement=${agreement.id}`}>
            The year
          </Link>
        )}
      </div>
      {adding && <ScheduleForm agreement={agreement} onDone={() => setAdding(false)} />}
      {agreement.schedules.length === 0 ? (
        !adding && (
          <p className="quiet mt-1 border-y border-hairline py-2">
            No visits are owed under this agreement
            {agreement.assetsTotal === 0 && mayAdd ? '; add coverage first' : ''}.
          </p>
        )
      ) : (
        <>
          <Table name="schedules" caption="Upkeep schedules" columns={columns} rows={shown} idOf={(s) => s.id} />
          {agreement.schedules.length > SCHEDULES_SHOWN && (
            <button className="quiet link-ink mt-1" onClick={() => setAll(!all)}>
              {all ? 'show fewer' : `all ${agreement.schedules.length} schedules`}
            </button>
          )}
        </>
      )}
    </section>
  );
}
