// Jobs: what goes on beside requests, what failed and why, and beginning one now.
import { useState } from 'react';
import type { Answer } from '#api/contract.ts';
import type { JobOut, listJobs } from '#api/jobs.ts';
import type { Instant } from '#core/time/index.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { Tabs } from '../parts/tabs.tsx';
import { plural, sayMoment } from '../parts/words.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { jobsApi } from './endpoints.ts';

const SHOWS = [
  ['dead', 'Failed'],
  ['open', 'Under way and waiting'],
  ['done', 'Done'],
] as const;
type Show = (typeof SHOWS)[number][0];

function JobRow({ job, now, again }: { job: JobOut; now: Instant; again: (id: number) => void }) {
  const { zone } = useReader();
  const at = job.endedAt ?? job.startedAt ?? job.dueAt;
  return (
    <tr>
      <td className="num">{job.id}</td>
      <td>{job.says}</td>
      <td className={job.state === 'dead' ? 'font-semibold text-missed' : ''}>
        {job.state === 'dead' ? 'failed' : job.state}
      </td>
      <td className="whitespace-nowrap">{sayMoment(at, now, zone)}</td>
      <td>
        {job.problem === null ? (job.progress ?? '') : job.problem}
        {job.tries > 0 && <span className="quiet"> after {plural(job.tries, 'try', 'tries')}</span>}
      </td>
      <td className="text-right">
        {job.state === 'dead' && (
          <button className="link-ink" onClick={() => again(job.id)}>
            try again
          </button>
        )}
      </td>
    </tr>
  );
}

function JobRows({ jobs, now, again }: { jobs: readonly JobOut[]; now: Instant; again: (id: number) => void }) {
  return (
    <table className="dense mt-2">
      <thead>
        <tr>
          <th className="num w-16">No.</th>
          <th className="w-96">What</th>
          <th className="w-24">State</th>
          <th className="w-36">When</th>
          <th>What came of it</th>
          <th aria-label="Act" className="w-24" />
        </tr>
      </thead>
      <tbody>
        {jobs.map((job) => (
          <JobRow key={job.id} job={job} now={now} again={again} />
        ))}
      </tbody>
    </table>
  );
}

/** What begins by itself, and beginning it now. */
function Kinds({ kinds, begin }: { kinds: Answer<typeof listJobs>['kinds']; begin: (kind: string) => void }) {
  return (
    <>
      <h2 className="mt-6">Begin by themselves</h2>
      <table className="dense mt-1">
        <tbody>
          {kinds.flatMap(({ kind, says, every }) =>
            every === null
              ? []
              : [
                  <tr key={kind}>
                    <td className="w-[32rem]">{says}</td>
                    <td className="quiet">{every}</td>
                    <td className="text-right">
                      <button className="link-ink" onClick={() => begin(kind)}>
                        begin now
                      </button>
                    </td>
                  </tr>,
                ],
          )}
        </tbody>
      </table>
    </>
  );
}

export function Jobs() {
  const [show, setShow] = useState<Show>('dead');
  const pages = usePages();
  const { after } = pages;
  const query = jobsApi.useListJobsQuery({ query: { show, ...(after && { after }) } }, { pollingInterval: 10_000 });
  const [begin] = jobsApi.useBeginJobMutation();
  const [run] = jobsApi.useRunJobMutation();
  const { errors, submit } = useSubmit([]);
  return (
    <Waiting query={query}>
      {({ items, next, dead, kinds, now }) => (
        <>
          <p className="mt-3">
            {dead === 0 ? 'No job has failed.' : `${plural(dead, 'job')} failed and wait for somebody to look.`}
          </p>
          <Tabs
            label="Which jobs"
            tabs={SHOWS}
            chosen={show}
            onChoose={(key) => {
              setShow(key);
              pages.begin();
            }}
          >
            <GeneralError errors={errors} />
            {items.length === 0 ? (
              <p className="quiet mt-2 border-y border-hairline py-3">
                {show === 'dead'
                  ? 'Nothing here: what fails is tried again by itself first, five times.'
                  : 'Nothing here.'}
              </p>
            ) : (
              <JobRows jobs={items} now={now} again={(id) => void submit(run({ params: { id: String(id) } }))} />
            )}
            <Pager pages={pages} next={next} words={['Newer', 'Older']} />
          </Tabs>
          <Kinds kinds={kinds} begin={(kind) => void submit(begin({ body: { kind } }))} />
        </>
      )}
    </Waiting>
  );
}
