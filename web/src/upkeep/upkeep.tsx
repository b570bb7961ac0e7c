// The upkeep run: choose a date and what to look at, decide on what speaks against some, raise the rest; and every schedule that yields nothing, with the reason.
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { commitRun } from '#api/upkeep.ts';
import type { UpkeepRun } from '#api/upkeep.ts';
import { NAME_OF_EXCEPTION, type ExceptionCode } from '#core/upkeep/index.ts';
import { localDateAt, parseLocalDate } from '#core/time/index.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { Table, useTicks } from '../parts/table/index.ts';
import { plural, sayDate, sayShortDate } from '../parts/words.ts';
import { useActKeys } from '../shell/keys.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { Asked } from './asked.tsx';
import { proposalColumns } from './columns.tsx';
import { DecideDialog, keyOf, RaiseDialog, visitOf, type Deciding, type Key } from './dialogs.tsx';
import { upkeepApi } from './endpoints.ts';
import { Moved } from './moved.tsx';
import { Yieldless } from './nothing.tsx';
import { Following, LastRuns } from './ran.tsx';
import { UpkeepParts } from './parts.tsx';
import { useScope, type Scope } from './scope.ts';

type Shown = 'to decide' | 'ready' | 'held';
type Floating = 'raise' | Deciding;

/** What can be done with the visits of the run, or with the ticked ones. */
function Acts({
  toRaise,
  ticked,
  released,
  undecided,
  float,
  release,
}: {
  toRaise: number;
  ticked: number;
  /** Ticked ones that are held or let go on already. */
  released: number;
  undecided: number;
  float: (what: Floating) => void;
  release: () => void;
}) {
  useActKeys({
    h: ticked > 0 ? () => float('held') : null,
    d: ticked > 0 ? () => float('declined') : null,
    l: undecided > 0 ? () => float('accepted') : null,
  });
  return (
    <div className="sticky top-0 z-10 mt-3 flex flex-wrap items-center gap-2 bg-base-200 py-2">
      <button className="act-main" disabled={toRaise === 0} onClick={() => float('raise')}>
        {ticked > 0 ? `Raise ${plural(toRaise, 'ticked visit')}…` : `Raise ${plural(toRaise, 'visit')}…`}
      </button>
      <button className="act" disabled={undecided === 0} onClick={() => float('accepted')}>
        Let go on…
      </button>
      <button className="act" disabled={ticked === 0} onClick={() => float('held')}>
        Hold back…
      </button>
      <button className="act" disabled={ticked === 0} onClick={() => float('declined')}>
        Decline…
      </button>
      <button className="act" disabled={released === 0} onClick={release}>
        Take back
      </button>
      <span className="quiet">
        {ticked > 0
          ? `${ticked} ticked: h holds back, d declines, l lets go on`
          : 'Tick rows to act on some of them only: j and k walk, Enter ticks.'}
      </span>
    </div>
  );
}

/** How many there are of what; each number lists just those. */
function Counts({
  counts,
  shown,
  show,
}: {
  counts: UpkeepRun['counts'];
  shown: Shown | null;
  show: (s: Shown | null) => void;
}) {
  const parts: [Shown | null, number, string][] = [
    [null, counts.proposed + counts.held, 'in all'],
    ['ready', counts.ready, 'ready to raise'],
    ['to decide', counts.toDecide, 'to decide'],
    ['held', counts.held, 'held back'],
  ];
  return (
    <div className="mt-3 flex items-end gap-6">
      {parts.map(([key, n, words]) => (
        <button
          key={words}
          className={`-mb-px border-b-2 pb-1 text-left ${shown === key ? 'border-base-content' : 'border-transparent hover:border-hairline'}`}
          aria-pressed={shown === key}
          onClick={() => show(key)}
        >
          <span className="figure block text-2xl">{n.toLocaleString('en-GB')}</span>
          {words}
        </button>
      ))}
      <span className="pb-1.5">
        {plural(counts.schedules, 'schedule')} looked at,{' '}
        <a href="#nothing" className={counts.needsAction > 0 ? 'link-ink font-semibold' : ''}>
          {counts.needsAction} that yield nothing and need action
        </a>
        , {counts.waits} with nothing due now.
      </span>
    </div>
  );
}

/** What speaks against visits, each with how many; one lists just those. */
function Exceptions({
  counts,
  chosen,
  choose,
}: {
  counts: UpkeepRun['counts'];
  chosen: ExceptionCode | null;
  choose: (code: ExceptionCode | null) => void;
}) {
  if (counts.exceptions.length === 0) return null;
  return (
    <p className="mt-2 flex flex-wrap gap-x-5 gap-y-1">
      {counts.exceptions.map(({ code, level, count }) => (
        <button
          key={code}
          className={`link-ink ${chosen === code ? 'font-semibold' : ''}`}
          aria-pressed={chosen === code}
          onClick={() => choose(chosen === code ? null : code)}
        >
          {level === 'stops' ? '✕ ' : level === 'asks' ? '? ' : ''}
          {NAME_OF_EXCEPTION[code]}: {count}
        </button>
      ))}
      {chosen && (
        <button className="quiet link-ink" onClick={() => choose(null)}>
          show all again
        </button>
      )}
    </p>
  );
}

type Filter = { readonly shown: Shown | null; readonly exception: ExceptionCode | null };

