// What follows from an alert: its order, what holds it back, when it is watched for, and who is told.
import { useFieldArray, useWatch } from 'react-hook-form';
import type { AlertRuleOut } from '#api/alert-rules.ts';
import type { Reference } from '#api/setup.ts';
import {
  WireLongText,
  WireNumber,
  WireSelect,
  WireText,
  WireTick,
  WireTicks,
  WireTime,
} from '../parts/wire-fields.tsx';

/** A step as it is typed: hours apart, both null where they do not count. */
export type TypedStep = {
  readonly personId: number;
  readonly afterMinutes: number;
  readonly from: number | null;
  readonly to: number | null;
};

/** Everybody who may be told, each once. */
const tellable = ({ managers, technicians }: Reference): Reference['managers'] => [
  ...new Map([...managers, ...technicians].map((p) => [p.id, p])).values(),
];

function Steps({ people }: { people: Reference['managers'] }) {
  const { fields, append, remove } = useFieldArray({ name: 'tells' });
  const after = (fields.length === 0 ? 0 : 30) * Math.max(1, fields.length);
  return (
    <fieldset className="mt-3">
      <legend className="font-semibold">Told, until somebody acknowledges</legend>
      {fields.length === 0 && <p className="quiet">Nobody is told; the alert stands in Signals and on Today.</p>}
      {fields.map((field, i) => (
        <div key={field.id} className="grid grid-cols-[2fr_1fr_1fr_1fr_auto] items-start gap-3">
          <WireSelect name={`tells.${i}.personId`} label="Who" options={people.map((p) => [p.id, p.name] as const)} />
          <WireNumber name={`tells.${i}.afterMinutes`} label="After, minutes" min={0} />
          <WireTime name={`tells.${i}.from`} label="Only from" />
          <WireTime name={`tells.${i}.to`} label="until" />
          <button type="button" className="act mt-6" onClick={() => remove(i)} aria-label={`Take step ${i + 1} out`}>
            Take out
          </button>
        </div>
      ))}
      <button
        type="button"
        className="act mt-2"
        disabled={people.length === 0 || fields.length >= 10}
        onClick={() =>
          append({ personId: people[0]?.id, afterMinutes: after, from: null, to: null } satisfies Partial<TypedStep>)
        }
      >
        Tell somebody
      </button>
    </fieldset>
  );
}

/** Names of the class's other rules. */
export function useOtherRules(rules: readonly AlertRuleOut[]): readonly string[] {
  const classId: unknown = useWatch({ name: 'assetClassId' });
  const name: unknown = useWatch({ name: 'name' });
  return [...new Set(rules.filter((r) => r.assetClassId === classId && r.name !== name).map((r) => r.name))];
}

export function FollowFields({ reference, rules }: { reference: Reference; rules: readonly AlertRuleOut[] }) {
  const others = useOtherRules(rules);
  const isPartOnly = useWatch({ name: 'partOnly' }) === true;
  return (
    <section className="mt-4 border-t border-hairline pt-3" aria-label="What follows">
      <WireTick name="partOnly" label="Only a part of other rules: nobody is told, no order is raised" />
      {!isPartOnly && <Follows reference={reference} others={others} />}
    </section>
  );
}

function Follows({ reference, others }: { reference: Reference; others: readonly string[] }) {
  return (
    <>
      <div className="mt-3 grid grid-cols-4 items-start gap-3">
        <WireTick name="askFirst" label="Ask before an order is raised" />
        <WireSelect
          name="jobPlanId"
          label="Job plan of its order"
          options={[[null, 'none'] as const, ...reference.jobPlans.map((p) => [p.id, p.name] as const)]}
        />
        <WireSelect
          name="watchCalendarId"
          label="Watched"
          options={[
            [null, 'at all times'] as const,
            ...reference.calendars.map((c) => [c.id, `while open: ${c.name}`] as const),
          ]}
        />
        <WireText name="likelyCause" label="Likely cause" hint="said on the order" />
      </div>
      <WireLongText name="orderText" label="Also said on the order" />
      {others.length > 0 && (
        <WireTicks
          name="suppressedBy"
          label="Nobody is told while one of these is active at the machine"
          values={others}
        />
      )}
      <Steps people={tellable(reference)} />
    </>
  );
}
