// Counted rights of agreements in force, those that run out first, with what was done beyond them and what that came to.
import { and, asc, desc, eq, gte, inArray, isNull, lte, sql } from 'drizzle-orm';
import type { AllowanceList, listAllowances } from '#api/allowances.ts';
import type { Asked } from '#api/contract.ts';
import type { OrderKind } from '#core/orders/index.ts';
import {
  leftOf,
  paceOf,
  type AllowanceLeft,
  type AllowanceUnit,
  type Draw,
  type Pace,
} from '#core/entitlement/index.ts';
import { addDays, startOfDay, type LocalDate, type Zone } from '#core/time/index.ts';
import type { AllowanceId, OrderId } from '#core/ids.ts';
import { agreement } from '../agreements/tables.ts';
import { customer } from '../customers/tables.ts';
import { allowance, allowanceDraw } from '../entitlement/tables.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import { orderLook } from './document-tables.ts';

const PAGE = 60;
const DRAWS_AT_ONCE = 500;
/** Draws are looked back on as far as a period of a year may reach, and a little more. */
const LOOKED_BACK_DAYS = 2 * 366;
const BEYOND_SHOWN = 5;
const ORDER_OF: Readonly<Record<Pace['state'], number>> = { 'used up': 0, 'runs out': 1, lapses: 2, lasts: 3 };
/** Kinds of work that a counted right counts. */
const KINDS: Readonly<Record<AllowanceUnit, readonly OrderKind[]>> = {
  visits: ['preventive'],
  'call-outs': ['repair', 'inspection'],
  hours: ['repair', 'inspection', 'preventive'],
};

/** What was drawn, as far back as a period may reach; the whole term of those that are counted by it. */
async function drawsOf(db: Db, ids: readonly AllowanceId[], today: LocalDate): Promise<Map<AllowanceId, Draw[]>> {
  const draws = new Map<AllowanceId, Draw[]>();
  for (let i = 0; i < ids.length; i += DRAWS_AT_ONCE) {
    const rows = await db
      .select({
        id: allowanceDraw.allowanceId,
        on: allowanceDraw.drawnOn,
        amount: allowanceDraw.amount,
        period: allowance.period,
      })
      .from(allowanceDraw)
      .innerJoin(allowance, eq(allowance.id, allowanceDraw.allowanceId))
      .where(
        and(
          inArray(allowanceDraw.allowanceId, ids.slice(i, i + DRAWS_AT_ONCE)),
          isNull(allowanceDraw.returnedAt),
          sql`(${allowanceDraw.drawnOn} >= ${addDays(today, -LOOKED_BACK_DAYS)} or ${allowance.period} = 'term' or ${allowance.carriesOver})`,
        ),
      );
    for (const { id, on, amount } of rows) if (id !== null) draws.set(id, [...(draws.get(id) ?? []), { on, amount }]);
  }
  return draws;
}

type Row = {
  readonly of: typeof allowance.$inferSelect;
  readonly agreement: typeof agreement.$inferSelect;
  readonly customer: { readonly id: number; readonly name: string };
  readonly left: AllowanceLeft;
  readonly pace: Pace;
};

async function allRights(db: Db, today: LocalDate): Promise<Row[]> {
  const rows = await db
    .select({ of: allowance, agreement, name: customer.name })
    .from(allowance)
    .innerJoin(agreement, eq(agreement.id, allowance.agreementId))
    .innerJoin(customer, eq(customer.id, agreement.customerId))
    .where(and(eq(agreement.stage, 'in force'), lte(agreement.termFrom, today)))
    .orderBy(asc(agreement.number), asc(allowance.id));
  const draws = await drawsOf(
    db,
    rows.map((r) => r.of.id),
    today,
  );
  return rows.map(({ of, agreement: owner, name }): Row => {
    const { unit, amount, period, carriesOver } = of;
    const rule = { key: { kind: 'agreement' as const, id: of.id }, unit, amount, period, carriesOver };
    const left = leftOf(rule, { from: owner.termFrom, to: owner.termTo }, draws.get(of.id) ?? [], today);
    return {
      of,
      agreement: owner,
      customer: { id: owner.customerId, name },
      left,
      pace: paceOf(left, carriesOver, today),
    };
  });
}

/** Orders since it was used up whose cover was refused by the agreement: nothing of it was left for them. */
async function beyondOf(
  db: Db,
  { of, agreement: owner, left }: Row,
): Promise<AllowanceList['items'][number]['beyond']> {
  if (left.usedUpOn === null) return null;
  const lines = await db
    .select({ orderId: workOrder.id, verdict: orderLine.verdict })
    .from(workOrder)
    .innerJoin(orderLine, eq(orderLine.orderId, workOrder.id))
    .where(
      and(
        eq(workOrder.customerId, owner.customerId),
        inArray(workOrder.kind, [...KINDS[of.unit]]),
        gte(workOrder.startedAt, startOfDay('UTC' as Zone, left.usedUpOn)),
        inArray(workOrder.stage, ['done', 'settled']),
      ),
    )
    .orderBy(desc(workOrder.id));
  const orders = [
    ...new Set(
      lines.flatMap(({ orderId, verdict }) =>
        verdict?.verdict.considered.some((c) => c.agreementId === owner.id && !c.taken) ? [orderId] : [],
      ),
    ),
  ];
  if (orders.length === 0) return null;
  const [sum] = await db
    .select({ pay: sql<string>`coalesce(sum(${orderLook.pay}), 0)` })
    .from(orderLook)
    .where(inArray(orderLook.orderId, orders as OrderId[]));
  return {
    ...{ orders: orders.slice(0, BEYOND_SHOWN), count: orders.length },
    ...{ pay: Number(sum?.pay ?? 0), currency: owner.currency },
  };
}

export async function readAllowances(
  db: Db,
  query: Asked<typeof listAllowances>['query'],
  today: LocalDate,
): Promise<AllowanceList> {
  const all = await allRights(db, today);
  const counts = { 'used up': 0, 'runs out': 0, lapses: 0, lasts: 0 };
  for (const row of all) counts[row.pace.state] += 1;
  const wanted = all
    .filter((row) => query.state === undefined || row.pace.state === query.state)
    .toSorted((a, b) => ORDER_OF[a.pace.state] - ORDER_OF[b.pace.state]);
  const from = Number(query.after ?? 0);
  const shown = wanted.slice(from, from + PAGE);
  const beyond = await Promise.all(shown.map((row) => beyondOf(db, row)));
  return {
    items: shown.map(({ of, agreement: owner, customer: payer, left, pace }, i) => ({
      ...{ id: of.id, agreement: { id: owner.id, name: owner.name }, number: owner.number, customer: payer },
      ...{ unit: of.unit, granted: left.granted, drawn: left.drawn, carriesOver: of.carriesOver },
      ...{ from: left.from, to: left.to, ...pace, beyond: beyond[i] ?? null },
    })),
    next: from + PAGE < wanted.length ? String(from + PAGE) : null,
    counts,
  };
}
