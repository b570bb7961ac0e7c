// Machines that came under a coverage line that is kept, or left it, since the last run.
import { Link } from 'react-router';
import type { UpkeepRun } from '#api/upkeep.ts';
import { sayDate } from '../parts/words.ts';

export function Moved({ moved }: { moved: UpkeepRun['moved'] }) {
  if (moved.length === 0) return null;
  return (
    <section className="mt-5">
      <h2>Came and left since the last run</h2>
      <ul className="mt-1 border-y border-hairline py-2">
        {moved.map((m) => (
          <li key={m.scheduleId}>
            <Link className="serial link-ink" to={`/assets/${m.assetId}`}>
              {m.tag}
            </Link>{' '}
            of {m.customer} {m.what === 'came' ? 'came under' : 'left'} a line of{' '}
            <Link className="serial link-ink" to={`/agreements/${m.agreementId}?part=upkeep`}>
              {m.agreement}
            </Link>{' '}
            on {sayDate(m.on)}:{' '}
            <Link className="link-ink" to={`/schedules/${m.scheduleId}`}>
              {m.jobPlan}
            </Link>{' '}
            {m.what === 'came' ? 'from then on' : 'no more'}.
          </li>
        ))}
      </ul>
    </section>
  );
}
