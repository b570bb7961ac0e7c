// Hours contracted for a year and how the months share them; nothing given: each visit takes what its job plan says.
import { SHORT_MONTHS } from '#core/time/index.ts';
import type { YearHours } from '#core/upkeep/index.ts';
import { NumberField } from '../../parts/fields.tsx';
import { sayMinutes } from '../../parts/words.ts';
import { Wire } from '../../parts/wire-form.tsx';
import { upkeepApi } from '../endpoints.ts';

const EVEN = Array.from({ length: 12 }, () => 1);

/** What visits of the job plan really took, beside what is contracted for them. */
function Took({ jobPlanId, hours }: { jobPlanId: number; hours: YearHours | null }) {
  const { currentData } = upkeepApi.useReadTookQuery(
    { query: { jobPlan: String(jobPlanId) } },
    { skip: !(jobPlanId > 0) },
  );
  const took = currentData?.took;
  const each = hours?.visits ? hours.totalMinutes / hours.visits : null;
  return (
    <p className="quiet" aria-live="polite">
      {each !== null && `Contracted: ${sayMinutes(Math.round(each))} a visit. `}
      {took
        ? `Past visits of this job plan took ${sayMinutes(Math.round(took.median))} at the median, ${sayMinutes(took.least)} to ${sayMinutes(took.most)} (${took.count} of them).`
        : currentData && 'Of no past visit of this job plan was it told what it took.'}
    </p>
  );
}

export function HoursField({ jobPlanId }: { jobPlanId: number }) {
  return (
    <Wire<YearHours | null> name="hours">
      {({ value, change, error }) => (
        <fieldset className="space-y-2">
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="box-tick"
              checked={value !== null}
              onChange={(e) => change(e.target.checked ? { totalMinutes: 1200, factors: EVEN } : null)}
            />
            Hours are contracted for the year, and its visits share them
          </label>
          {value && (
            <div className="flex items-end gap-2">
              <NumberField
                className="mr-3 w-28"
                label="Hours a year"
                value={value.totalMinutes / 60}
                min={0}
                step="any"
                onChange={(hours) => change({ ...value, totalMinutes: Math.round(hours * 60) })}
              />
              <NumberField
                className="mr-3 w-28"
                label="Visits a year"
                value={value.visits ?? NaN}
                min={1}
                max={1000}
                onChange={(visits) => change({ ...value, visits: Number.isNaN(visits) ? null : visits })}
              />
              {SHORT_MONTHS.map((month, i) => (
                <NumberField
                  key={month}
                  className="w-14"
                  label={month}
                  value={value.factors[i] ?? 1}
                  min={0}
                  step="any"
                  onChange={(factor) =>
                    change({ ...value, factors: EVEN.map((_, k) => (k === i ? factor : (value.factors[k] ?? 1))) })
                  }
                />
              ))}
            </div>
          )}
          <Took jobPlanId={jobPlanId} hours={value} />
          {error && <p className="text-missed">✕ {error}</p>}
        </fieldset>
      )}
    </Wire>
  );
}
