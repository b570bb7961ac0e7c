// Ribbons: cover, care and trouble of many assets over a stretch, in a fixed number of queries.
import { and, eq, gte, inArray, isNull, lte, or } from 'drizzle-orm';
import { orderNumber } from '#api/shapes.ts';
import type { CareMark, CoverBand, Ribbon, TroubleBar } from '#api/ribbon.ts';
import type { AgreementId, AssetId } from '#core/ids.ts';
import { parseRule } from '#core/recurrence/index.ts';
import { previewVisits } from '#core/upkeep/index.ts';
import { addDays, asZone, startOfDay, type Instant, type LocalDate } from '#core/time/index.ts';
import type { CalendarBook } from '../platform/calendar-book.ts';
import type { Db } from '../platform/database.ts';
import { agreement, asset, clock, jobPlan, orderLine, schedule, visit, workOrder } from '../platform/tables/index.ts';
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
  const scheduleIds = [...new Set(raisedRows.map((v) => v.scheduleId))];
  const labels =
    scheduleIds.length === 0
      ? []
      : await db
          .select({ id: schedule.id, label: jobPlan.name })
          .from(schedule)
          .innerJoin(jobPlan, eq(jobPlan.id, schedule.jobPlanId))
          .where(inArray(schedule.id, scheduleIds));
  const labelOf = new Map(labels.map((l) => [l.id, l.label]));
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
  const planned = await db
    .select({ schedule, label: jobPlan.name, termTo: agreement.termTo, assetState: asset.state })
    .from(schedule)
    .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
    .innerJoin(jobPlan, eq(jobPlan.id, schedule.jobPlanId))
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .where(and(inArray(schedule.assetId, ids), eq(agreement.stage, 'in force')));
  for (const { schedule: row, label, termTo, assetState } of planned) {
    if (assetState === 'retired' || assetState === 'in store') continue;
    const rule = parseRule(row.rule);
    if (!rule.ok) continue;
    const raised = new Set(rows.filter((r) => r.visit.scheduleId === row.id).map((r) => r.visit.nominal));
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
      stretch.today,
      12,
    )) {
      if (next.due > stretch.to || raised.has(next.nominal) || (termTo !== null && next.nominal > termTo)) continue;
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
  const rows = await db
    .select({ assetId: orderLine.assetId, order: workOrder })
    .from(orderLine)
    .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
    .where(
      and(
        inArray(orderLine.assetId, ids),
        eq(workOrder.kind, 'repair'),
        or(gte(workOrder.startedAt, since), isNull(workOrder.restoredAt)),
      ),
    )
    .orderBy(workOrder.startedAt);
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
