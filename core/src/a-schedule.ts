// For tests: a schedule in which nothing stands in the way of its visits.
import type { WorkingDays } from './calendars/index.ts';
import { asId, type JobPlanId, type ScheduleId } from './ids.ts';
import { parseRule, type RecurrenceRule } from './recurrence/index.ts';
import { asLocalDate, asZone, type LocalDate } from './time/index.ts';
import type { Schedule } from './upkeep/index.ts';

export function ruleOf(text: string): RecurrenceRule {
  const read = parseRule(text);
  if (!read.ok) throw new Error(text);
  return read.value;
}

export type Given = Partial<Omit<Schedule, 'work'>> & {
  readonly rule?: RecurrenceRule | string;
  readonly anchor?: LocalDate;
  readonly minutes?: number;
};

/** Quarterly on the first Tuesday of 2026, three weeks ahead, unless said otherwise. */
export function aSchedule(workingDays: WorkingDays, { rule, anchor, minutes, ...over }: Given = {}): Schedule {
  const year = { from: asLocalDate('2026-01-01'), to: asLocalDate('2026-12-31') };
  const of = rule ?? 'FREQ=MONTHLY;INTERVAL=3;BYDAY=1TU';
  return {
    id: asId<ScheduleId>(1),
    cadence: { kind: 'rule', rule: typeof of === 'string' ? ruleOf(of) : of, anchor: anchor ?? year.from },
    turns: [],
    deviations: [],
    work: { jobPlanId: asId<JobPlanId>(1), minutes: minutes ?? 90 },
    crew: 1,
    technicianId: null,
    hours: null,
    convention: 'following',
    earlyDays: 5,
    lateDays: 7,
    lead: 21,
    leadUnit: 'calendar days',
    weekday: null,
    agreementStage: 'in force',
    agreementTerm: year,
    lineTerms: [{ from: year.from, to: null }],
    assetState: 'in service',
    zone: asZone('Europe/Lisbon'),
    workingDays,
    settled: new Set<LocalDate>(),
    last: null,
    readings: [],
    ...over,
  };
}
