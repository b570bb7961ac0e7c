// The upkeep schedules of an agreement.
import { useState } from 'react';
import { Link } from 'react-router';
import type { AgreementPage as Page } from '#api/agreements.ts';
import { Listing } from '../parts/listing.tsx';
import { sayDate, sayMinutes } from '../parts/words.ts';
import { agreementsApi } from './endpoints.ts';
import { ScheduleForm } from './schedule-form.tsx';

const SCHEDULES_SHOWN = 12;

export function Schedules({ agreement, mayChange }: { agreement: Page; mayChange: boolean }) {
  const [adding, setAdding] = useState(false);
  const [all, setAll] = useState(false);
  const [remove] = agreementsApi.useRemoveScheduleMutation();
  const shown = all ? agreement.schedules : agreement.schedules.slice(0, SCHEDULES_SHOWN);
  return (
    <section className="mt-4">
      <div className="flex items-baseline gap-4">
        <h2>Upkeep schedules</h2>
        {mayChange && !adding && agreement.assetsTotal > 0 && (
          <button className="act" onClick={() => setAdding(true)}>
            Add a schedule…
          </button>
        )}
      </div>
      {adding && <ScheduleForm agreement={agreement} onDone={() => setAdding(false)} />}
      {agreement.schedules.length === 0 ? (
        !adding && (
          <p className="quiet mt-1 border-y border-hairline py-2">
            No visits are owed under this agreement
            {agreement.assetsTotal === 0 && mayChange ? '; add coverage first' : ''}.
          </p>
        )
      ) : (
        <>
          <Listing name="schedules">
            <table className="dense">
              <thead>
                <tr>
                  <th>Asset</th>
                  <th>Job plan</th>
                  <th className="num">Duration</th>
                  <th>When</th>
                  <th>In time</th>
                  <th>Raised ahead</th>
                  <th>Next due</th>
                  {mayChange && <th aria-label="Remove" />}
                </tr>
              </thead>
              <tbody>
                {shown.map((s) => (
                  <tr key={s.id}>
                    <td>
                      <Link className="serial link-ink" to={`/assets/${s.assetId}`}>
                        {s.tag}
                      </Link>
                    </td>
                    <td>{s.jobPlan}</td>
                    <td className={`num ${s.minutes === 0 ? 'font-semibold' : ''}`}>{sayMinutes(s.minutes)}</td>
                    <td title={s.rule}>{s.sentence}</td>
                    <td className="quiet">{s.window}</td>
                    <td className="quiet">{s.lead}</td>
                    <td>{s.next ? sayDate(s.next) : 'none in the term'}</td>
                    {mayChange && (
                      <td>
                        <button
                          className="quiet link-ink"
                          onClick={() => void remove({ params: { id: String(agreement.id), schedule: String(s.id) } })}
                        >
                          remove
                        </button>
                      </td>
                    )}
                  </tr>
                ))}
              </tbody>
            </table>
          </Listing>
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
