// The upkeep run: choose a date, look through the visits, hold back the odd ones, raise the rest; and every schedule that yields nothing, with the reason.
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { commitRun } from '#api/upkeep.ts';
import type { UpkeepRun, YieldlessSchedule } from '#api/upkeep.ts';
import { addDays, localDateAt, parseLocalDate } from '#core/time/index.ts';
import { DateField } from '../parts/date-field.tsx';
import { Table, useTicks } from '../parts/table/index.ts';
import { plural, sayDate, sayShortDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { NOTHING_COLUMNS, proposalColumns } from './columns.tsx';
import { HoldDialog, keyOf, RaiseDialog, visitOf, type Key } from './dialogs.tsx';
import { upkeepApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';

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

/** What can be done with the visits of the run, or with the ticked ones. */
function Acts({
  toRaise,
  ticked,
  held,
  float,
  letGo,
}: {
  toRaise: number;
  ticked: number;
  held: number;
  float: (what: 'hold' | 'raise') => void;
  letGo: () => void;
}) {
  return (
    <div className="sticky top-0 z-10 mt-3 flex items-center gap-2 bg-base-200 py-2">
      <button className="act-main" disabled={toRaise === 0} onClick={() => float('raise')}>
        {ticked > 0 ? `Raise ${plural(toRaise, 'ticked visit')}…` : `Raise ${plural(toRaise, 'visit')}…`}
      </button>
      <button className="act" disabled={ticked === 0} onClick={() => float('hold')}>
        Hold back…
      </button>
      <button className="act" disabled={held === 0} onClick={letGo}>
        Let go on
      </button>
      <span className="quiet">{ticked > 0 ? `${ticked} ticked` : 'Tick rows to act on some of them only.'}</span>
    </div>
  );
}

function Counts({ counts }: { counts: UpkeepRun['counts'] }) {
  return (
    <p className="mt-2">
      {plural(counts.schedules, 'schedule')} looked at:{' '}
      <strong className="font-semibold">{plural(counts.proposed, 'visit')} to raise</strong>, {counts.held} held back,{' '}
      <span className={counts.needsAction > 0 ? 'font-semibold' : ''}>
        {counts.needsAction} that yield nothing and need action
      </span>
      , {counts.waits} with nothing due now.
    </p>
  );
}

/** The schedules that yield nothing: first those that need action, then, asked for, those with nothing due. */
function Yieldless({ run: { nothing, counts } }: { run: UpkeepRun }) {
  const [showWaiting, setShowWaiting] = useState(false);
  return (
    <>
      <Nothing
        title={`Schedules that yield nothing and need action: ${counts.needsAction}`}
        rows={nothing.filter((n) => n.kind === 'needs action')}
        empty="None: every schedule can yield its visits."
      />
      <p className="mt-4">
        <button className="link-ink" onClick={() => setShowWaiting(!showWaiting)}>
          {showWaiting ? 'Hide' : 'Show'} the {counts.waits} with nothing due now
        </button>
      </p>
      {showWaiting && (
        <Nothing title="Nothing due now" rows={nothing.filter((n) => n.kind === 'waits')} empty="None." />
      )}
    </>
  );
}

function RunView({ run, say, said }: { run: UpkeepRun; say: (text: string | null) => void; said: string | null }) {
  const reader = useReader();
  const ticks = useTicks<Key>();
  const { ticked } = ticks;
  const [floating, setFloating] = useState<'hold' | 'raise' | null>(null);
  const [release] = upkeepApi.useReleaseVisitsMutation();
  const { counts } = run;
  const chosen = run.proposals.filter((p) => ticked.has(keyOf(p)));
  const held = chosen.filter((p) => p.state === 'held');
  const may = reader.may(commitRun);
  const toRaise = chosen.length > 0 ? chosen.filter((p) => p.state === 'proposed').length : counts.proposed;
  return (
    <>
      <Counts counts={counts} />
      {said && (
        <p role="status" className="mt-2 border border-base-content bg-base-100 px-3 py-1.5">
          {said}{' '}
          <Link className="link-ink" to="/orders?kind=preventive">
            Look at the orders
          </Link>
        </p>
      )}
      {may && (
        <Acts
          toRaise={toRaise}
          ticked={chosen.length}
          held={held.length}
          float={setFloating}
          letGo={() => void release({ body: { visits: held.map(visitOf) } }).then(() => ticks.clear())}
        />
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
      <Yieldless run={run} />
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
