// A maintenance schedule’s terms on the wire: how often its visits come, as it is written down, and everything else.
import * as v from 'valibot';
import { WORKING_DAY_CONVENTIONS } from '#core/calendars/index.ts';
import type { CalendarId, JobPlanId, PersonId } from '#core/ids.ts';
import { INTERVAL_UNITS, LEAD_UNITS, type WrittenCadence } from '#core/upkeep/index.ts';
import { idOf, localDateText, minor, shortText } from './shapes.ts';

export const ruleText = v.pipe(v.string(), v.maxLength(400));
const whole = (low: number, high: number) => v.pipe(v.number(), v.integer(), v.minValue(low), v.maxValue(high));
const monthDay = v.object({ month: whole(1, 12), day: whole(1, 31) });
const factor = v.nullable(v.pipe(v.number(), v.finite(), v.minValue(0), v.maxValue(1000)));
export const monthFactors = v.pipe(v.array(factor), v.maxLength(12), v.readonly());

const interval = v.object({ count: whole(1, 3653), unit: v.picklist(INTERVAL_UNITS) });
const meterLeg = v.object({
  meter: v.pipe(v.string(), v.trim(), v.minLength(1, 'Name the meter that is counted.'), v.maxLength(60)),
  every: v.pipe(v.number(), v.finite(), v.minValue(0)),
  spanDays: whole(2, 730),
});
const phase = v.object({
  name: v.pipe(shortText, v.minLength(1, 'Give the phase a name.')),
  from: monthDay,
  to: monthDay,
  rule: ruleText,
  jobPlanId: v.nullable(idOf<JobPlanId>()),
  factors: v.nullable(monthFactors),
});

export const cadenceIn = v.variant('kind', [
  v.object({ kind: v.literal('rule'), rule: ruleText }),
  v.object({ kind: v.literal('phases'), phases: v.pipe(v.array(phase), v.maxLength(24), v.readonly()) }),
  v.object({ kind: v.literal('since service'), time: v.nullable(interval), meter: v.nullable(meterLeg) }),
]) satisfies v.GenericSchema<unknown, WrittenCadence>;

const days = v.pipe(v.number(), v.integer(), v.minValue(0, 'Not negative.'), v.maxValue(180, 'At most 180 days.'));
const some = <S extends v.GenericSchema>(schema: S) => v.optional(v.nullable(schema), null);
export const scheduleTerms = {
  jobPlanId: idOf<JobPlanId>(),
  cadence: cadenceIn,
  /** What it counts from: the rule’s start, the first day of phases, what stands for the last service. */
  anchor: localDateText,
  convention: v.picklist(WORKING_DAY_CONVENTIONS),
  calendarId: v.nullable(idOf<CalendarId>()),
  earlyDays: days,
  lateDays: days,
  lead: days,
  leadUnit: v.picklist(LEAD_UNITS),
  /** Wanted, 1 Monday to 7 Sunday: where an open one lies inside the window. */
  weekday: some(v.picklist([1, 2, 3, 4, 5, 6, 7])),
  /** Wanted, in minutes since midnight at the place. */
  timeOfDay: some(whole(0, 1439)),
  crew: v.optional(v.pipe(v.number(), v.integer(), v.minValue(1, 'At least one person.'), v.maxValue(20)), 1),
  technicianId: some(idOf<PersonId>()),
  /** Contracted for each agreement year; null: each visit takes what its job plan says. */
  hours: some(
    v.object({
      totalMinutes: whole(1, 10_000_000),
      factors: monthFactors,
      /** How many visits that is meant to be; the rule is compared with it. */
      visits: v.optional(v.nullable(whole(1, 1000))),
    }),
  ),
  /** Days to a larger visit within which its own are absorbed; null: never. */
  absorbDays: some(days),
  /** Visits are asked of the customer before they are raised. */
  needsYes: v.optional(v.boolean(), false),
  /** What each visit is billed, in minor units of the agreement’s currency; null: the agreement’s price bears it. */
  visitPrice: some(minor),
  reminder: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(500, 'At most 500 characters.')), ''),
};

const termsIn = v.object(scheduleTerms);
/** As they are typed: everything said. */
export type TypedTerms = Required<v.InferInput<typeof termsIn>>;
