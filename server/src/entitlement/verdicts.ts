// Verdicts: the entitlement decision for assets at an instant, with the promises it gives, from one loading.
import { inArray } from 'drizzle-orm';
import { decideEntitlement, sayVerdict, type Cause, type Verdict } from '#core/entitlement/index.ts';
import type { ServiceLevelId } from '#core/ids.ts';
import type { OrderKind } from '#core/orders/index.ts';
import {
  strictestPromises,
  TARGETS,
  type GivenPromises,
  type Priority,
  type ServiceLevel,
} from '#core/service-levels/index.ts';
import { localDateAt, MINUTE, sayDate, toWallTime, type Instant, type Zone } from '#core/time/index.ts';
import type { CalendarBook } from '../platform/calendar-book.ts';
import type { Db } from '../platform/database.ts';
import { serviceLevel } from '../platform/tables/index.ts';
import type { CoverSubject } from './covers.ts';

export type Taken = {
  readonly verdict: Verdict;
  readonly promises: GivenPromises;
  readonly sentence: string;
  readonly promise: string;
  readonly zone: Zone;
};

export async function serviceLevelsOf(db: Db, ids: readonly ServiceLevelId[]): Promise<ServiceLevel[]> {
  return ids.length === 0
    ? []
    : db
        .select({
          id: serviceLevel.id,
          name: serviceLevel.name,
          targets: serviceLevel.targets,
          pauses: serviceLevel.pauses,
        })
        .from(serviceLevel)
        .where(inArray(serviceLevel.id, [...ids]))
        .orderBy(serviceLevel.id);
}

const two = (n: number): string => String(n).padStart(2, '0');
const VERBS = { response: 'Respond', arrival: 'arrive', restoration: 'restore' } as const;

function sayDue(zone: Zone, due: Instant): string {
  const wall = toWallTime(zone, due);
  return `${sayDate(wall.date)} ${two(Math.floor(wall.minutes / 60))}:${two(wall.minutes % 60)}`;
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

/** Decides for one loaded asset. Assets without a zone are judged in the asker's. */
export async function takeDecision(
  db: Db,
  book: CalendarBook,
  subject: CoverSubject,
  ask: { at: Instant; kind: OrderKind; cause: Cause; priority: Priority; fallbackZone: Zone },
): Promise<Taken> {
  const zone = subject.zone ?? ask.fallbackZone;
  const verdict = decideEntitlement(
    { asset: subject.asset, on: localDateAt(zone, ask.at), kind: ask.kind, cause: ask.cause },
    subject.covers,
  );
  const levels = await serviceLevelsOf(db, verdict.serviceLevelIds);
  const promises = strictestPromises(levels, ask.priority, ask.at, book.timeOf);
  return { verdict, promises, sentence: sayVerdict(verdict), promise: sayPromises(promises, ask.at, zone, book), zone };
}
