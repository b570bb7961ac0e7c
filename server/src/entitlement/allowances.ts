// Allowances in the database: what is left of them on a date, drawing from them in the transaction that books the work, giving back.
import { and, asc, desc, eq, inArray, isNull, sql } from 'drizzle-orm';
import {
  allowancePeriodAt,
  drawFrom,
  leftOf,
  type Allowance,
  type AllowanceLeft,
  type Cover,
  type Draw,
  type Term,
  type WantedDraw,
} from '#core/entitlement/index.ts';
import type { AgreementId, AllowanceId, AssetId, OrderId, OrderLineId } from '#core/ids.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import type { Db, Tx } from '../platform/database.ts';
import { agreement } from '../agreements/tables.ts';
import { allowance, allowanceDraw } from './tables.ts';

type Lock = 'look' | 'lock';

const ruleOf = (row: typeof allowance.$inferSelect): Allowance => ({
  key: { kind: 'agreement', id: row.id },
  unit: row.unit,
  amount: row.amount,
  period: row.period,
  carriesOver: row.carriesOver,
});

const freeVisits = (assetId: AssetId, amount: number): Allowance => ({
  key: { kind: 'warranty', assetId },
  unit: 'visits',
  amount,
  period: 'term',
  carriesOver: false,
});

export type Counted = {
  /** The cover with what is left of its allowances on a date, to ask about it or to book under it. */
  withAllowances(cover: Cover, on: LocalDate, freeVisits: number, books: boolean): Cover;
};

/** Draws that count, by allowance and by asset under warranty. Locked reads see what others committed meanwhile. */
async function drawsOf(db: Db, ids: readonly AllowanceId[], assets: readonly AssetId[], lock: Lock) {
  const columns = {
    allowanceId: allowanceDraw.allowanceId,
    assetId: allowanceDraw.warrantyAssetId,
    on: allowanceDraw.drawnOn,
    amount: allowanceDraw.amount,
  };
  const ask = async (where: Parameters<typeof and>[0]) => {
    const query = db
      .select(columns)
      .from(allowanceDraw)
      .where(and(where, isNull(allowanceDraw.returnedAt)));
    return lock === 'lock' ? query.for('update') : query;
  };
  const byAllowance = new Map<AllowanceId, Draw[]>();
  const byAsset = new Map<AssetId, Draw[]>();
  const found = [
    ...(ids.length > 0 ? await ask(inArray(allowanceDraw.allowanceId, [...ids])) : []),
    ...(assets.length > 0 ? await ask(inArray(allowanceDraw.warrantyAssetId, [...assets])) : []),
  ];
  for (const { allowanceId, assetId, on, amount } of found) {
    if (allowanceId !== null) byAllowance.set(allowanceId, [...(byAllowance.get(allowanceId) ?? []), { on, amount }]);
    if (assetId !== null) byAsset.set(assetId, [...(byAsset.get(assetId) ?? []), { on, amount }]);
  }
  return { byAllowance, byAsset };
}

/** Loads the allowances of agreements and the free visits of assets under warranty. */
export async function allowancesOf(
  db: Db,
  agreements: readonly AgreementId[],
  warranties: readonly AssetId[],
  lock: Lock,
): Promise<Counted> {
  const query =
    agreements.length === 0
      ? null
      : db
          .select()
          .from(allowance)
          .where(inArray(allowance.agreementId, [...agreements]))
          .orderBy(asc(allowance.id));
  const rows = query === null ? [] : await (lock === 'lock' ? query.for('update') : query);
  const { byAllowance, byAsset } = await drawsOf(
    db,
    rows.map((r) => r.id),
    warranties,
    lock,
  );
  const ofAgreement = new Map<AgreementId, (typeof rows)[number][]>();
  for (const row of rows) ofAgreement.set(row.agreementId, [...(ofAgreement.get(row.agreementId) ?? []), row]);
  return {
    withAllowances(cover, on, visits, books) {
      const counted = books ? 'whole period' : 'up to the day';
      if (cover.kind === 'warranty')
        return visits === 0
          ? cover
          : {
              ...cover,
              visits: leftOf(
                freeVisits(cover.assetId, visits),
                cover.term,
                byAsset.get(cover.assetId) ?? [],
                on,
                counted,
              ),
            };
      const own = ofAgreement.get(cover.agreementId);
      return own
        ? {
            ...cover,
            allowances: own.map((row) =>
              leftOf(ruleOf(row), cover.agreementTerm, byAllowance.get(row.id) ?? [], on, counted),
            ),
          }
        : cover;
    },
  };
}

/** Whose work draws: a line of an order. */
export type Drawing = { readonly orderId: OrderId; readonly lineId: OrderLineId };
export type Booking = Drawing & {
  readonly on: LocalDate;
  readonly draws: readonly WantedDraw[];
};

/**
 * Draws the visits and call-outs that a booking takes, one each; what a line gave back of an allowance it may draw again. The covers it was decided on were read under lock in the same
 * transaction, so nobody else can have drawn meanwhile.
 */
