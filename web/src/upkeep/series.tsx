// A schedule's visits: those done, raised and to come; one of them changed, or it and all later ones, with what lapses told.
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { changeSchedule, changeSeries, type ScheduleSeries, type SeriesVisit } from '#api/schedules.ts';
import { orderNumber } from '#api/shapes.ts';
import { sayAmountOf } from '#core/money.ts';
import { Table, type Column } from '../parts/table/index.ts';
import { sayJoins } from './columns.tsx';
import { plural, sayDate, sayMinutes, sayShortDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { upkeepApi } from './endpoints.ts';
import { ChangeDialog, type Changing } from './series-dialogs.tsx';
import { TermsForm } from './terms-form.tsx';

const STATES: Readonly<Record<SeriesVisit['state'], string>> = {
  'to come': 'to come',
  'left out': 'left out',
  raised: 'raised',
  done: 'done',
  declined: 'declined',
  absorbed: 'done by a larger one',
  'called off': 'called off',
};

const columns = (today: ScheduleSeries['today']): readonly Column<SeriesVisit>[] => [
  {
    id: 'planned',
    head: 'Planned',
    value: (v) => v.planned,
    show: (v) => <span className={v.state === 'left out' ? 'line-through' : ''}>{sayDate(v.planned)}</span>,
    className: 'whitespace-nowrap',
  },
  {
    id: 'rule',
    head: 'The rule says',
    value: (v) => v.nominal,
    show: (v) => (v.part > 1 ? `number ${v.part}` : v.nominal === v.planned ? 'the same day' : sayDate(v.nominal)),
    className: 'quiet whitespace-nowrap',
  },
  {
    id: 'window',
    head: 'In time',
    value: (v) => `${v.windowFrom} – ${v.windowTo}`,
    show: (v) => `${sayShortDate(v.windowFrom, today)} – ${sayShortDate(v.windowTo, today)}`,
    className: 'quiet whitespace-nowrap',
  },
  {
    id: 'raise',
    head: 'Raised from',
    value: (v) => v.raise,
    show: (v) => v.raise && sayShortDate(v.raise, today),
    className: 'quiet whitespace-nowrap',
  },
  {
    id: 'minutes',
    head: 'Duration',
    isNumber: true,
    value: (v) => v.minutes,
    show: (v) => v.minutes !== null && `${sayMinutes(v.minutes)}${(v.crew ?? 1) > 1 ? `, ${v.crew} people` : ''}`,
  },
  {
    id: 'state',
    head: 'State',
    value: (v) => STATES[v.state],
    show: (v) => (
      <>
        {STATES[v.state]}{' '}
        {v.orderId !== null && (
          <Link className="serial link-ink" to={`/orders/${v.orderId}`}>
            {orderNumber(v.orderId)}
          </Link>
        )}
        {v.joins > 0 && <span className="quiet block">{sayJoins(v.joins)}</span>}
        {v.changed && <span className="block font-semibold">{v.changed}</span>}
      </>
    ),
  },
];

/** What can be done with one visit that is still to come. */
function acts(visit: SeriesVisit, change: (what: Changing['kind'], visit: SeriesVisit) => void) {
  const open = visit.state === 'to come';
  const list: (readonly [Changing['kind'], string])[] = [
    ...(open
      ? ([
          ['move', 'move…'],
          ['skip', 'leave out…'],
          ['from here on', 'from here on…'],
        ] as const)
      : []),
    ...(visit.changed !== null && (open || visit.state === 'left out')
      ? ([['revert', 'as the rule says']] as const)
      : []),
  ];
  return (
    <span className="flex gap-3 whitespace-nowrap">
      {list.map(([kind, words]) => (
        <button key={kind} className="quiet link-ink" onClick={() => change(kind, visit)}>
          {words}
        </button>
      ))}
    </span>
  );
}

/** What the schedule is, by which rule, and what was changed from some visit on. */
function Head({ series }: { series: ScheduleSeries }) {
  const price = series.terms.visitPrice;
  return (
    <>
      <h1>
        {series.jobPlan} <span className="serial text-base">{series.asset.tag}</span>
      </h1>
      <p className="mt-1">
        {series.asset.model} of {series.customer},{' '}
        <Link className="link-ink serial" to={`/agreements/${series.agreement.id}?part=upkeep`}>
          {series.agreement.name}
        </Link>{' '}
        ·{' '}
        <Link className="link-ink" to={`/assets/${series.asset.id}`}>
          the machine
        </Link>
      </p>
      <p className="mt-3 text-lg">
        {series.sentence}.
        {typeof price === 'number' &&
          ` Each visit is billed ${series.currency} ${sayAmountOf(price, series.currency)}.`}
      </p>
      {series.turns.length > 0 && (
        <ul className="mt-1">
          {series.turns.map((t) => (
            <li key={`${t.from} ${t.text}`}>
              From {sayDate(t.from)} on: {t.text}.
            </li>
          ))}
        </ul>
      )}
      {series.ofLine !== null && (
        <p className="quiet mt-1">
          It follows a coverage line: {plural(series.ofLine, 'machine')} now, and those that come under it later.
        </p>
      )}
      {!series.isSeries && (
        <p className="quiet mt-1">
          Its next visit counts from the day the last one was done; there is no series to change.
        </p>
      )}
    </>
  );
}

function Lapsed({ count }: { count: number }) {
  return (
    <p role="status" className="mt-3 border border-base-content bg-base-100 px-3 py-1.5">
      {plural(count, 'change')} of later visits no longer {count === 1 ? 'applies' : 'apply'}: the new rule gives no
      visit on those dates.
    </p>
  );
}

function Visits({
  series,
  past,
  begin,
}: {
  series: ScheduleSeries;
  past: boolean;
  /** Null where the reader may not change it. */
  begin: ((kind: Changing['kind'], visit: SeriesVisit) => void) | null;
}) {
  const rows = series.visits.filter(
    (v) => past || v.state === 'to come' || v.state === 'left out' || v.state === 'raised',
  );
  if (rows.length === 0)
    return <p className="quiet mt-3 border-y border-hairline py-2">{series.nothing ?? 'No visit is to come.'}</p>;
  const shown: Column<SeriesVisit>[] = [...columns(series.today)];
  if (begin)
    shown.push({
      id: 'acts',
      head: '',
      drawnHead: <span className="sr-only">Change it</span>,
      show: (v) => acts(v, begin),
    });
  return (
    <Table
      name="series"
      caption="Visits of the schedule"
      columns={shown}
      rows={rows}
      idOf={(v) => `${v.nominal}/${v.part}/${v.state}`}
    />
  );
}

function Series({
  series,
  lapsed,
  setLapsed,
}: {
  series: ScheduleSeries;
  lapsed: number;
  setLapsed: (n: number) => void;
}) {
  const reader = useReader();
  const [past, setPast] = useState(false);
  const [changing, setChanging] = useState<Changing | null>(null);
  const [terms, setTerms] = useState(false);
  const may = reader.may(changeSeries) && series.isSeries;
  return (
    <>
      <Head series={series} />
      {lapsed > 0 && <Lapsed count={lapsed} />}
      <div className="mt-3 flex gap-2">
        {may && (
          <button className="act" onClick={() => setChanging({ kind: 'add', visit: null })}>
            Add a visit…
          </button>
        )}
        {reader.may(changeSchedule) && !terms && (
          <button className="act" onClick={() => setTerms(true)}>
            Change the terms…
          </button>
        )}
        <button className="act" aria-pressed={past} onClick={() => setPast(!past)}>
          {past ? 'Hide what is done' : 'Show what is done'}
        </button>
      </div>
      {terms && <TermsForm series={series} onDone={() => setTerms(false)} />}
      <Visits series={series} past={past} begin={may ? (kind, visit) => setChanging({ kind, visit }) : null} />
      {changing && (
        <ChangeDialog
          series={series}
          changing={changing}
          onClose={() => setChanging(null)}
          onDone={(dates) => {
            setLapsed(dates.length);
            setChanging(null);
          }}
        />
      )}
    </>
  );
}

export function SeriesPage() {
  const { id = '' } = useParams();
  return <SeriesOf id={id} />;
}

export function SeriesOf({ id }: { id: string }) {
  const query = upkeepApi.useReadSeriesQuery({ params: { id } });
  // Told until the next change, over the reading anew.
  const [lapsed, setLapsed] = useState(0);
  return (
    <div className="px-7 pt-5 pb-12">
      <Waiting query={query}>{(series) => <Series series={series} lapsed={lapsed} setLapsed={setLapsed} />}</Waiting>
    </div>
  );
}
