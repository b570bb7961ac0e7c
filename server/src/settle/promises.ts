// How the promises of agreements were kept, day by day at the place, for the credits that their service levels pledge.
import { group } from 'd3-array';
import { and, eq, gte, inArray, lt, or, sql } from 'drizzle-orm';
import type { AgreementId } from '#core/ids.ts';
import { serviceLevelOn } from '#core/service-levels/index.ts';
import { NO_PROMISES, type PromiseDay, type PromiseFacts } from '#core/settle/index.ts';
import { localDateAt, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import { coverageLine } from '../agreements/tables.ts';
import { clock, orderLine } from '../orders/tables.ts';
import { instantText } from '../platform/columns.ts';
import type { Db } from '../platform/database.ts';
import { serviceLevel, serviceLevelPast } from '../service-levels/tables.ts';

const UTC = 'UTC' as Zone;

/** Every service level that pledges a credit, now or before. */
async function creditingLevels(db: Db) {
  const [levels, past] = await Promise.all([db.select().from(serviceLevel), db.select().from(serviceLevelPast)]);
  const pastOf = group(past, (p) => p.serviceLevelId);
  const all = levels.map((level) => ({ level, past: pastOf.get(level.id) ?? [] }));
  const credits = [...levels, ...past].some((l) => (l.pledge?.tiers.length ?? 0) > 0);
  return credits ? all.filter((l) => [l.level, ...l.past].some((v) => (v.pledge?.tiers.length ?? 0) > 0)) : [];
}

/** Clocks that are decided, of agreements under service levels that credit, from a day on. */
const decidedClocks = (db: Db, ids: readonly AgreementId[], from: LocalDate, now: Instant) =>
  db
    .select({
      ...{ agreementId: clock.agreementId, state: clock.state, dueOn: clock.dueOn },
      levelId: sql<number | null>`json_value(${orderLine.promises}, concat('$.', ${clock.target}, '.serviceLevelId'))`,
    })
    .from(clock)
    .innerJoin(orderLine, eq(orderLine.id, clock.orderLineId))
    .where(
      and(
        inArray(clock.agreementId, [...ids]),
        gte(clock.dueOn, from),
        or(
          inArray(clock.state, ['met', 'missed']),
          and(eq(clock.state, 'running'), lt(clock.dueAt, sql`${instantText(now)}`)),
        ),
      ),
    );

/** What agreements promised and kept since a day, as it is known at an instant. As many questions for many as for one. */
export async function promisesOf(
  db: Db,
  ids: readonly AgreementId[],
  from: LocalDate,
  now: Instant,
): Promise<(id: AgreementId) => PromiseFacts> {
  const levels = ids.length === 0 ? [] : await creditingLevels(db);
  if (levels.length === 0) return () => NO_PROMISES;
  const levelOf = new Map(levels.map((l) => [l.level.id as number, l]));
  const under = await db
    .selectDistinct({ id: coverageLine.agreementId })
    .from(coverageLine)
    .where(
      and(
        inArray(coverageLine.agreementId, [...ids]),
        inArray(
          coverageLine.serviceLevelId,
          levels.map((l) => l.level.id),
        ),
      ),
    );
  if (under.length === 0) return () => NO_PROMISES;
  const rows = await decidedClocks(
    db,
    under.map((u) => u.id),
    from,
    now,
  );
  const today = localDateAt(UTC, now);
  const pledgeOf: PromiseFacts['pledgeOf'] = (levelId, on) => {
    const own = levelOf.get(levelId);
    const held = own && serviceLevelOn(own.level, own.past, on);
    return held?.pledge ? { name: held.name, pledge: held.pledge } : null;
  };
  const rowsOf = group(rows, (r) => r.agreementId as AgreementId);
  return (id) => ({
    ...{ pledgeOf, today },
    days: (rowsOf.get(id) ?? []).flatMap(({ levelId, dueOn, state }): PromiseDay[] =>
      levelId === null || dueOn === null || !levelOf.has(Number(levelId))
        ? []
        : [
            {
              ...{ levelId: Number(levelId), day: dueOn },
              ...{ met: state === 'met' ? 1 : 0, missed: state === 'met' ? 0 : 1 },
            },
          ],
    ),
  });
}
