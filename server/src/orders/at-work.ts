// Clocks at work: every promise that runs or stands still, counted and grouped by the database, the one due next in front.
import { group } from 'd3-array';
import { and, eq, exists, inArray, isNull, sql, type SQL } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { ClockAtWork, ClocksAtWork, ClocksBy, MarginShown, readClocksAtWork } from '#api/clocks.ts';
import type { ClockOut } from '#api/orders.ts';
import type { OrderId, PersonId } from '#core/ids.ts';
import { marginOf } from '#core/service-levels/index.ts';
import type { Instant } from '#core/time/index.ts';
import { agreement } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { calendarBook } from '../calendars/index.ts';
import { customer } from '../customers/tables.ts';
import { depot } from '../depots/tables.ts';
import { placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import { instantOfText, instantText } from '../platform/columns.ts';
import type { Db } from '../platform/database.ts';
import { keyset } from '../platform/keyset.ts';
import { namesOfPeople } from '../platform/people.ts';
import { person } from '../platform/tables.ts';
import { showClock } from './clock-rows.ts';
import { warned } from './warned.ts';
import { clock, clockWarning, lineLocation, orderLine, technicianName, workOrder } from './tables.ts';

type Query = Asked<typeof readClocksAtWork>['query'];

const PAGE = 50;
const GROUPS = 500;
const MARGINS: readonly MarginShown[] = ['missed', 'short', 'enough', 'paused'];

/** The margin of an open clock, as `marginOf` in core says it. */
const isOf = (margin: MarginShown, now: Instant): SQL => {
  const at = instantText(now);
  switch (margin) {
    case 'paused':
      return sql`${clock.state} = 'paused'`;
    case 'missed':
      return sql`${clock.state} = 'running' and ${clock.dueAt} < ${at}`;
    case 'short':
      return sql`${clock.state} = 'running' and ${clock.dueAt} >= ${at} and ${clock.shortAt} <= ${at}`;
    case 'enough':
      return sql`${clock.state} = 'running' and (${clock.dueAt} is null or (${clock.dueAt} >= ${at} and (${clock.shortAt} is null or ${clock.shortAt} > ${at})))`;
  }
};

/** What clocks are put together by, and how that is called. Wants what `from` joins. */
const GROUP: Readonly<Record<ClocksBy, { readonly key: SQL; readonly name: SQL<string | null> }>> = {
  agreement: { key: sql`${clock.agreementId}`, name: sql`concat(${agreement.number}, ' ', ${agreement.name})` },
  customer: { key: sql`${clock.customerId}`, name: sql`${customer.name}` },
  depot: { key: sql`${clock.depotId}`, name: sql`${depot.name}` },
  technician: { key: sql`${technicianName}`, name: sql`${technicianName}` },
  'in hand': { key: sql`${workOrder.inChargeId}`, name: sql`charge.name` },
  target: { key: sql`${clock.target}`, name: sql`${clock.target}` },
  priority: { key: sql`${clock.priority}`, name: sql`concat('priority ', ${clock.priority})` },
  wait: { key: sql`${workOrder.waitingFor}`, name: sql`${workOrder.waitingFor}` },
};
const NONE: Readonly<Record<ClocksBy, string>> = {
  ...{ agreement: 'no agreement', customer: '', depot: 'no depot', technician: 'nobody goes yet' },
  ...{ 'in hand': 'nobody in particular', target: '', priority: '', wait: 'running' },
};
/** The key of the group of those that have none. */
const NO_KEY = 'none';

const isOpen = inArray(clock.state, ['running', 'paused']);
const charge = sql`left join ${person} charge on charge.id = ${workOrder.inChargeId}`;

const unseen = (db: Db) =>
  exists(
    db
      .select({ one: sql`1` })
      .from(clockWarning)
      .where(
        and(
          eq(clockWarning.orderLineId, clock.orderLineId),
          eq(clockWarning.target, clock.target),
          isNull(clockWarning.acknowledgedAt),
        ),
      ),
  );

function conditions(db: Db, { by, of, margin, mine, unseen: isUnseen }: Query, reader: PersonId, now: Instant): SQL {
  const key = by && GROUP[by].key;
  return and(
    isOpen,
    margin && sql`(${isOf(margin, now)})`,
    mine && eq(workOrder.inChargeId, reader),
    isUnseen && unseen(db),
    key && of !== undefined ? (of === NO_KEY ? sql`${key} is null` : sql`${key} = ${of}`) : undefined,
  ) as SQL;
}

const numbers = (now: Instant) =>
  sql.join(
    MARGINS.map((m) => sql`coalesce(sum(${isOf(m, now)}), 0) as ${sql.identifier(m)}`),
    sql`, `,
  );

type Counted = Record<MarginShown, string | number>;
const countsOf = (row: Counted | undefined): Record<MarginShown, number> => ({
  ...{ missed: Number(row?.missed ?? 0), short: Number(row?.short ?? 0) },
  ...{ enough: Number(row?.enough ?? 0), paused: Number(row?.paused ?? 0) },
});

const joined = sql`
  from ${clock} join ${workOrder} on ${workOrder.id} = ${clock.orderId}
  join ${customer} on ${customer.id} = ${clock.customerId}
  left join ${agreement} on ${agreement.id} = ${clock.agreementId}
  left join ${depot} on ${depot.id} = ${clock.depotId}
  left join ${person} on ${person.id} = ${workOrder.technicianId} ${charge}`;

async function countAll(db: Db, query: Query, reader: PersonId, now: Instant): Promise<Record<MarginShown, number>> {
  const rest = { by: query.by, mine: query.mine, unseen: query.unseen };
  const [rows] = (await db.execute(
    sql`select ${numbers(now)} ${joined} where ${conditions(db, rest, reader, now)}`,
  )) as unknown as [Counted[]];
  return countsOf(rows[0]);
}

async function groupsOf(db: Db, query: Query, reader: PersonId, now: Instant): Promise<ClocksAtWork['groups']> {
  const { by } = query;
  if (!by) return [];
  const { of: _, ...rest } = query;
  const { key, name } = GROUP[by];
  const [rows] = (await db.execute(sql`
    select ${key} as group_key, max(${name}) as name, min(${clock.dueAt}) as first_due, ${numbers(now)} ${joined}
    where ${conditions(db, rest, reader, now)} group by ${key}
    order by min(${clock.dueAt}) is null, min(${clock.dueAt}), ${key} limit ${GROUPS}`)) as unknown as [
    (Counted & { group_key: string | number | null; name: string | null; first_due: string | null })[],
  ];
  return rows.map((r) => ({
    key: r.group_key === null ? NO_KEY : String(r.group_key),
    name: r.group_key === null ? NONE[by] : (r.name ?? NONE[by]),
    firstDue: r.first_due === null ? null : instantOfText(r.first_due),
    ...countsOf(r),
  }));
}

/** Who was warned of the promises of some orders, by line and target. */
async function warningsOf(db: Db, ids: readonly OrderId[]): Promise<ReadonlyMap<string, ClockAtWork['warnings']>> {
  const rows = group(await warned(db, ids), (r) => `${r.orderLineId} ${r.target}`);
  return new Map(
    [...rows].map(([key, own]) => [key, own.map(({ orderLineId: _, target: __, toldIds: ___, ...w }) => w)]),
  );
}

/** An open one has a margin: none is what was called off has. */
const withMargin = (of: ClockOut): Pick<ClockAtWork, 'clock' | 'margin'> => ({
  clock: of,
  margin: marginOf(of) as MarginShown,
});

async function itemsOf(
  db: Db,
  query: Query,
  reader: PersonId,
  now: Instant,
): Promise<Pick<ClocksAtWork, 'items' | 'next'>> {
  const limit = query.limit ?? PAGE;
  const page = keyset(clock.dueAt, clock.id, { down: false, after: query.after, hasEmpty: true });
  const rows = await db
    .select({
      ...{ clock, tag: asset.tag, order: workOrder, customer: customer.name, technician: technicianName },
      ...{ locationId: lineLocation, path: location.path },
    })
    .from(clock)
    .innerJoin(workOrder, eq(workOrder.id, clock.orderId))
    .innerJoin(orderLine, eq(orderLine.id, clock.orderLineId))
    .innerJoin(asset, eq(asset.id, clock.assetId))
    .innerJoin(customer, eq(customer.id, clock.customerId))
    .leftJoin(location, eq(location.id, lineLocation))
    .leftJoin(person, eq(person.id, workOrder.technicianId))
    .where(and(conditions(db, query, reader, now), page.behind))
    .orderBy(...page.order)
    .limit(limit + 1);
  const shown = rows.slice(0, limit);
  const [book, places, told, charges] = await Promise.all([
    calendarBook(db),
    placesOf(
      db,
      shown.map((r) => ({ id: r.locationId, path: r.path })),
    ),
    warningsOf(db, [...new Set(shown.map((r) => r.clock.orderId))]),
    namesOfPeople(
      db,
      shown.map((r) => r.order.inChargeId),
    ),
  ]);
  const last = shown.at(-1)?.clock;
  return {
    items: shown.map(({ clock: row, tag, order, customer: of, technician, locationId }) => ({
      ...withMargin(showClock({ clock: row, tag }, book, now)),
      ...{ title: order.title, priority: order.priority, stage: order.stage, customer: of, technician },
      place: places.of(locationId).label,
      inCharge: order.inChargeId && { id: order.inChargeId, name: charges.get(order.inChargeId) ?? '' },
      pausedSince: row.state === 'paused' ? order.pausedSince : null,
      warnings: told.get(`${row.orderLineId} ${row.target}`) ?? [],
    })),
    next: rows.length > limit && last ? page.markOf(last.dueAt && instantText(last.dueAt), last.id) : null,
  };
}

export async function clocksAtWork(db: Db, query: Query, reader: PersonId, now: Instant): Promise<ClocksAtWork> {
  const [counts, groups, { items, next }] = await Promise.all([
    countAll(db, query, reader, now),
    groupsOf(db, query, reader, now),
    itemsOf(db, query, reader, now),
  ]);
  return { now, counts, groups, items, next };
}
