// Some of the job plans there are, ticked by name; the form holds their ids.
import type { JobPlanOut } from '#api/setup.ts';
import { Ticks } from '../parts/fields.tsx';
import { Wire } from '../parts/wire-form.tsx';

export function JobPlanTicks({
  name,
  label,
  plans,
}: {
  name: string;
  label: string;
  plans: readonly Pick<JobPlanOut, 'id' | 'name'>[];
}) {
  return (
    <Wire<number[]> name={name}>
      {({ value, change, error }) => (
        <>
          <Ticks
            label={label}
            values={plans.map((p) => p.name)}
            chosen={plans.filter((p) => value.includes(p.id)).map((p) => p.name)}
            onChange={(names) => change(plans.filter((p) => names.includes(p.name)).map((p) => p.id))}
          />
          {error && <p className="text-missed">✕ {error}</p>}
        </>
      )}
    </Wire>
  );
}
