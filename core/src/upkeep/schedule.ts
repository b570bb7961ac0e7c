// A maintenance schedule as the rules of upkeep look at it, and a visit as they give it.
import type { WorkingDays } from '../calendars/index.ts';
import type { AgreementStage, Term } from '../entitlement/index.ts';
import type { JobPlanId, PersonId, ScheduleId } from '../ids.ts';
import type { LocalDate, Zone } from '../time/index.ts';
import type { Cadence, Work } from './cadence.ts';
import type { Deviation, Turn, VisitName } from './course.ts';
import type { DateTerms, VisitDays } from './dates.ts';
import type { YearHours } from './hours.ts';
import type { MeterTotal } from './projection.ts';

/** The last visit of a schedule that counts from its last service. */
export type LastService = {
  readonly part: number;
  readonly due: LocalDate;
  /** `left out`: skipped, declined or called off; the next one counts from its due date. */
  readonly state: 'raised' | 'left out';
  /** Local day at the site. */
  readonly completedOn: LocalDate | null;
};

/** Why it ended before its agreement: the machine was swapped out, or left the line; or another schedule took its place. */
export type Holding = Term & { readonly ended?: 'swapped' | 'left line' | 'replaced' };

export type Schedule = DateTerms & {
  readonly id: ScheduleId;
  readonly cadence: Cadence;
  readonly turns: readonly Turn[];
  readonly deviations: readonly Deviation[];
  readonly work: Work;
  readonly crew: number;
  readonly technicianId: PersonId | null;
  /** Contracted for each agreement year; null: each visit takes what its job plan says. */
  readonly hours: YearHours | null;
  readonly agreementStage: AgreementStage;
  readonly agreementTerm: Term;
  /** Terms of the agreement’s coverage lines that reach the asset, amended ones one after the other. */
  readonly lineTerms: readonly Term[];
  readonly assetState: 'in service' | 'out of service' | 'in store' | 'retired';
  readonly zone: Zone | null;
  readonly workingDays: WorkingDays;
  /** Identifying dates of visits that were raised, declined or absorbed before. */
  readonly settled: ReadonlySet<LocalDate>;
  /** Of one that counts from its last service: the last visit, and the totals of its meter. */
  readonly last: LastService | null;
  readonly readings: readonly MeterTotal[];
  /** Identifying dates it holds for, where a machine was swapped or came under a line; both days included. */
  readonly holds?: Holding | null;
};

export type Visit = VisitName &
  VisitDays & {
    readonly jobPlanId: JobPlanId;
    /** Of work, all hands together. */
    readonly minutes: number;
    readonly crew: number;
    readonly technicianId: PersonId | null;
    readonly changed: 'moved' | 'added' | null;
    /** Where a meter is carried on to its day: between which days it will come, four times in five; `to` null: no end can be told. */
    readonly band?: { readonly from: LocalDate; readonly to: LocalDate | null };
  };

export type YieldsNothing = {
  /** `needs action`: nothing will come until somebody acts. `waits`: the next visit is not due yet, or the agreement is over. */
  readonly kind: 'needs action' | 'waits';
  readonly code:
    | 'draft'
    | 'suspended'
    | 'not covered'
    | 'ended'
    | 'zero duration'
    | 'asset retired'
    | 'asset in store'
    | 'no zone'
    | 'calendar never opens'
    | 'never fires'
    | 'too many dates'
    | 'no date'
    | 'term over'
    | 'ended by hand'
    | 'swapped'
    | 'left line'
    | 'replaced'
    | 'open visit'
    | 'not yet';
  readonly reason: string;
};

export type ScheduleYield = { readonly visits: readonly Visit[]; readonly nothing: YieldsNothing | null };

export const actionNeeded = (code: YieldsNothing['code'], reason: string): ScheduleYield => ({
  visits: [],
  nothing: { kind: 'needs action', code, reason },
});

export const waits = (code: YieldsNothing['code'], reason: string): ScheduleYield => ({
  visits: [],
  nothing: { kind: 'waits', code, reason },
});
