// What a service level pledges beside its targets: whom it warns, availability, upkeep, and credits for missed promises.
import type { Reference } from '#api/setup.ts';
import type { CalendarId, PersonId } from '#core/ids.ts';
import { NO_PLEDGE, type Pledge, type WarningStep } from '#core/service-levels/index.ts';
import { Choose } from '../parts/choose.tsx';
import { Field, NumberField, SelectField } from '../parts/fields.tsx';
import { usePeople } from './people-found.ts';

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

/** Who is told at one step: whoever has it in hand, whoever goes, and people by name. */
function Step({
  step,
  set,
  drop,
  people,
}: {
  step: WarningStep;
  set: (over: Partial<WarningStep>) => void;
  drop: () => void;
  people: Reference['people'];
}) {
  const tick = (key: 'inCharge' | 'technician', word: string) => (
    <label className="flex items-center gap-1.5 pb-1.5">
      <input
        type="checkbox"
        className="box-tick"
        checked={step[key]}
        onChange={(e) => set({ [key]: e.target.checked })}
      />
      {word}
    </label>
  );
  const nameOf = (id: number): string => people.find((p) => p.id === id)?.name ?? 'somebody who left';
  return (
    <div className="flex flex-wrap items-end gap-x-4 gap-y-1 pb-2">
      <NumberField
        label="At, % left"
        value={step.percent}
        onChange={(percent) => set({ percent })}
        min={0}
        max={90}
        className="w-24"
      />
      {tick('inCharge', 'who sees to it')}
      {tick('technician', 'who goes')}
      <div className="w-56">
        <Choose
          label="and"
          chosen={null}
          onChoose={(choice) => choice && set({ people: [...new Set([...step.people, choice.id as PersonId])] })}
          useFind={usePeople}
        />
      </div>
      <span className="flex flex-wrap gap-x-3 pb-1.5">
        {step.people.map((id) => (
          <button
            key={id}
            type="button"
            className="link-ink"
            title={`Take ${nameOf(id)} out`}
            onClick={() => set({ people: step.people.filter((p) => p !== id) })}
          >
            {nameOf(id)} ×
          </button>
        ))}
        <button type="button" className="link-ink" onClick={drop}>
          take out
        </button>
      </span>
    </div>
  );
}

function Warnings({ pledge, change, error, people }: WarningsProps) {
  const { warnings } = pledge;
  const put = (next: readonly WarningStep[]): void => change({ ...pledge, warnings: next });
  return (
    <fieldset>
      <legend className="quiet pb-0.5">
        Warnings: each is sent once, by the way its reader chose; 0 is when it is missed
      </legend>
      {warnings.map((step, i) => (
        <Step
          key={i}
          step={step}
          people={people}
          set={(over) => put(warnings.map((w, n) => (n === i ? { ...w, ...over } : w)))}
          drop={() => put(warnings.filter((_, n) => n !== i))}
        />
      ))}
      {error && <p className="text-missed">✕ {error}</p>}
      <button
        type="button"
        className="link-ink"
        onClick={() => {
          const percent = [50, 25, 0, 75, 10].find((p) => warnings.every((w) => w.percent !== p)) ?? 5;
          put([...warnings, { percent, inCharge: true, technician: false, people: [] }]);
        }}
      >
        Add a warning
      </button>
    </fieldset>
  );
}
type WarningsProps = {
  readonly pledge: Pledge;
  readonly change: (p: Pledge) => void;
  readonly error: string | undefined;
  readonly people: Reference['people'];
};

export function PledgeFields({
  pledge: given,
  change,
  error,
  reference: { calendars, people },
}: {
  pledge: Pledge | null;
  change: (p: Pledge) => void;
  /** What is wrong with a part of it. */
  error: (part: string) => string | undefined;
  reference: Reference;
}) {
  const pledge = given ?? NO_PLEDGE;
  const { availability, upkeep } = pledge;
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
        <PercentField
          label="Upkeep in window, % (empty: none)"
          value={upkeep?.target ?? null}
          onChange={(target) => change({ ...pledge, upkeep: target === null ? null : { target } })}
          error={error('upkeep')}
        />
        {pledge.tiers.length > 0 && (
          <PercentField
            label="Credit at most, % (empty: no cap)"
            value={pledge.cap}
            onChange={(cap) => change({ ...pledge, cap })}
            error={error('cap')}
          />
        )}
      </div>
      <Warnings pledge={pledge} change={change} error={error('warnings')} people={people} />
      <Tiers pledge={pledge} change={change} error={error('tiers')} />
    </div>
  );
}

/** Whom a service level warns, and from when its clocks run short; nothing where it is as usual. */
export function sayWarnings(pledge: Pledge | null, { people }: Pick<Reference, 'people'>): string {
  if (!pledge) return '';
  const { warnPercent, warnings } = pledge;
  const told = ({ inCharge, technician, people: named }: WarningStep): string => {
    const all = [
      ...(inCharge ? ['who sees to it'] : []),
      ...(technician ? ['who goes'] : []),
      ...named.map((id) => people.find((p) => p.id === id)?.name ?? 'somebody who left'),
    ];
    return all.length < 2 ? `${all[0] ?? ''} is told` : `${all.slice(0, -1).join(', ')} and ${all.at(-1)} are told`;
  };
  return [
    ...(warnPercent === NO_PLEDGE.warnPercent ? [] : [`Runs short at ${warnPercent} % left.`]),
    ...warnings.map((w) => `${w.percent === 0 ? 'Missed' : `At ${w.percent} % left`}, ${told(w)}.`),
  ].join(' ');
}
