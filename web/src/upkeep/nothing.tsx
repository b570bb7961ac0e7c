// Every schedule that yields nothing in a run, by name with the reason: those that need action, then those with nothing due.
import { useState } from 'react';
import type { UpkeepRun, YieldlessSchedule } from '#api/upkeep.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { Table } from '../parts/table/index.ts';
import { NOTHING_COLUMNS } from './columns.tsx';
import { upkeepApi } from './endpoints.ts';
import type { Scope } from './scope.ts';

function Listed({ rows, title, empty }: { rows: readonly YieldlessSchedule[]; title: string; empty: string }) {
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

/** All of them, page by page. */
function Everything({ run, scope }: { run: UpkeepRun; scope: Scope }) {
  const pages = usePages();
  const { data } = upkeepApi.useReadNothingQuery({
    query: { to: run.to, ...scope, ...(pages.after && { after: pages.after }) },
  });
  const all = run.counts.needsAction + run.counts.waits;
  return (
    <>
      <Listed rows={data?.items ?? []} title={`Schedules that yield nothing: ${all}`} empty="None." />
      <Pager pages={pages} next={data?.next} />
    </>
  );
}

export function Yieldless({ run, scope }: { run: UpkeepRun; scope: Scope }) {
  const { counts, nothing } = run;
  const [all, setAll] = useState(false);
  const needing = nothing.filter((n) => n.kind === 'needs action');
  return (
    <>
      {all ? (
        <Everything run={run} scope={scope} />
      ) : (
        <Listed
          title={`Schedules that yield nothing and need action: ${counts.needsAction}`}
          rows={needing}
          empty="None: every schedule can yield its visits."
        />
      )}
      {!all && needing.length < counts.needsAction && (
        <p className="quiet pt-1">
          The first {needing.length} of {counts.needsAction} are listed.
        </p>
      )}
      <p className="mt-4">
        <button className="link-ink" onClick={() => setAll(!all)}>
          {all ? 'Show only those that need action' : `Show all, with the ${counts.waits} that have nothing due now`}
        </button>
      </p>
    </>
  );
}
