// Everything a schedule is written down with, over the fields of a wire form.
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { TypedTerms } from '#api/cadence.ts';
import type { Reference } from '#api/setup.ts';
import { WORKING_DAY_CONVENTIONS } from '#core/calendars/index.ts';
import { LEAD_UNITS } from '#core/upkeep/index.ts';
import { Choose } from '../../parts/choose.tsx';
import { WEEKDAYS } from '../../parts/rule-editor.tsx';
import { plural, sayMinutes } from '../../parts/words.ts';
import { WireDate, WireMoney, WireNumber, WireSelect, WireText, WireTick, WireTime } from '../../parts/wire-fields.tsx';
import { Wire } from '../../parts/wire-form.tsx';
import { useTechnicians } from '../../setup/index.ts';
import { CadenceField } from './cadence-field.tsx';
import { HoursField } from './hours-field.tsx';
import { FIRST_RULE_TEXT } from './rule-words.ts';

export const firstTerms = (jobPlanId: number, anchor: string): TypedTerms => ({
  jobPlanId,
  anchor,
  cadence: { kind: 'rule', rule: FIRST_RULE_TEXT },
  convention: 'following',
  calendarId: null,
  earlyDays: 7,
  lateDays: 7,
  lead: 21,
  leadUnit: 'calendar days',
  weekday: null,
  timeOfDay: null,
  crew: 1,
  technicianId: null,
  hours: null,
  absorbDays: null,
  needsYes: false,
  visitPrice: null,
  reminder: '',
});

export function JobPlanField({ jobPlans, chosen }: { jobPlans: Reference['jobPlans']; chosen: number }) {
  const plan = jobPlans.find((p) => p.id === chosen);
  const said =
    plan &&
    (plan.minutes === 0
      ? '✕ its duration is zero: nothing would be raised'
      : `${sayMinutes(plan.minutes)}, ${plural(plan.tasks.length, 'task')}`);
  return (
    <WireSelect
      name="jobPlanId"
      label="Job plan"
      options={jobPlans.map((p) => [p.id, p.name] as const)}
      hint={
        said ?? (
          <>
            None exists yet:{' '}
            <Link className="link-ink" to="/setup/job-plans">
              write one in Setup
            </Link>
            .
          </>
        )
      }
    />
  );
}

function DaysFields({ calendars }: { calendars: Reference['calendars'] }) {
  return (
    <div className="grid grid-cols-[2fr_1.4fr_1fr_1fr_1fr_1.3fr] gap-3">
      <WireSelect
        name="calendarId"
        label="Site calendar"
        options={[[null, 'each place’s own'] as const, ...calendars.map((c) => [c.id, c.name] as const)]}
      />
      <WireSelect
        name="convention"
        label="On closed days"
        options={WORKING_DAY_CONVENTIONS.map((c) => [c, c] as const)}
      />
      <WireNumber name="earlyDays" label="Days early" min={0} max={180} />
      <WireNumber name="lateDays" label="Days late" min={0} max={180} />
      <WireNumber name="lead" label="Raised ahead" min={0} max={180} />
      <WireSelect name="leadUnit" label="counted in" options={LEAD_UNITS.map((u) => [u, u] as const)} />
    </div>
  );
}

function TechnicianField({ technicians }: { technicians: Reference['technicians'] }) {
  return (
    <Wire<number | null> name="technicianId">
      {({ value, change, error }) => (
        <Choose
          label="Technician"
          chosen={technicians.find((t) => t.id === value) ?? null}
          onChoose={(choice) => change(choice?.id ?? null)}
          useFind={useTechnicians}
          none="whoever is free"
          error={error}
        />
      )}
    </Wire>
  );
}

type WishesProps = { terms: TypedTerms; technicians: Reference['technicians']; currency: string };

/** What most schedules leave as it is; open where one of it is set. */
function Wishes({ terms, technicians, currency }: WishesProps) {
  const { weekday, timeOfDay, crew, technicianId, hours, absorbDays, needsYes, visitPrice, reminder } = terms;
  const isSet =
    [weekday, timeOfDay, technicianId, hours, absorbDays, visitPrice].some((x) => x !== null) ||
    crew !== 1 ||
    needsYes ||
    reminder !== '';
  const [opened] = useState(isSet);
  return (
    <details open={opened}>
      <summary className="cursor-pointer py-1 font-semibold">
        Wanted day and time, crew, hours, the customer’s yes, price, reminder
      </summary>
      <div className="space-y-3 pt-2">
        <div className="grid grid-cols-5 gap-3">
          <WireSelect
            name="weekday"
            label="Wanted weekday"
            options={[[null, 'as it falls due'] as const, ...WEEKDAYS.map((d, i) => [i + 1, d] as const)]}
            hint="if it is open in the window"
          />
          <WireTime name="timeOfDay" label="Wanted at" />
          <WireNumber name="crew" label="Crew" min={1} max={20} />
          <TechnicianField technicians={technicians} />
          <WireNumber
            name="absorbDays"
            label="Done by a larger one within"
            empty={null}
            min={0}
            max={180}
            hint="days either side; empty: never"
          />
        </div>
        <HoursField jobPlanId={terms.jobPlanId} />
        <div className="grid grid-cols-[1fr_1fr_2fr] items-start gap-3">
          <WireTick name="needsYes" label="The customer is asked before it is raised" className="pt-6" />
          <WireMoney
            name="visitPrice"
            label="Price of each visit"
            currency={currency}
            hint="empty: in the agreement’s"
          />
          <WireText name="reminder" label="Reminder, shown in the run and on the order" />
        </div>
      </div>
    </details>
  );
}

export function ScheduleFields({
  terms,
  reference,
  forWhom,
  fixedRule = null,
  isPattern = false,
  currency = 'EUR',
}: {
  terms: TypedTerms;
  reference: Reference;
  /** What it stands for, before everything else. */
  forWhom?: ReactNode;
  /** Where the rule is not written anew here: what it is. */
  fixedRule?: ReactNode;
  /** A pattern counts from the day of whoever is made from it. */
  isPattern?: boolean;
  /** The agreement’s; a pattern’s price is in that of whichever is made from it. */
  currency?: string;
}) {
  return (
    <>
      <div className="grid grid-cols-3 gap-4">
        {forWhom}
        <JobPlanField jobPlans={reference.jobPlans} chosen={terms.jobPlanId} />
        {fixedRule === null && !isPattern && (
          <WireDate
            name="anchor"
            label={terms.cadence.kind === 'since service' ? 'Last service, or what stands for it' : 'Counts from'}
          />
        )}
      </div>
      {fixedRule ?? <CadenceField anchor={terms.anchor} jobPlans={reference.jobPlans} />}
      <DaysFields calendars={reference.calendars} />
      <Wishes terms={terms} technicians={reference.technicians} currency={currency} />
    </>
  );
}
