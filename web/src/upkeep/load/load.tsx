// The load of the coming year, and evening it out.
import { useCallback, useState } from 'react';
import { readLevelling, type Load } from '#api/load.ts';
import type { Problem } from '#api/shapes.ts';
import { toDayNumber } from '#core/time/index.ts';
import { mondayOf } from '#core/upkeep/index.ts';
import { ChooseCustomer, useCustomerChoice } from '../../customers/index.ts';
import { SelectField } from '../../parts/fields.tsx';
import { setupApi } from '../../setup/index.ts';
import { useReader } from '../../shell/reader.tsx';
import { Waiting } from '../../shell/waiting.tsx';
import { upkeepApi } from '../endpoints.ts';
import { UpkeepParts } from '../parts.tsx';
import { useScope } from '../scope.ts';
import { useLevelling, type Proposal } from './levelling.ts';
import { ProposalView } from './proposal.tsx';
import { LoadStrip } from './strip.tsx';

/** Each row’s hours with visits on other days: what the plan has, less where they lay, plus where they would. */
function rowsWith(load: Load, { given, problem }: Proposal, days: readonly number[]): number[][] {
  const from = toDayNumber(load.from);
  const rows = load.rows.map((row) => row.planned.map((m, i) => m + (row.raised[i] ?? 0)));
  const week = (day: number): number => (mondayOf(day) - from) / 7;
  const index = new Map(load.rows.map((row, i) => [`${row.depot?.id ?? null}/${row.skill?.id ?? null}`, i]));
  given.visits.forEach((v, i) => {
    const row = rows[index.get(`${v.depotId}/${v.skillId}`) ?? -1];
    if (!row) return;
    const [before, after] = [week(problem.visits[i]?.day ?? 0), week(days[i] ?? 0)];
    if (before === after) return;
    row[before] = (row[before] ?? 0) - v.minutes;
    row[after] = (row[after] ?? 0) + v.minutes;
  });
  return rows;
}

function Working({
  progress,
  stop,
}: {
  progress: { pass: number; done: number; of: number; moved: number } | null;
  stop: () => void;
}) {
  return (
    <div role="status" className="mt-4 flex items-center gap-4 border-y border-hairline py-2">
      <span>
        Evening out
        {progress &&
          `: round ${progress.pass}, ${progress.done.toLocaleString('en-GB')} of ${progress.of.toLocaleString('en-GB')} visits`}
        …
      </span>
      <button className="act" onClick={stop}>
        Stop
      </button>
    </div>
  );
}

function LoadView({ load }: { load: Load }) {
  const may = useReader().may(readLevelling);
  const [scope] = useScope();
  const [ask, { isFetching, error }] = upkeepApi.useLazyReadLevellingQuery();
  const { evening, begin, stop } = useLevelling();
  const [days, setDays] = useState<readonly number[] | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const takeDays = useCallback((next: readonly number[]) => setDays(next), []);
  const start = async (): Promise<void> => {
    setSaid(null);
    const { data } = await ask({ query: scope });
    if (data) begin(data);
  };
  const proposal = evening.state === 'done' ? evening.proposal : null;
  return (
    <>
      <LoadStrip load={load} after={proposal && days ? rowsWith(load, proposal, days) : null} />
      {may && evening.state !== 'working' && !proposal && (
        <button className="act-main mt-4" disabled={isFetching} onClick={() => void start()}>
          Even out
        </button>
      )}
      {evening.state === 'working' && <Working progress={evening.progress} stop={stop} />}
      {evening.state === 'failed' && (
        <p className="mt-3 text-missed">✕ It could not be worked out here; try it again.</p>
      )}
      {error && (
        <p role="alert" className="mt-3 text-missed">
          ✕ {(error as Problem).detail}
        </p>
      )}
      {said && (
        <p role="status" className="mt-3 border border-base-content bg-base-100 px-3 py-1.5">
          {said}
        </p>
      )}
      {proposal &&
        (proposal.moves.length === 0 ? (
          <p className="mt-4 border-y border-hairline py-2">
            Nothing would get more even inside the windows.{' '}
            <button className="link-ink" onClick={stop}>
              Close
            </button>
          </p>
        ) : (
          <ProposalView
            proposal={proposal}
            onDays={takeDays}
            onDone={(text) => {
              setSaid(text);
              setDays(null);
              stop();
            }}
          />
        ))}
    </>
  );
}

export function LoadRoom() {
  const [scope, setScope] = useScope();
  const customer = useCustomerChoice(scope.customer ?? '');
  const { data: reference } = setupApi.useReadReferenceQuery();
  const query = upkeepApi.useReadLoadQuery({ query: scope });
  return (
    <div className="px-7 pt-5 pb-12">
      <UpkeepParts />
      <header className="mt-3 flex flex-wrap items-end gap-4">
        <h1>Load of the coming year</h1>
        <SelectField
          label="Depot"
          value={scope.depot ?? ''}
          onChange={(id) => setScope({ depot: id === '' ? null : id })}
          options={[['', 'all depots'], ...(reference?.depots ?? []).map((d) => [String(d.id), d.name] as const)]}
          className="w-48"
        />
        <ChooseCustomer
          chosen={customer}
          onChoose={(c) => setScope({ customer: c ? String(c.id) : null })}
          none="every customer"
          className="w-64"
        />
      </header>
      <Waiting query={query}>{(load) => <LoadView key={JSON.stringify(scope)} load={load} />}</Waiting>
    </div>
  );
}
