// What goes back in the demo: a wrong part that has no answer yet, one that was credited, and a unit that failed and lies apart.
import { and, asc, desc, eq, inArray, isNotNull, like } from 'drizzle-orm';
import { answerReturn, type ReturnReason } from '#core/stores/index.ts';
import { DAY, instant, type Instant } from '#core/time/index.ts';
import type { Tx } from '#server/platform/database.ts';
import { appendMoves, type AskedMove } from '#server/stores/index.ts';
import {
  asset,
  orderLine,
  part,
  person,
  store,
  supplier,
  supplierReturn,
  usedPart,
  workOrder,
} from '#server/tables.ts';

type Sent = {
  readonly number: string;
  readonly to: string;
  readonly reason: ReturnReason;
  readonly reference: string;
  readonly daysAgo: number;
  /** Cents that they gave for it; null: they did not answer yet. */
  readonly credit: number | null;
};
const SENT: readonly Sent[] = [
  {
    ...{ number: 'PL-PS-24', to: 'Ondrel Supply', reason: 'not needed', reference: 'R-20881' },
    ...{ daysAgo: 30, credit: 8000 },
  },
  {
    ...{ number: 'ST-LM-08', to: 'Quarvo Parts', reason: 'wrong or broken', reference: 'Q-R 117' },
    ...{ daysAgo: 3, credit: null },
  },
];
/** A unit that was built in on a repair of the last weeks, and the one that came out. */
const UNIT = { number: 'TN-CM-K2', out: 'TN-CM-K2-0871', models: 'ULF-%' };

/** On the newest repair of such a machine a unit out of the depot was built in: before its stock is written. */
export async function writeUnitUsed({ db }: Tx): Promise<void> {
  const [at] = await db
    .select({ order: workOrder, lineId: orderLine.id })
    .from(workOrder)
    .innerJoin(orderLine, eq(orderLine.orderId, workOrder.id))
    .innerJoin(asset, and(eq(asset.id, orderLine.assetId), like(asset.model, UNIT.models)))
    .where(
      and(inArray(workOrder.stage, ['done', 'settled']), eq(workOrder.kind, 'repair'), isNotNull(workOrder.doneAt)),
    )
    .orderBy(desc(workOrder.doneAt), asc(workOrder.id));
  const [known] = await db.select().from(part).where(eq(part.number, UNIT.number));
  if (!at || !known) return;
  await db.insert(usedPart).values({
    ...{ orderId: at.order.id, orderLineId: at.lineId, partId: known.id, thousandths: 1000, serial: unitIn(0) },
    ...{ unitPrice: known.listPrice, unitCost: known.cost, personId: at.order.technicianId },
    at: at.order.doneAt as Instant,
  });
}
const unitIn = (nth: number): string => `${UNIT.number}-${1000 + nth}`;

export async function writeReturns(tx: Tx, now: Instant): Promise<void> {
  const { db } = tx;
  const [keeper] = await db.select().from(person).where(eq(person.role, 'storekeeper')).orderBy(asc(person.id));
  const [from] = await db.select().from(store).where(eq(store.kind, 'depot')).orderBy(asc(store.id));
  const [apart] = await db.select().from(store).where(eq(store.kind, 'quarantine')).orderBy(asc(store.id));
  if (!from || !apart || !keeper) return;
  const act = { personId: keeper.id, orderId: null, text: '', requestKey: null, requestContent: null };
  const partOf = new Map((await db.select().from(part)).map((p) => [p.number, p]));
  for (const s of SENT) {
    const [to] = await db.select().from(supplier).where(eq(supplier.name, s.to));
    const at = instant(now - s.daysAgo * DAY);
    const move: AskedMove = {
      ...{ storeId: from.id, partId: partOf.get(s.number)?.id as never, serials: [], field: '' },
      move: { kind: 'to supplier', thousandths: 1000 },
    };
    const { id: actId, moves } = await appendMoves(tx, { ...act, kind: 'to supplier', at }, [move]);
    const worth = -(moves[0]?.money ?? 0);
    const answer = s.credit === null ? null : answerReturn('sent', worth, { stage: 'credited', credit: s.credit });
    await db.insert(supplierReturn).values({
      ...{ supplierId: to?.id as never, storeId: from.id, actId, reason: s.reason, reference: s.reference, worth },
      stage: 'sent',
      ...(answer?.ok && { ...answer.value, answeredBy: keeper.id, answeredAt: instant(at + 9 * DAY) }),
    });
  }
  const [used] = await db
    .select()
    .from(usedPart)
    .where(eq(usedPart.serial, unitIn(0)));
  if (!used) return;
  const text = 'old part under warranty: windings short';
  await appendMoves(tx, { ...act, kind: 'return', orderId: used.orderId, text, at: instant(now - DAY) }, [
    {
      ...{ storeId: apart.id, partId: used.partId, serials: [UNIT.out], field: '' },
      move: { kind: 'return', thousandths: 1000, money: 0 },
    },
  ]);
}
