// Ribbons: cover, care and trouble of many assets over a stretch, in a fixed number of queries.
import { and, gte, inArray, lte } from 'drizzle-orm';
import { orderNumber } from '#api/shapes.ts';
import type { CareMark, CoverBand, Ribbon, TroubleBar } from '#api/ribbon.ts';
import type { AgreementId, AssetId } from '#core/ids.ts';
import { parseRule } from '#core/recurrence/index.ts';
import { previewVisits } from '#core/upkeep/index.ts';
import { addDays, asZone, startOfDay, type Instant, type LocalDate } from '#core/time/index.ts';
import type { CalendarBook } from '../calendars/index.ts';
import type { Db } from '../platform/database.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { asset } from '../assets/tables.ts';
import { agreement } from '../agreements/tables.ts';
import { schedule, visit } from '../upkeep/tables.ts';
import { clock, orderLine, workOrder } from '../orders/tables.ts';
import type { CoverSubject } from '../entitlement/index.ts';

export type Stretch = {
  readonly from: LocalDate;
  readonly to: LocalDate;
  readonly today: LocalDate;
  readonly now: Instant;
};

/** How a visit shows: planned while its window runs, then done inside or outside it, or not done. */
export function visitState(
  row: { windowFrom: LocalDate; windowTo: LocalDate; completedOn: LocalDate | null },
  today: LocalDate,
): CareMark['state'] {
  if (row.completedOn !== null)
    return row.completedOn >= row.windowFrom && row.completedOn <= row.windowTo ? 'in window' : 'outside window';
  return row.windowTo < today ? 'not done' : 'planned';
}

/** Schedules of assets and of raised visits. Read table by table: joined, the database would rather begin at the small tables and read every schedule. */
async function schedulesOf(db: Db, ids: readonly AssetId[], raised: readonly (typeof visit.$inferSelect)[]) {
  const visited = [...new Set(raised.map((v) => v.scheduleId))];
  const [own, named, assets] = await Promise.all([
    db
      .select()
      .from(schedule)
      .where(inArray(schedule.assetId, [...ids])),
    visited.length === 0
      ? []
      : db
          .select({ id: schedule.id, jobPlanId: schedule.jobPlanId })
          .from(schedule)
          .where(inArray(schedule.id, visited)),
    db
      .select({ id: asset.id, state: asset.state })
      .from(asset)
      .where(inArray(asset.id, [...ids])),
  ]);
  const plans = [...new Set([...own, ...named].map((s) => s.jobPlanId))];
  const agreements = [...new Set(own.map((s) => s.agreementId))];
  const [names, terms] = await Promise.all([
    plans.length === 0
      ? []
      : db.select({ id: jobPlan.id, name: jobPlan.name }).from(jobPlan).where(inArray(jobPlan.id, plans)),
    agreements.length === 0
      ? []
      : db
          .select({ id: agreement.id, stage: agreement.stage, termTo: agreement.termTo })
          .from(agreement)
          .where(inArray(agreement.id, agreements)),
  ]);
  const nameOf = new Map(names.map((p) => [p.id, p.name]));
  const termOf = new Map(terms.map((t) => [t.id, t]));
  const stateOf = new Map(assets.map((a) => [a.id, a.state]));
  return {
    labelOf: new Map([...own, ...named].map((s) => [s.id, nameOf.get(s.jobPlanId) ?? ''])),
    planned: own.flatMap((row) => {
      const term = termOf.get(row.agreementId);
      return term?.stage === 'in force'
        ? [
            {
              schedule: row,
              label: nameOf.get(row.jobPlanId) ?? '',
              termTo: term.termTo,
              assetState: stateOf.get(row.assetId),
            },
          ]
        : [];
    }),
  };
}

async function careOf(
  db: Db,
  book: CalendarBook,
  subjects: ReadonlyMap<AssetId, CoverSubject>,
  stretch: Stretch,
): Promise<Map<AssetId, CareMark[]>> {
  const ids = [...subjects.keys()];
  const care = new Map<AssetId, CareMark[]>(ids.map((id) => [id, []]));
  // By asset and due date alone: asked for their state or joined, the database would rather read every raised visit.
  const found = await db
    .select()
    .from(visit)
    .where(and(inArray(visit.assetId, ids), gte(visit.due, stretch.from), lte(visit.due, stretch.to)));
  const raisedRows = found
    .filter((v) => v.state === 'raised')
    .sort((a, b) => (a.due < b.due ? -1 : a.due > b.due ? 1 : a.id - b.id));
  const { labelOf, planned } = await schedulesOf(db, ids, raisedRows);
  const rows = raisedRows.map((v) => ({ visit: v, label: labelOf.get(v.scheduleId) ?? '' }));
  for (const { visit: row, label } of rows)
    care.get(row.assetId)?.push({
      due: row.due,
      windowFrom: row.windowFrom,
      windowTo: row.windowTo,
      state: visitState(row, stretch.today),
      orderId: row.orderId,
      label,
    });
  for (const { schedule: row, label, termTo, assetState } of planned) {
    if (assetState === 'retired' || assetState === 'in store') continue;
    const rule = parseRule(row.rule);
    if (!rule.ok) continue;
    // Raised, declined, absorbed or called off: only what is held back is still to come.
    const settled = new Set(found.filter((v) => v.scheduleId === row.id && v.state !== 'held').map((v) => v.nominal));
    const terms = {
      rule: rule.value,
      anchor: row.anchor,
      convention: row.convention,
      earlyDays: row.earlyDays,
      lateDays: row.lateDays,
      lead: row.leadDays,
      leadUnit: row.leadUnit,
    };
    for (const next of previewVisits(
      terms,
      book.workingDays(row.calendarId ?? subjects.get(row.assetId)?.place.calendar?.value ?? null),
      row.holdsFrom !== null && row.holdsFrom > stretch.today ? row.holdsFrom : stretch.today,
      12,
    )) {
      const last = row.holdsTo ?? termTo;
      if (next.due > stretch.to || settled.has(next.nominal) || (last !== null && next.nominal > last)) continue;
      care.get(row.assetId)?.push({
        due: next.due,
        windowFrom: next.windowFrom,
        windowTo: next.windowTo,
        state: 'planned',
        orderId: null,
        label,
      });
    }
  }
  return care;
}

