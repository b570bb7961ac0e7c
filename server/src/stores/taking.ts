// What a use of a part does to stock: it goes out of a store with its need, and comes back at its worth where it is taken back.
import { and, eq, inArray, sql } from 'drizzle-orm';
import type { OrderId, OrderLineId, PartId, StoreId, UsedPartId } from '#core/ids.ts';
import { timesRatio } from '#core/money.ts';
import { THOUSANDTHS, worthOfReturn } from '#core/stores/index.ts';
import type { Instant } from '#core/time/index.ts';
import type { Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { appendMoves, type Act, type KnownPart } from './ledger.ts';
import { unusedOfLine, usedOfLine } from './needs.ts';
import { stockMove } from './tables.ts';

export type Use = {
  readonly id: UsedPartId;
  readonly orderId: OrderId;
  readonly lineId: OrderLineId;
  readonly partId: PartId;
  readonly thousandths: number;
  readonly serial: string | null;
  readonly storeId: StoreId | null;
  /** What is written of what one cost; what it was worth in its store is written over it. */
  readonly unitCost: number;
};

const actOf = (kind: 'issue' | 'return', who: Person, orderId: OrderId, at: Instant): Act => ({
  ...{ kind, personId: who.id, orderId, text: '', at, requestKey: null, requestContent: null },
});
const serialsOf = ({ serial }: Use): string[] => (serial === null ? [] : [serial]);
const FIELDS = { field: '', serialField: 'serial' } as const;

/** A use takes the part out of its store, what was held for it first, and costs what it was worth there. Gives whether a need is met by it. */
export async function take(tx: Tx, who: Person, use: Use, known: KnownPart, now: Instant): Promise<boolean> {
  const { storeId, partId, thousandths } = use;
  const met = await usedOfLine(tx, use.lineId, partId, storeId, thousandths);
  if (storeId === null) return met !== null;
  const { moves } = await appendMoves(tx, actOf('issue', who, use.orderId, now), [
    {
      ...{ storeId, partId, serials: serialsOf(use), usedPartId: use.id, known, ...FIELDS },
      move: { kind: 'issue', thousandths, held: met?.held ?? 0 },
    },
  ]);
  const money = -(moves[0]?.money ?? 0);
  const unitCost = timesRatio(money, BigInt(THOUSANDTHS), BigInt(thousandths));
  if (unitCost !== use.unitCost)
    await tx.connection.query('UPDATE used_part SET unit_cost = ? WHERE id = ?', [unitCost, use.id]);
  return met !== null;
}

/** What of a use is out of the store still. */
async function outOf(tx: Tx, id: UsedPartId): Promise<{ thousandths: number; money: number }> {
  const [row] = await tx.db
    .select({ thousandths: sql<string>`-sum(${stockMove.thousandths})`, money: sql<string>`-sum(${stockMove.money})` })
    .from(stockMove)
    .where(and(eq(stockMove.usedPartId, id), inArray(stockMove.kind, ['issue', 'return'])));
  return { thousandths: Number(row?.thousandths ?? 0), money: Number(row?.money ?? 0) };
}

/** A use that is taken back, or is another one: its parts lie in their store again, and the line wants them. */
export async function giveBack(tx: Tx, who: Person, use: Use, now: Instant): Promise<void> {
  const { storeId, partId, thousandths } = use;
  await unusedOfLine(tx, use.lineId, partId, thousandths);
  if (storeId === null) return;
  const money = worthOfReturn(await outOf(tx, use.id), thousandths);
  await appendMoves(tx, actOf('return', who, use.orderId, now), [
    {
      ...{ storeId, partId, serials: serialsOf(use), usedPartId: use.id, ...FIELDS },
      move: { kind: 'return', thousandths, money },
    },
  ]);
}
