// Schedules that count from the last service: one open visit at a time, by time, by a meter, or whichever comes first.
import { sayDate, toDayNumber, type LocalDate } from '../time/index.ts';
import { addInterval, type ServiceCadence } from './cadence.ts';
import { visitDays } from './dates.ts';
import { projectMeter, type MeterTotal, type Projection } from './projection.ts';
import { nameOf, type Deviation } from './course.ts';
import { actionNeeded, waits, type LastService, type Schedule, type ScheduleYield, type Visit } from './schedule.ts';

export type NextService = {
  readonly date: LocalDate | null;
  /** Which of the two came first; a tie counts as time. */
  readonly by: 'time' | 'meter';
  readonly meter: Projection | null;
  /** Why there is no date. */
  readonly reason: string | null;
};

/**
 * The day of the next service, before any convention. Both legs run from the last service; the earlier one counts, a tie as time.
 * Source: domain, Recurrence; settled questions, Upkeep. `served`: local day of the last service, or what stands for it.
 */
export function nextService(cadence: ServiceCadence, readings: readonly MeterTotal[], served: LocalDate): NextService {
  const byTime = cadence.time && addInterval(served, cadence.time);
  const meter = cadence.meter && projectMeter(cadence.meter, readings, served);
  const byMeter = meter && meter.kind !== 'unknown' ? meter.date : null;
  if (byMeter !== null && (byTime === null || byMeter < byTime))
    return { date: byMeter, by: 'meter', meter, reason: null };
  if (byTime !== null) return { date: byTime, by: 'time', meter, reason: null };
  return { date: null, by: 'meter', meter, reason: meter?.kind === 'unknown' ? meter.reason : 'Nothing is counted.' };
}

/** The day the next one counts from; null while a visit is open. */
export function servedOn(cadence: ServiceCadence, last: LastService | null): LocalDate | null {
  if (last === null) return cadence.since;
  return last.state === 'left out' ? last.due : last.completedOn;
}

/** The one visit that is open or next, identified by its running number; or why there is none. `raise ≤ runTo` makes it due for raising. */
export function proposeService(
  schedule: Schedule,
  cadence: ServiceCadence,
  { from, has }: { readonly from: LocalDate; readonly has: (date: LocalDate) => boolean },
  runTo: LocalDate,
): ScheduleYield {
  const { last } = schedule;
  const served = servedOn(cadence, last);
  if (served === null)
    return waits(
      'open visit',
      `Visit ${last?.part ?? 1}, due on ${sayDate(last?.due ?? cadence.since)}, is raised and not done yet; the next one counts from its day.`,
    );
  const next = nextService(cadence, schedule.readings, served);
  if (next.date === null) return actionNeeded('no date', next.reason ?? '');
  // Due before anything was owed: it is owed from the first day.
  const date = next.date < from ? from : next.date;
  if (!has(date)) return waits('term over', `The next one would be due on ${sayDate(date)}, after the term.`);
  const name = { nominal: cadence.since, part: (last?.part ?? 0) + 1 };
  const deviation = schedule.deviations.find((d) => nameOf(d) === nameOf(name)) ?? null;
  const visit = serviceVisit(schedule, name, date, deviation);
  if (!visit)
    return actionNeeded(
      'calendar never opens',
      'The site’s calendar has no working day within ten years; correct its opening spans.',
    );
  const band = next.by === 'meter' && next.meter?.kind === 'projected' ? next.meter.band : null;
  if (visit.raise <= runTo) return { visits: [band ? { ...visit, band } : visit], nothing: null };
  return waits('not yet', `Next visit is due on ${sayDate(visit.due)} and raised on ${sayDate(visit.raise)}.`);
}

function serviceVisit(
  schedule: Schedule,
  name: Pick<Visit, 'nominal' | 'part'>,
  date: LocalDate,
  deviation: Deviation | null,
): Visit | null {
  const moved = deviation?.movedTo ?? null;
  const chosen = moved === null ? null : { day: toDayNumber(moved), agreed: deviation?.agreed ?? false };
  const days = visitDays(schedule, schedule.workingDays, toDayNumber(date), chosen);
  return (
    days && {
      ...name,
      ...days,
      jobPlanId: schedule.work.jobPlanId,
      minutes: deviation?.minutes ?? schedule.work.minutes,
      crew: deviation?.crew ?? schedule.crew,
      technicianId: deviation?.technicianId ?? schedule.technicianId,
      changed: moved === null ? null : 'moved',
    }
  );
}