function RunView({
  run,
  scope,
  filter,
  setFilter,
  pages,
}: {
  run: UpkeepRun;
  scope: Scope;
  filter: Filter;
  setFilter: (filter: Filter) => void;
  pages: ReturnType<typeof usePages>;
}) {
  const reader = useReader();
  const ticks = useTicks<Key>();
  const [floating, setFloating] = useState<Floating | null>(null);
  const [raising, setRaising] = useState<number | null>(null);
  const [release] = upkeepApi.useReleaseVisitsMutation();
  const chosen = run.proposals.filter((p) => ticks.ticked.has(keyOf(p)));
  const decidedOn = chosen.filter((p) => p.standing === 'held' || p.accepted);
  const may = reader.may(commitRun);
  const ready = chosen.filter((p) => p.standing === 'ready').length;
  const close = (): void => setFloating(null);
  const done = (): void => {
    close();
    ticks.clear();
  };
  return (
    <>
      <Counts counts={run.counts} shown={filter.shown} show={(shown) => setFilter({ ...filter, shown })} />
      <Exceptions
        counts={run.counts}
        chosen={filter.exception}
        choose={(exception) => setFilter({ ...filter, exception })}
      />
      {raising !== null && <Following id={raising} />}
      {may && (
        <Acts
          toRaise={chosen.length > 0 ? ready : run.counts.ready}
          ticked={chosen.length}
          released={decidedOn.length}
          undecided={chosen.filter((p) => p.standing === 'to decide').length}
          float={setFloating}
          release={() => void release({ body: { visits: decidedOn.map(visitOf) } }).then(() => ticks.clear())}
        />
      )}
      <Proposals run={run} filter={filter} setFilter={setFilter} ticks={ticks} may={may} />
      <Pager pages={pages} next={run.next} words={['Earlier', 'Later']} />
      <Moved moved={run.moved} />
      <div id="nothing">
        <Yieldless run={run} scope={scope} />
      </div>
      <LastRuns />
      {floating === 'raise' && (
        <RaiseDialog
          run={run}
          only={chosen.length > 0 ? chosen : null}
          scope={scope}
          onClose={close}
          onRaising={(id) => {
            setRaising(id);
            ticks.clear();
          }}
        />
      )}
      {floating !== null && floating !== 'raise' && (
        <DecideDialog
          kind={floating}
          chosen={floating === 'accepted' ? chosen.filter((p) => p.standing === 'to decide') : chosen}
          run={run}
          onClose={close}
          onDone={done}
        />
      )}
    </>
  );
}

function Proposals({
  run,
  filter,
  setFilter,
  ticks,
  may,
}: {
  run: UpkeepRun;
  filter: Filter;
  setFilter: (filter: Filter) => void;
  ticks: ReturnType<typeof useTicks<Key>>;
  may: boolean;
}) {
  if (run.proposals.length === 0) {
    const isFiltered = filter.shown !== null || filter.exception !== null;
    return (
      <p className="mt-3 border-y border-hairline py-4">
        {isFiltered && run.counts.proposed + run.counts.held > 0 ? (
          <>
            None of the {run.counts.proposed + run.counts.held} visits is like that.{' '}
            <button className="link-ink" onClick={() => setFilter({ shown: null, exception: null })}>
              Show all of them
            </button>
          </>
        ) : (
          `Nothing is to be raised up to ${sayDate(run.to)}. Choose a later date to look further ahead.`
        )}
      </p>
    );
  }
  return (
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
  );
}

const SHOWN: readonly string[] = ['to decide', 'ready', 'held'];
const isShown = (text: string | null): text is Shown => text !== null && SHOWN.includes(text);

export function UpkeepRoom() {
  const reader = useReader();
  const [params, setParams] = useSearchParams();
  const { data: session } = server.useReadSessionQuery();
  const today = localDateAt(reader.zone, session?.now ?? (0 as never));
  const [typed, setTyped] = useState<string>(params.get('to') ?? today);
  const to = parseLocalDate(typed);
  const [scope] = useScope();
  const pages = usePages();
  const [asked, exception] = [params.get('shown'), params.get('exception') as ExceptionCode | null];
  const filter: Filter = { shown: isShown(asked) ? asked : null, exception };
  const set = (more: Readonly<Record<string, string | null>>): void => {
    pages.begin();
    setParams(
      (before) => {
        for (const [name, value] of Object.entries(more))
          if (value === null) before.delete(name);
          else before.set(name, value);
        return before;
      },
      { replace: true },
    );
  };
  const query = upkeepApi.usePreviewRunQuery(
    {
      query: {
        to: to ?? today,
        ...scope,
        ...(filter.shown && { shown: filter.shown }),
        ...(filter.exception && { exception: filter.exception }),
        ...(pages.after && { after: pages.after }),
      },
    },
    { skip: to === null },
  );
  const choose = (value: string): void => {
    setTyped(value);
    if (parseLocalDate(value)) set({ to: value });
  };
  return (
    <div className="px-7 pt-5 pb-12">
      <UpkeepParts />
      <Asked typed={typed} choose={choose} today={today} begin={pages.begin} />
      {to && (
        <Waiting query={{ ...query, data: query.error ? undefined : query.data }}>
          {(run) => (
            <RunView
              key={run.to}
              run={run}
              scope={scope}
              filter={filter}
              setFilter={({ shown, exception: code }) => set({ shown, exception: code })}
              pages={pages}
            />
          )}
        </Waiting>
      )}
    </div>
  );
}
