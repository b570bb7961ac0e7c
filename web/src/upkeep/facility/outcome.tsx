// What the ticked schedules come to in the coming year, before they are made.
import type { FacilityOutcome } from '#api/facility.ts';
import { SHORT_MONTHS } from '#core/time/index.ts';
import { plural, sayHours } from '../../parts/words.ts';

const sayMonth = (month: string): string => `${SHORT_MONTHS[Number(month.slice(5)) - 1]} ${month.slice(0, 4)}`;

export function Outcome({ outcome, tagged }: { outcome: FacilityOutcome; tagged: (jobPlanId: number) => string }) {
  const { schedules, visits, orders, months, nothing } = outcome;
  const most = Math.max(1, ...months.map((m) => m.minutes));
  return (
    <>
      <p>
        <strong className="font-semibold">{plural(schedules, 'schedule')}</strong> with {plural(visits, 'visit')} in the
        coming year, in {plural(orders, 'order')}.
      </p>
      {months.length > 0 && (
        <ol className="mt-2 flex flex-wrap gap-x-4 gap-y-2" aria-label="Month by month">
          {months.map((m) => (
            <li key={m.month} className="w-[84px] text-[0.87rem] tabular-nums">
              <span className="quiet block">{sayMonth(m.month)}</span>
              <span className="block h-1.5 bg-base-300" aria-hidden>
                <span className="block h-full bg-base-content" style={{ width: `${(100 * m.minutes) / most}%` }} />
              </span>
              {sayHours(m.minutes)}
              <span className="quiet block">
                {m.visits} in {plural(m.orders, 'order')}
              </span>
            </li>
          ))}
        </ol>
      )}
      {nothing.map((n) => (
        <p key={`${n.tag}${n.jobPlanId}`} className="text-missed">
          ✕ {tagged(n.jobPlanId)} for {n.tag} yields no visit. {n.reason}
        </p>
      ))}
    </>
  );
}
