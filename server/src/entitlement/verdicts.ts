// Verdicts: the entitlement decision for assets at an instant, with the promises it gives, from one loading.
import { inArray } from 'drizzle-orm';
import type { VerdictOut } from '#api/register.ts';
import {
  afterDraws,
  COST_ELEMENTS,
  decideEntitlement,
  nameOfAllowance,
  sayVerdict,
  type AllowanceLeft,
  type Cause,
  type Cover,
  type Draw,
  type Verdict,
} from '#core/entitlement/index.ts';
import type { AssetId, CalendarId, ServiceLevelId } from '#core/ids.ts';
import type { OrderKind } from '#core/orders/index.ts';
import {
  serviceLevelOn,
  strictestPromises,
  TARGETS,
  type GivenPromises,
  type Priority,
  type ServiceLevel,
} from '#core/service-levels/index.ts';
import {
  instant,
  localDateAt,
  MINUTE,
  sayDate,
  sayTimeOfDay,
  toWallTime,
  type Instant,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import type { CalendarBook } from '../calendars/index.ts';
import type { Db } from '../platform/database.ts';
import { serviceLevel, serviceLevelPast } from '../service-levels/tables.ts';
import { coversOf, type CoverSubject } from './covers.ts';

export type Taken = {
  readonly verdict: Verdict;
  readonly promises: GivenPromises;
  readonly sentence: string;
  readonly promise: string;
  readonly zone: Zone;
};

/** Service levels as they held on a day; without one, as they are to hold in the end. */
export async function serviceLevelsOf(
  db: Db,
  ids: readonly ServiceLevelId[],
  on: LocalDate | null = null,
): Promise<ServiceLevel[]> {
  if (ids.length === 0) return [];
  const newest = await db
    .select({
      id: serviceLevel.id,
      name: serviceLevel.name,
      targets: serviceLevel.targets,
      pauses: serviceLevel.pauses,
      pledge: serviceLevel.pledge,
    })
    .from(serviceLevel)
    .where(inArray(serviceLevel.id, [...ids]))
    .orderBy(serviceLevel.id);
  if (on === null) return newest;
  const past = await db
    .select()
    .from(serviceLevelPast)
    .where(inArray(serviceLevelPast.serviceLevelId, [...ids]));
  return newest.map((level) =>
    serviceLevelOn(
      level,
      past.filter((p) => p.serviceLevelId === level.id),
      on,
    ),
  );
}

const VERBS = { response: 'Respond', arrival: 'arrive', workaround: 'work around', restoration: 'restore' } as const;

function sayDue(zone: Zone, due: Instant): string {
  const wall = toWallTime(zone, due);
  return `${sayDate(wall.date)} ${sayTimeOfDay(wall.minutes)}`;
}

/** "Respond by Tue 24 Nov 2026 10:30, arrive by …", in the place's own time. */
export function sayPromises(promises: GivenPromises, start: Instant, zone: Zone, book: CalendarBook): string {
  const parts = TARGETS.flatMap((target) => {
    const given = promises[target];
    const due = given && book.timeOf(given.promise).add(start, given.promise.minutes * MINUTE);
    return due ? [`${VERBS[target]} by ${sayDue(zone, due)}`] : [];
  });
  const sentence = parts.join(', ');
  return sentence === '' ? '' : `${sentence.charAt(0).toUpperCase()}${sentence.slice(1)} (${zone}).`;
}

/** Calendars of labour hours that are closed at an instant. */
export function closedAt(book: CalendarBook, covers: readonly Cover[], at: Instant): Set<CalendarId> {
  const named = covers.flatMap((c) => (c.kind === 'coverage line' && c.hours ? [c.hours.calendarId] : []));
  return new Set(named.filter((id) => book.workingTime(id).between(at, instant(at + 1)) === 0));
}

export type AskedOf = {
  readonly at: Instant;
  readonly kind: OrderKind;
  readonly cause: Cause;
  readonly priority: Priority;
  readonly fallbackZone: Zone;
  readonly part?: string | null;
};

/** Decides for many loaded assets, with the service levels of all read at once. Assets without a zone are judged in the asker's. */
export async function takeDecisions(
  db: Db,
  book: CalendarBook,
  subjects: readonly CoverSubject[],
  ask: AskedOf,
): Promise<Taken[]> {
  const decided = subjects.map((subject) => {
    const zone = subject.zone ?? ask.fallbackZone;
    const on = localDateAt(zone, ask.at);
    const covers = subject.coversOn(on);
    const closedCalendars = closedAt(book, covers, ask.at);
    const { kind, cause, part = null } = ask;
    return {
      zone,
      on,
      verdict: decideEntitlement({ asset: subject.assetOn(on), on, kind, cause, part, closedCalendars }, covers),
    };
  });
  // Zones apart from each other may stand on two or three days at one instant.
  const levelsOn = new Map<LocalDate, ServiceLevel[]>();
  for (const on of new Set(decided.map((d) => d.on))) {
    const ids = new Set(decided.filter((d) => d.on === on).flatMap((d) => d.verdict.serviceLevelIds));
    levelsOn.set(on, await serviceLevelsOf(db, [...ids], on));
  }
  return decided.map(({ zone, on, verdict }) => {
    const levels = (levelsOn.get(on) ?? []).filter((l) => verdict.serviceLevelIds.includes(l.id));
    const promises = strictestPromises(levels, ask.priority, ask.at, book.timeOf);
    return {
      verdict,
      promises,
      sentence: sayVerdict(verdict),
      promise: sayPromises(promises, ask.at, zone, book),
      zone,
    };
  });
}

export async function takeDecision(db: Db, book: CalendarBook, subject: CoverSubject, ask: AskedOf): Promise<Taken> {
  const [taken] = await takeDecisions(db, book, [subject], ask);
  return taken as Taken;
}

/** The verdict as it travels. */
export const verdictOutOf = (taken: Pick<Taken, 'verdict' | 'sentence' | 'promise'>): VerdictOut => ({
  sentence: taken.sentence,
  promise: taken.promise,
  elements: taken.verdict.elements,
  considered: [...taken.verdict.considered],
});

/** A visit beyond a counted right: the how-manieth of how many. */
export type BeyondRight = { readonly nth: number; readonly granted: number };
export type DecidedVisit = { readonly verdict: Verdict; readonly beyond: BeyondRight | null };

/** The counted visits that are used up among the covers of a visit, the closest first. */
function usedUpVisits(covers: readonly Cover[]): AllowanceLeft | null {
  for (const cover of covers)
    for (const left of cover.kind === 'warranty' ? (cover.visits ? [cover.visits] : []) : cover.allowances)
      if (left.unit === 'visits' && left.usedUpOn !== null) return left;
  return null;
}

/**
 * Decides preventive visits in the order of their due dates: what an earlier one draws from an allowance is missing for the later
 * ones. A run that books them reads allowances under lock; its preview decides the same without. Answers stand in the order asked.
 */
export async function visitVerdicts(
  db: Db,
  visits: readonly { readonly assetId: AssetId; readonly due: LocalDate }[],
  lock: 'look' | 'lock' = 'lock',
): Promise<DecidedVisit[]> {
  const subjects = await coversOf(db, [...new Set(visits.map((v) => v.assetId))], lock, 'book');
  const drawn = new Map<string, Draw[]>();
  const less = (left: AllowanceLeft): AllowanceLeft => afterDraws(left, drawn.get(nameOfAllowance(left.key)) ?? []);
  const decided = new Map<number, DecidedVisit>();
  const further = new Map<string, number>();
  const byDue = visits
    .map((v, i) => ({ ...v, i }))
    .sort((a, b) => (a.due < b.due ? -1 : a.due > b.due ? 1 : a.i - b.i));
  for (const { assetId, due, i } of byDue) {
    const subject = subjects.get(assetId) as CoverSubject;
    const covers = subject
      .coversOn(due)
      .map((c) =>
        c.kind === 'warranty'
          ? { ...c, visits: c.visits && less(c.visits) }
          : c.allowances.length > 0
            ? { ...c, allowances: c.allowances.map(less) }
            : c,
      );
    const verdict = decideEntitlement(
      { asset: subject.assetOn(due), on: due, kind: 'preventive', cause: 'wear' },
      covers,
    );
    for (const { key, unit } of verdict.draws)
      if (unit !== 'hours')
        drawn.set(nameOfAllowance(key), [...(drawn.get(nameOfAllowance(key)) ?? []), { on: due, amount: 1 }]);
    const usedUp = COST_ELEMENTS.every((e) => verdict.elements[e].share === 0) ? usedUpVisits(covers) : null;
    let beyond: BeyondRight | null = null;
    if (usedUp) {
      const period = `${nameOfAllowance(usedUp.key)}/${usedUp.from}`;
      further.set(period, (further.get(period) ?? 0) + 1);
      beyond = { nth: usedUp.drawn + (further.get(period) ?? 0), granted: usedUp.granted };
    }
    decided.set(i, { verdict, beyond });
  }
  return visits.map((_, i) => decided.get(i) as DecidedVisit);
}