async function troubleOf(db: Db, ids: AssetId[], stretch: Stretch): Promise<Map<AssetId, TroubleBar[]>> {
  const trouble = new Map<AssetId, TroubleBar[]>(ids.map((id) => [id, []]));
  const since = startOfDay(asZone('UTC'), stretch.from);
  const worked = await db
    .select({ assetId: orderLine.assetId, orderId: orderLine.orderId })
    .from(orderLine)
    .where(inArray(orderLine.assetId, ids));
  const orders =
    worked.length === 0
      ? []
      : await db
          .select()
          .from(workOrder)
          .where(
            inArray(
              workOrder.id,
              worked.map((w) => w.orderId),
            ),
          );
  const orderOf = new Map(orders.map((o) => [o.id, o]));
  const rows = worked
    .flatMap(({ assetId, orderId }) => {
      const order = orderOf.get(orderId);
      const shown = order?.kind === 'repair' && (order.startedAt >= since || order.restoredAt === null);
      return shown ? [{ assetId, order }] : [];
    })
    .sort((a, b) => a.order.startedAt - b.order.startedAt);
  if (rows.length === 0) return trouble;
  const clocks = await db
    .select({ orderId: clock.orderId, assetId: clock.assetId, state: clock.state, dueAt: clock.dueAt })
    .from(clock)
    .where(
      inArray(
        clock.orderId,
        rows.map((r) => r.order.id),
      ),
    );
  for (const { assetId, order } of rows) {
    if (order.stage === 'called off') continue;
    const own = clocks.filter((c) => c.orderId === order.id && c.assetId === assetId);
    const missed = own.some(
      (c) => c.state === 'missed' || (c.state === 'running' && c.dueAt !== null && c.dueAt < stretch.now),
    );
    trouble.get(assetId)?.push({
      orderId: order.id,
      from: order.startedAt,
      to: order.restoredAt ?? order.doneAt,
      missed,
      label: `${orderNumber(order.id)} ${order.title}`,
      notches: own.flatMap((c) => (c.dueAt === null ? [] : [c.dueAt])),
    });
  }
  return trouble;
}

function bandsOf(subject: CoverSubject, notices: ReadonlyMap<AgreementId, LocalDate | null>): CoverBand[] {
  return subject.covers.flatMap((cover): CoverBand[] => {
    if (cover.kind === 'warranty')
      return [
        {
          label: cover.label,
          kind: 'warranty',
          from: cover.term.from,
          to: cover.term.to,
          agreementId: null,
          noticeBy: null,
        },
      ];
    const kind = cover.stage === 'draft' ? 'draft' : cover.stage === 'suspended' ? 'suspended' : 'agreement';
    const from = cover.term.from > cover.agreementTerm.from ? cover.term.from : cover.agreementTerm.from;
    const ends = [cover.term.to, cover.agreementTerm.to].filter((d): d is LocalDate => d !== null).sort();
    return [
      {
        label: cover.label,
        kind,
        from,
        to: ends[0] ?? null,
        agreementId: cover.agreementId,
        noticeBy: notices.get(cover.agreementId) ?? null,
      },
    ];
  });
}

/** Gives each loaded asset its ribbon between two dates. */
export async function ribbonsOf(
  db: Db,
  book: CalendarBook,
  subjects: ReadonlyMap<AssetId, CoverSubject>,
  stretch: Stretch,
): Promise<Map<AssetId, Ribbon>> {
  const ids = [...subjects.keys()];
  if (ids.length === 0) return new Map();
  const agreementIds = [
    ...new Set(
      [...subjects.values()].flatMap((s) =>
        s.covers.flatMap((c) => (c.kind === 'coverage line' ? [c.agreementId] : [])),
      ),
    ),
  ];
  const [care, trouble, notices] = await Promise.all([
    careOf(db, book, subjects, stretch),
    troubleOf(db, ids, stretch),
    agreementIds.length === 0
      ? []
      : db
          .select({ id: agreement.id, noticeBy: agreement.noticeBy })
          .from(agreement)
          .where(inArray(agreement.id, agreementIds)),
  ]);
  const noticeOf = new Map(notices.map((n) => [n.id, n.noticeBy]));
  return new Map(
    ids.map((id) => [
      id,
      {
        cover: bandsOf(subjects.get(id) as CoverSubject, noticeOf),
        care: care.get(id) ?? [],
        trouble: trouble.get(id) ?? [],
      },
    ]),
  );
}

export const threadStretch = (today: LocalDate, now: Instant): Stretch => ({
  from: addDays(today, -240),
  to: addDays(today, 120),
  today,
  now,
});
export const stripStretch = (today: LocalDate, now: Instant): Stretch => ({
  from: addDays(today, -540),
  to: addDays(today, 200),
  today,
  now,
});
