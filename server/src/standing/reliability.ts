// How dependable machines were over a period: by model, and those that failed again and again.
import { and, asc, count, eq, gt, inArray, isNull, lt, ne, or, sql } from 'drizzle-orm';
import { group } from 'd3-array';
import type { FailingMachine, ModelReliability } from '#api/reliability.ts';
import { ELAPSED_TIME } from '#core/calendars/index.ts';
import { downtimeWithin, reliabilityOf, repeatsOf, type Outage, type Reliability } from '#core/standing/index.ts';
import type { AssetId } from '#core/ids.ts';
import { DAY, instant, type Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { assetClass } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import { instantText } from '../platform/columns.ts';
import type { Db } from '../platform/database.ts';
import { DOWN, upAgainAt } from './pledges.ts';

/** A machine that fails again so soon after it was up was not mended. */
const REPEAT_DAYS = 30;
const MODELS_SHOWN = 300;
const MACHINES_SHOWN = 100;

type Span = { readonly from: Instant; readonly to: Instant };

/** Machines in service now, by model, and how long they were there in a time: from its beginning, or since they were commissioned. */
async function operating(db: Db, { from, to }: Span) {
  const [begin, end] = [instantText(from), instantText(to)];
  const began = sql`greatest(${begin}, coalesce(${asset.commissioned}, ${begin}))`;
  const rows = await db
    .select({
      ...{ classId: asset.classId, className: assetClass.name, model: asset.model, machines: count() },
      ms: sql<number>`sum(greatest(0, timestampdiff(second, ${began}, ${end}))) * 1000`.mapWith(Number),
    })
    .from(asset)
    .innerJoin(assetClass, eq(assetClass.id, asset.classId))
    .where(eq(asset.state, 'in service'))
    .groupBy(asset.classId, assetClass.name, asset.model);
  return new Map(rows.map((r) => [`${r.classId} ${r.model}`, r]));
}

/** When machines in service were down, as far as it touches a time or lies so shortly before it that what follows is a repeat. */
async function outages(db: Db, { from, to }: Span, of?: readonly AssetId[]) {
  const earliest = instant(from - 2 * REPEAT_DAYS * DAY);
  return db
    .select({
      ...{ assetId: asset.id, classId: asset.classId, model: asset.model },
      ...{ from: workOrder.startedAt, to: upAgainAt },
    })
    .from(workOrder)
    .innerJoin(orderLine, eq(orderLine.orderId, workOrder.id))
    .innerJoin(asset, eq(asset.id, orderLine.assetId))
    .where(
      and(
        ...[eq(workOrder.kind, 'repair'), eq(workOrder.priority, DOWN), ne(workOrder.stage, 'called off')],
        ...[eq(orderLine.off, false), eq(asset.state, 'in service'), lt(workOrder.startedAt, to)],
        or(isNull(upAgainAt), gt(upAgainAt, earliest)),
        of && inArray(asset.id, [...of]),
      ),
    );
}

type Found = Outage & { readonly assetId: (typeof asset.$inferSelect)['id'] };

/** Several machines taken together: their failures, the time they ran, and how many failures were repeats. */
function together(all: readonly Found[], serviceMs: number, { from, to }: Span): Reliability & { repeats: number } {
  let [down, repeats] = [0, 0];
  for (const own of group(all, (o) => o.assetId).values()) {
    down += downtimeWithin(own, ELAPSED_TIME, from, to);
    repeats += repeatsOf(own, REPEAT_DAYS * DAY).filter((o) => o.from >= from && o.from < to).length;
  }
  return { ...reliabilityOf(all, from, to, Math.max(0, serviceMs - down)), repeats };
}

/** Of some machines, each by itself: how often it failed, how often soon again, and how long it was down. */
export async function failuresOf(
  db: Db,
  ids: readonly AssetId[],
  span: Span,
): Promise<ReadonlyMap<AssetId, { failures: number; repeats: number; downMs: number }>> {
  if (ids.length === 0 || span.from >= span.to) return new Map();
  return new Map(
    [...group(await outages(db, span, ids), (o) => o.assetId)].map(([id, own]) => {
      const { failures, repeats } = together(own, span.to - span.from, span);
      return [id, { failures, repeats, downMs: downtimeWithin(own, ELAPSED_TIME, span.from, span.to) }];
    }),
  );
}

const days = (ms: number | null | undefined): number | null => (ms === null || ms === undefined ? null : ms / DAY);

/** By model, those that fail oftenest first; and the machines with more than one failure. */
export async function reliabilityIn(
  db: Db,
  span: Span,
): Promise<{ models: ModelReliability[]; machines: FailingMachine[] }> {
  if (span.from >= span.to) return { models: [], machines: [] };
  const [running, all] = await Promise.all([operating(db, span), outages(db, span)]);
  const byModel = group(all, (o) => `${o.classId} ${o.model}`);
  const models = [...running.values()].map(({ classId, className, model, machines, ms }): ModelReliability => {
    const of = together(byModel.get(`${classId} ${model}`) ?? [], ms, span);
    return {
      ...{ className, model, machines, failures: of.failures, repeats: of.repeats },
      ...{ betweenDays: days(of.betweenMs), lowerDays: days(of.interval?.lower), upperDays: days(of.interval?.upper) },
      ...{ restoreMinutes: of.restoreMs === null ? null : Math.round(of.restoreMs / 60_000), restored: of.restored },
    };
  });
  const failing = [...group(all, (o) => o.assetId)]
    .map(([assetId, own]) => ({ assetId, ...together(own, span.to - span.from, span) }))
    .filter((m) => m.failures > 1)
    .toSorted((a, b) => b.failures - a.failures || b.repeats - a.repeats || a.assetId - b.assetId)
    .slice(0, MACHINES_SHOWN);
  const ids = failing.map((m) => m.assetId);
  const named =
    ids.length === 0
      ? []
      : await db
          .select({ id: asset.id, tag: asset.tag, model: asset.model, customer: customer.name })
          .from(asset)
          .innerJoin(customer, eq(customer.id, asset.customerId))
          .where(inArray(asset.id, ids))
          .orderBy(asc(asset.id));
  return {
    models: models
      .toSorted((a, b) => b.failures / b.machines - a.failures / a.machines || (a.model < b.model ? -1 : 1))
      .slice(0, MODELS_SHOWN),
    machines: failing.flatMap(({ assetId, failures, repeats, restoreMs }) => {
      const of = named.find((n) => n.id === assetId);
      const restoreMinutes = restoreMs === null ? null : Math.round(restoreMs / 60_000);
      return of
        ? [{ assetId, tag: of.tag, model: of.model, customer: of.customer, failures, repeats, restoreMinutes }]
        : [];
    }),
  };
}
