// Hours contracted for a year and how the months share them; nothing given: each visit takes what its job plan says.
import { SHORT_MONTHS } from '#core/time/index.ts';
import type { YearHours } from '#core/upkeep/index.ts';
import { NumberField } from '../../parts/fields.tsx';
import { Wire } from '../../parts/wire-form.tsx';

const EVEN = Array.from({ length: 12 }, () => 1);

export function HoursField() {
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
          {error && <p className="text-missed">✕ {error}</p>}
        </fieldset>
      )}
    </Wire>
  );
}
