// What a service level pledges beside its targets: the warning, availability, and credits for missed promises.
import type { Reference } from '#api/setup.ts';
import type { CalendarId } from '#core/ids.ts';
import { NO_PLEDGE, type Pledge } from '#core/service-levels/index.ts';
import { Field, NumberField, SelectField } from '../parts/fields.tsx';

const percent = (hundredths: number): number => hundredths / 100;
const hundredths = (typed: number): number => Math.round(typed * 100);

function PercentField({
  label,
  value,
  onChange,
  error,
}: {
  label: string;
  value: number | null;
  onChange: (hundredths: number | null) => void;
  error?: string | undefined;
}) {
  return (
    <NumberField
      label={label}
      value={value === null ? NaN : percent(value)}
      onChange={(n) => onChange(Number.isNaN(n) ? null : hundredths(n))}
      error={error}
      min={0}
      max={100}
      step="any"
    />
  );
}

function Tiers({ pledge, change, error }: { pledge: Pledge; change: (p: Pledge) => void; error: string | undefined }) {
  const { tiers } = pledge;
  const set = (i: number, over: Partial<Pledge['tiers'][number]>): void =>
    change({ ...pledge, tiers: tiers.map((t, n) => (n === i ? { ...t, ...over } : t)) });
  return (
    <fieldset>
      <legend className="quiet pb-0.5">Service credit, by the share of promises met in a period</legend>
      {tiers.map((t, i) => (
        <div key={i} className="flex items-end gap-3 pb-2">
          <PercentField label="Below, %" value={t.below} onChange={(below) => set(i, { below: below ?? 0 })} />
          <PercentField
            label="Credited, % of the fee"
            value={t.credit}
            onChange={(credit) => set(i, { credit: credit ?? 0 })}
          />
          <button
            type="button"
            className="link-ink pb-1.5"
            onClick={() => change({ ...pledge, tiers: tiers.filter((_, n) => n !== i) })}
          >
            take out
          </button>
        </div>
      ))}
      {error && <p className="text-missed">✕ {error}</p>}
      <button
        type="button"
        className="link-ink"
        onClick={() => {
          const last = tiers.at(-1);
          const next = last ? { below: last.below - 500, credit: last.credit * 2 } : { below: 9500, credit: 500 };
          change({ ...pledge, tiers: [...tiers, next] });
        }}
      >
        Add a tier
      </button>
    </fieldset>
  );
}

export function PledgeFields({
  pledge: given,
  change,
  error,
  calendars,
}: {
  pledge: Pledge | null;
  change: (p: Pledge) => void;
  /** What is wrong with a part of it. */
  error: (part: string) => string | undefined;
  calendars: Reference['calendars'];
}) {
  const pledge = given ?? NO_PLEDGE;
  const { availability } = pledge;
  return (
    <div className="space-y-3 border-t border-hairline pt-3">
      <div className="grid grid-cols-4 gap-3">
        <NumberField
          label="Running short at, % left"
          value={pledge.warnPercent}
          onChange={(warnPercent) => change({ ...pledge, warnPercent })}
          error={error('warnPercent')}
          min={1}
          max={90}
        />
        <PercentField
          label="Availability, % (empty: none)"
          value={availability?.target ?? null}
          onChange={(target) =>
            change({
              ...pledge,
              availability: target === null ? null : { target, calendarId: availability?.calendarId ?? null },
            })
          }
          error={error('availability')}
        />
        {availability ? (
          <SelectField
            label="counted"
            value={String(availability.calendarId ?? '')}
            onChange={(id) =>
              change({
                ...pledge,
                availability: { ...availability, calendarId: (Number(id) || null) as CalendarId | null },
              })
            }
            options={[['', 'around the clock'], ...calendars.map((c) => [String(c.id), `in ${c.name}`] as const)]}
          />
        ) : (
          <Field label="counted">
            {(id) => (
              <p id={id} className="quiet pt-1">
                no availability is promised
              </p>
            )}
          </Field>
        )}
        {pledge.tiers.length > 0 && (
          <PercentField
            label="Credit at most, % (empty: no cap)"
            value={pledge.cap}
            onChange={(cap) => change({ ...pledge, cap })}
            error={error('cap')}
          />
        )}
      </div>
      <Tiers pledge={pledge} change={change} error={error('tiers')} />
    </div>
  );
}

/** A pledge in a sentence; nothing where it is as usual. */
export function sayPledge(pledge: Pledge | null, calendarName: (id: number) => string): string {
  if (!pledge) return '';
  const { availability, tiers, cap, warnPercent } = pledge;
  return [
    warnPercent === NO_PLEDGE.warnPercent ? '' : `running short at ${warnPercent} % left`,
    availability
      ? `available ${percent(availability.target)} % ${availability.calendarId === null ? 'around the clock' : `in ${calendarName(availability.calendarId)}`}`
      : '',
    tiers.map((t) => `below ${percent(t.below)} % met: ${percent(t.credit)} % of the fee credited`).join(', '),
    tiers.length > 0 && cap !== null ? `at most ${percent(cap)} %` : '',
  ]
    .filter((x) => x !== '')
    .join('; ');
}