export async function bookDraws(tx: Tx, bookings: readonly Booking[], now: Instant): Promise<void> {
  const values = bookings.flatMap(({ orderId, lineId, on, draws }) =>
    draws
      .filter((d) => d.unit !== 'hours')
      .map(({ key }) => ({
        allowanceId: key.kind === 'agreement' ? key.id : null,
        warrantyAssetId: key.kind === 'warranty' ? key.assetId : null,
        orderId,
        orderLineId: lineId,
        drawnOn: on,
        amount: 1,
        at: now,
      })),
  );
  if (values.length === 0) return;
  await tx.db
    .insert(allowanceDraw)
    .values(values)
    .onDuplicateKeyUpdate({
      set: { amount: 1, at: now, drawnOn: sql`values(${sql.identifier('drawn_on')})`, returnedAt: null },
    });
}

/** One allowance with its term and what is left on a date, read under lock. */
async function leftUnderLock(
  tx: Tx,
  id: AllowanceId,
  on: LocalDate,
  except: OrderLineId,
): Promise<AllowanceLeft | null> {
  const [row] = await tx.db
    .select({ allowance, from: agreement.termFrom, to: agreement.termTo })
    .from(allowance)
    .innerJoin(agreement, eq(agreement.id, allowance.agreementId))
    .where(eq(allowance.id, id))
    .for('update');
  if (!row) return null;
  const draws = await tx.db
    .select({ on: allowanceDraw.drawnOn, amount: allowanceDraw.amount, lineId: allowanceDraw.orderLineId })
    .from(allowanceDraw)
    .where(and(eq(allowanceDraw.allowanceId, id), isNull(allowanceDraw.returnedAt)))
    .for('update');
  const term: Term = { from: row.from, to: row.to };
  return leftOf(
    ruleOf(row.allowance),
    term,
    draws.filter((d) => d.lineId !== except),
    on,
  );
}

/** Draws the minutes of labour a machine of a finished order took from the allowances its verdict named; never more than is left. */
export async function drawHours(
  tx: Tx,
  { orderId, lineId }: Drawing,
  draws: readonly WantedDraw[],
  minutes: number,
  on: LocalDate,
  now: Instant,
): Promise<void> {
  for (const { key, unit } of draws) {
    if (unit !== 'hours' || key.kind !== 'agreement') continue;
    const left = await leftUnderLock(tx, key.id, on, lineId);
    const drawn = left && drawFrom(left, minutes);
    if (!drawn?.ok || drawn.value === 0) continue;
    await tx.db
      .insert(allowanceDraw)
      .values({ allowanceId: key.id, orderId, orderLineId: lineId, drawnOn: on, amount: drawn.value, at: now })
      .onDuplicateKeyUpdate({ set: { amount: drawn.value, drawnOn: on, returnedAt: null } });
  }
}

/** An order that is called off gives back what it drew; so do those of its lines that were left undone. */
export async function giveBack(
  tx: Tx,
  orderId: OrderId,
  now: Instant,
  lines: readonly OrderLineId[] | 'all' = 'all',
): Promise<void> {
  await tx.db
    .update(allowanceDraw)
    .set({ returnedAt: now })
    .where(
      and(
        eq(allowanceDraw.orderId, orderId),
        lines === 'all' ? undefined : inArray(allowanceDraw.orderLineId, [...lines]),
        isNull(allowanceDraw.returnedAt),
      ),
    );
}

export type AllowanceState = AllowanceLeft & {
  readonly id: AllowanceId;
  readonly amount: number;
  readonly period: Allowance['period'];
  readonly carriesOver: boolean;
  readonly draws: readonly {
    orderId: OrderId;
    on: LocalDate;
    amount: number;
    returned: boolean;
    periodFrom: LocalDate;
  }[];
};

/** The counted rights of one agreement on a date, each with the list of what drew from it, newest first. */
export async function allowanceState(
  db: Db,
  row: Pick<typeof agreement.$inferSelect, 'id' | 'termFrom' | 'termTo'>,
  on: LocalDate,
  lock: Lock = 'look',
): Promise<AllowanceState[]> {
  const query = db.select().from(allowance).where(eq(allowance.agreementId, row.id)).orderBy(asc(allowance.id));
  const rights = lock === 'lock' ? await query.for('update') : await query;
  if (rights.length === 0) return [];
  const drawn = await db
    .select()
    .from(allowanceDraw)
    .where(
      inArray(
        allowanceDraw.allowanceId,
        rights.map((r) => r.id),
      ),
    )
    .orderBy(desc(allowanceDraw.drawnOn), desc(allowanceDraw.id))
    .limit(5000);
  return rights.map((r) => {
    const own = drawn.filter((d) => d.allowanceId === r.id);
    const counting = own.filter((d) => d.returnedAt === null).map((d) => ({ on: d.drawnOn, amount: d.amount }));
    return {
      ...leftOf(ruleOf(r), { from: row.termFrom, to: row.termTo }, counting, on),
      id: r.id,
      amount: r.amount,
      period: r.period,
      carriesOver: r.carriesOver,
      draws: own.map((d) => ({
        orderId: d.orderId,
        on: d.drawnOn,
        amount: d.amount,
        returned: d.returnedAt !== null,
        periodFrom: allowancePeriodAt(r.period, { from: row.termFrom, to: row.termTo }, d.drawnOn).from,
      })),
    };
  });
}
