// The upkeep run: choose a date, look through the visits, hold back the odd ones, raise the rest; and every schedule that yields nothing, with the reason.
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { commitRun, holdVisits } from '#api/upkeep.ts';
import type { Proposal, UpkeepRun, YieldlessSchedule } from '#api/upkeep.ts';
import { addDays, localDateAt, parseLocalDate, type LocalDate } from '#core/time/index.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { DateField } from '../parts/date-field.tsx';
import { Table, useTicks, type Column } from '../parts/table/index.ts';
import { Reminders } from '../parts/verdict.tsx';
import { plural, sayDate, sayMinutes, sayShortDate } from '../parts/words.ts';
import { WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { upkeepApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';

type Key = string;
const keyOf = (p: Proposal): Key => `${p.scheduleId}/${p.nominal}`;
const visitOf = (p: Proposal) => ({ scheduleId: p.scheduleId, nominal: p.nominal });

function HoldDialog({ chosen, to, onClose }: { chosen: Proposal[]; to: LocalDate; onClose: () => void }) {
  const [hold] = upkeepApi.useHoldVisitsMutation();
  const form = useWireForm(holdVisits, { visits: chosen.map(visitOf), to, reason: '' });
  return (
    <Dialog title="Hold back" onClose={onClose}>
      <WireForm
        form={form}
        name="Hold back"
        save={<>Hold {plural(chosen.length, 'visit')}</>}
        send={(body) => hold({ body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Hold back {plural(chosen.length, 'visit')}</h1>
        <p>They stay in the list, marked, until somebody lets them go on.</p>
        <WireText name="reason" label="Why" autoFocus />
      </WireForm>
    </Dialog>
  );
}

/** What will happen, before it happens. */
function RaiseDialog({
  run,
  only,
  onClose,
  onDone,
}: {
  run: UpkeepRun;
  only: Proposal[] | null;
  onClose: () => void;
  onDone: (text: string) => void;
}) {
  const [commit, { isLoading }] = upkeepApi.useCommitRunMutation();
  const { errors, submit } = useSubmit([]);
  const chosen = only?.filter((p) => p.state === 'proposed') ?? run.proposals.filter((p) => p.state === 'proposed');
  const count = only ? chosen.length : run.counts.proposed;
  const late = chosen.filter((p) => p.remark?.includes('over')).length;
  const beyond = only ? chosen.filter((p) => p.beyond !== null).length : run.counts.beyond;
  const send = async (): Promise<void> => {
    const done = await submit(commit({ body: { to: run.to, only: only ? chosen.map(visitOf) : null } }));
    if (!done) return;
    onDone(
      `${plural(done.raised, 'visit')} raised as work orders${done.alreadyRaised > 0 ? `; ${done.alreadyRaised} had been raised already` : ''}${done.held > 0 ? `; ${done.held} held back` : ''}.`,
    );
    onClose();
  };
  return (
    <Dialog title="Raise visits" onClose={onClose}>
      <h1>Raise {plural(count, 'visit')}</h1>
      <ul className="mt-3 list-disc pl-5">
        <li>
          {plural(count, 'preventive work order')} for {plural(new Set(chosen.map((p) => p.assetId)).size, 'asset')} of{' '}
          {plural(new Set(chosen.map((p) => p.customer)).size, 'customer')}
          {run.proposals.length < run.counts.proposed && !only ? ' and more below the list' : ''}
        </li>
        {chosen.length > 0 && (
          <li>
            due from {sayDate(chosen[0]?.due as LocalDate)} to {sayDate(chosen[chosen.length - 1]?.due as LocalDate)}
          </li>
        )}
        {late > 0 && <li>{late} of them after their window is over</li>}
        {beyond > 0 && (
          <li>
            <strong className="font-semibold">{beyond} of them beyond the counted right: chargeable</strong>
          </li>
        )}
        {run.counts.held > 0 && <li>{plural(run.counts.held, 'visit')} held back, not raised</li>}
        {run.counts.needsCare > 0 && <li>{plural(run.counts.needsCare, 'schedule')} yield nothing and need care</li>}
      </ul>
      <Reminders texts={[...new Set(chosen.flatMap((p) => (p.reminder ? [`${p.agreement}: ${p.reminder}`] : [])))]} />
      <GeneralError errors={errors} />
      <div className="mt-4 flex gap-2">
        <button className="act-main" disabled={isLoading || count === 0} onClick={() => void send()}>
          {isLoading ? 'Raising…' : `Raise ${plural(count, 'visit')}`}
        </button>
        <button className="act" onClick={onClose}>
          Cancel
        </button>
      </div>
    </Dialog>
  );
}

const proposalColumns = (day: (d: LocalDate) => string): Column<Proposal>[] => [
  {
    id: 'due',
    head: 'Due',
    value: (p) => p.due,
    show: (p) => (
      <>
        {sayDate(p.due)}
        {p.due !== p.nominal && <span className="quiet block">moved from {day(p.nominal)}</span>}
      </>
    ),
    className: 'whitespace-nowrap',
  },
  {
    id: 'window',
    head: 'In time',
    value: (p) => `${p.windowFrom} – ${p.windowTo}`,
    show: (p) => `${day(p.windowFrom)} – ${day(p.windowTo)}`,
    className: 'quiet whitespace-nowrap',
  },
  {
    id: 'raise',
    head: 'Raise from',
    value: (p) => p.raise,
    show: (p) => day(p.raise),
    className: 'quiet whitespace-nowrap',
  },
  {
    id: 'asset',
    head: 'Asset',
    value: (p) => p.tag,
    show: (p) => (
      <>
        <Link className="serial link-ink" to={`/assets/${p.assetId}`}>
          {p.tag}
        </Link>
        <span className="quiet block">{p.model}</span>
      </>
    ),
    className: 'whitespace-nowrap',
  },
  {
    id: 'customer',
    head: 'Customer and place',
    value: (p) => `${p.customer}, ${p.place}`,
    show: (p) => (
      <>
        {p.customer}
        <span className="quiet block">{p.place}</span>
      </>
    ),
  },
  {
    id: 'work',
    head: 'Work',
    value: (p) => `${p.jobPlan} ${p.agreement}`,
    show: (p) => (
      <span title={p.rule}>
        {p.jobPlan}
        <span className="quiet block">
          <Link className="serial hover:underline" to={`/agreements/${p.agreementId}`}>
            {p.agreement}
          </Link>
        </span>
      </span>
    ),
  },
  {
    id: 'minutes',
    head: 'Duration',
    isNumber: true,
    value: (p) => p.minutes,
    show: (p) => sayMinutes(p.minutes),
    className: 'whitespace-nowrap',
  },
  {
    id: 'remark',
    head: 'Remark',
    value: (p) =>
      [p.beyond, p.state === 'held' ? `held: ${p.holdReason}` : p.remark].filter(Boolean).join('; ') || null,
    show: (p) => (
      <>
        {p.beyond && <span className="block font-semibold">{p.beyond}</span>}
        {p.state === 'held' ? (
          <span className="font-semibold">held: {p.holdReason}</span>
        ) : (
          p.remark && (
            <span className={p.remark.includes('over') ? 'text-missed' : 'quiet'}>
              {p.remark.includes('over') ? '✕ ' : ''}
              {p.remark}
            </span>
          )
        )}
      </>
    ),
  },
];

const NOTHING_COLUMNS: readonly Column<UpkeepRun['nothing'][number]>[] = [
  {
    id: 'asset',
    head: 'Asset',
    value: (n) => n.tag,
    show: (n) => (
      <>
        <Link className="serial link-ink" to={`/assets/${n.assetId}`}>
          {n.tag}
        </Link>{' '}
        {n.model}
      </>
    ),
  },
  { id: 'customer', head: 'Customer', value: (n) => n.customer },
  {
    id: 'work',
    head: 'Work',
    value: (n) => `${n.jobPlan} ${n.agreement}`,
    show: (n) => (
      <>
        {n.jobPlan}{' '}
        <Link className="serial link-ink" to={`/agreements/${n.agreementId}`}>
          {n.agreement}
        </Link>
      </>
    ),
  },
  { id: 'why', head: 'Why', value: (n) => n.reason },
];

function Nothing({ rows, title, empty }: { rows: YieldlessSchedule[]; title: string; empty: string }) {
  return (
    <section className="mt-7">
      {rows.length === 0 ? (
        <>
          <h2 className="pb-1">{title}</h2>
          <p className="quiet border-y border-hairline py-2">{empty}</p>
        </>
      ) : (
        <Table
          name="upkeep-nothing"
          caption={title}
          title={<h2>{title}</h2>}
          columns={NOTHING_COLUMNS}
          rows={rows}
          idOf={(n) => n.scheduleId}
        />
      )}
    </section>
  );
}

function RunView({ run, say, said }: { run: UpkeepRun; say: (text: string | null) => void; said: string | null }) {
  const reader = useReader();
  const ticks = useTicks<Key>();
  const { ticked } = ticks;
  const [floating, setFloating] = useState<'hold' | 'raise' | null>(null);
  const [showWaiting, setShowWaiting] = useState(false);
  const [release] = upkeepApi.useReleaseVisitsMutation();
  const { counts } = run;
  const chosen = run.proposals.filter((p) => ticked.has(keyOf(p)));
  const held = chosen.filter((p) => p.state === 'held');
  const may = reader.may(commitRun);
  const toRaise = chosen.length > 0 ? chosen.filter((p) => p.state === 'proposed').length : counts.proposed;
  return (
    <>
      <p className="mt-2">
        {plural(counts.schedules, 'schedule')} looked at:{' '}
        <strong className="font-semibold">{plural(counts.proposed, 'visit')} to raise</strong>, {counts.held} held back,{' '}
        <span className={counts.needsCare > 0 ? 'font-semibold' : ''}>
          {counts.needsCare} that yield nothing and need care
        </span>
        , {counts.waits} with nothing due now.
      </p>
      {said && (
        <p role="status" className="mt-2 border border-base-content bg-base-100 px-3 py-1.5">
          {said}{' '}
          <Link className="link-ink" to="/orders?kind=preventive">
            Look at the orders
          </Link>
        </p>
      )}
      {may && (
        <div className="sticky top-0 z-10 mt-3 flex items-center gap-2 bg-base-200 py-2">
          <button className="act-main" disabled={toRaise === 0} onClick={() => setFloating('raise')}>
            {chosen.length > 0 ? `Raise ${plural(toRaise, 'ticked visit')}…` : `Raise ${plural(toRaise, 'visit')}…`}
          </button>
          <button className="act" disabled={chosen.length === 0} onClick={() => setFloating('hold')}>
            Hold back…
          </button>
          <button
            className="act"
            disabled={held.length === 0}
            onClick={() => void release({ body: { visits: held.map(visitOf) } }).then(() => ticks.clear())}
          >
            Let go on
          </button>
          <span className="quiet">
            {chosen.length > 0 ? `${chosen.length} ticked` : 'Tick rows to act on some of them only.'}
          </span>
        </div>
      )}
      {run.proposals.length === 0 ? (
        <p className="border-y border-hairline py-4">
          Nothing is to be raised up to {sayDate(run.to)}. Choose a later date to look further ahead.
        </p>
      ) : (
        <div className={may ? 'under-acts' : ''}>
          <Table
            name="upkeep-run"
            caption="Visits to raise"
            columns={proposalColumns((d) => sayShortDate(d, run.today))}
            rows={run.proposals}
            idOf={keyOf}
            ticks={{ of: ticks, idsOf: (p) => [keyOf(p)], nameOf: (p) => `${p.tag} due ${p.due}` }}
            onOpen={(p) => ticks.toggle([keyOf(p)])}
          />
        </div>
      )}
      {run.proposals.length < counts.proposed + counts.held && (
        <p className="quiet pt-1">
          The first {run.proposals.length} of {counts.proposed + counts.held} visits are listed; raising without ticks
          raises all of them.
        </p>
      )}
      <Nothing
        title={`Schedules that yield nothing and need care: ${counts.needsCare}`}
        rows={run.nothing.filter((n) => n.kind === 'needs care')}
        empty="None: every schedule can yield its visits."
      />
      <p className="mt-4">
        <button className="link-ink" onClick={() => setShowWaiting(!showWaiting)}>
          {showWaiting ? 'Hide' : 'Show'} the {counts.waits} with nothing due now
        </button>
      </p>
      {showWaiting && (
        <Nothing title="Nothing due now" rows={run.nothing.filter((n) => n.kind === 'waits')} empty="None." />
      )}
      {floating === 'hold' && (
        <HoldDialog
          chosen={chosen}
          to={run.to}
          onClose={() => {
            setFloating(null);
            ticks.clear();
          }}
        />
      )}
      {floating === 'raise' && (
        <RaiseDialog
          run={run}
          only={chosen.length > 0 ? chosen : null}
          onClose={() => setFloating(null)}
          onDone={(text) => {
            say(text);
            ticks.clear();
          }}
        />
      )}
    </>
  );
}

export function UpkeepRoom() {
  const reader = useReader();
  const [params, setParams] = useSearchParams();
  const { data: session } = server.useReadSessionQuery();
  const today = localDateAt(reader.zone, session?.now ?? (0 as never));
  const [typed, setTyped] = useState<string>(params.get('to') ?? today);
  const to = parseLocalDate(typed);
  const [said, setSaid] = useState<string | null>(null);
  const query = upkeepApi.usePreviewRunQuery({ query: { to: to ?? today } }, { skip: to === null });
  const choose = (value: string): void => {
    setTyped(value);
    setSaid(null);
    if (parseLocalDate(value)) setParams({ to: value }, { replace: true });
  };
  return (
    <div className="px-7 pt-5 pb-12">
      <header className="flex items-end gap-4">
        <h1>Upkeep run</h1>
        <DateField label="Raise everything due to be raised by" value={typed} onChange={choose} className="w-56" />
        <div className="flex gap-2 pb-0.5">
          {(
            [
              ['today', 0],
              ['in 2 weeks', 14],
              ['in 6 weeks', 42],
              ['in 3 months', 91],
            ] as const
          ).map(([name, n]) => (
            <button key={name} className="act" onClick={() => choose(addDays(today, n))}>
              {name}
            </button>
          ))}
        </div>
      </header>
      {to && (
        <Waiting query={{ ...query, data: query.error ? undefined : query.data }}>
          {(run) => <RunView key={run.to} run={run} say={setSaid} said={said} />}
        </Waiting>
      )}
    </div>
  );
}
