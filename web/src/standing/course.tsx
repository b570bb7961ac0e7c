// How standing went month by month, and why promises were missed.
import type { StandingBy, StandingCourse } from '#api/standing.ts';
import { SHORT_MONTHS } from '#core/time/index.ts';
import { Waiting } from '../shell/waiting.tsx';
import type { Period } from './asked.tsx';
import { standingApi } from './endpoints.ts';

const WIDTH = 34;
const HEIGHT = 56;

const sayMonth = (month: string): string => SHORT_MONTHS[Number(month.slice(5, 7)) - 1] ?? '';

/** A bar for each month: as high as promises were met, what was missed above it. */
function Months({ months }: { months: StandingCourse['months'] }) {
  return (
    <figure aria-label="Promises met, month by month">
      <div className="flex items-end gap-1">
        {months.map((m) => (
          <div key={m.month} className="w-[34px] text-center">
            <svg width={WIDTH} height={HEIGHT} aria-hidden="true" className="block">
              <rect y={HEIGHT - 1} width={WIDTH} height="1" fill="var(--hairline)" />
              {m.attainment !== null && (
                <>
                  <rect
                    {...{ x: 4, width: WIDTH - 8, y: HEIGHT * (1 - m.attainment), height: HEIGHT * m.attainment }}
                    fill="currentColor"
                    fillOpacity="0.3"
                  />
                  <rect
                    {...{ x: 4, width: WIDTH - 8, y: 0, height: HEIGHT * (1 - m.attainment) }}
                    fill="var(--missed)"
                    fillOpacity="0.75"
                  />
                </>
              )}
            </svg>
            <div className="tabular-nums">
              {m.attainment === null ? <span className="quiet">–</span> : Math.floor(m.attainment * 100)}
              <span className="sr-only">
                {m.attainment === null ? 'no promise fell due' : ` percent of ${m.met + m.missed} promises`}
              </span>
            </div>
            <div className="quiet">
              {sayMonth(m.month)}
              {m.isClosed && <span title="closed">·</span>}
            </div>
          </div>
        ))}
      </div>
    </figure>
  );
}

type Cause = { readonly why: string; readonly missed: number; readonly targets: string };

/** Causes with what was missed for them, the most first. */
export function rankedCauses(causes: StandingCourse['causes']): Cause[] {
  const ranked = new Map<string, { missed: number; targets: Map<string, number> }>();
  for (const { cause, target, missed } of causes) {
    const why = cause ?? 'not done yet';
    const own = ranked.get(why) ?? { missed: 0, targets: new Map<string, number>() };
    own.missed += missed;
    own.targets.set(target, (own.targets.get(target) ?? 0) + missed);
    ranked.set(why, own);
  }
  return [...ranked]
    .map(([why, { missed, targets }]) => ({
      ...{ why, missed },
      targets: [...targets]
        .sort(([, a], [, b]) => b - a)
        .map(([target, n]) => `${target} ${n}`)
        .join(', '),
    }))
    .sort((a, b) => b.missed - a.missed || (a.why < b.why ? -1 : 1));
}

function Causes({ causes }: { causes: StandingCourse['causes'] }) {
  const ranked = rankedCauses(causes);
  if (ranked.length === 0) return <p className="quiet">No promise was missed in this period.</p>;
  const most = ranked[0]?.missed ?? 1;
  return (
    <table className="dense">
      <tbody>
        {ranked.map(({ why, missed, targets }) => (
          <tr key={why}>
            <td className="text-right tabular-nums">{missed}</td>
            <td>
              <svg width="90" height="8" aria-hidden="true">
                <rect width={(90 * missed) / most} height="8" fill="var(--missed)" fillOpacity="0.75" />
              </svg>
            </td>
            <td>
              <span className="inline-block first-letter:uppercase">{why}</span>{' '}
              <span className="quiet">{targets}</span>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** How it went, and why promises were missed. */
export const CourseTold = ({ months, causes }: StandingCourse) => (
  <>
    <section aria-label="Month by month">
      <h2>Promises met, in percent of each month</h2>
      <Months months={months} />
    </section>
    <section aria-label="Why promises were missed">
      <h2>Why promises were missed, as is known now</h2>
      <Causes causes={causes} />
    </section>
  </>
);

/** Of the whole house without an id. */
export function Course({ by, id, period }: { by: StandingBy | 'all'; id?: number; period: Period }) {
  const query = standingApi.useReadStandingCourseQuery({
    query: { ...period, by, ...(id !== undefined && id > 0 && { id: String(id) }) },
  });
  return id === 0 ? null : <Waiting query={query}>{(course) => <CourseTold {...course} />}</Waiting>;
}
