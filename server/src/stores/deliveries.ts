// What comes on a purchase order: into its store at the price agreed, held at once for whom it was bought, the rest for who waits.
import { and, asc, eq, inArray } from 'drizzle-orm';
import { group } from 'd3-array';
import type { BodyOf } from '#api/contract.ts';
import { purchaseNumber } from '#api/purchases.ts';
import type { receivePurchase } from '#api/purchases.ts';
import type { NeedId, OrderId, PartId, PurchaseId, StoreId } from '#core/ids.ts';
import { deliver, holdStock, receiveLine, toCome, type BoughtFor } from '#core/stores/index.ts';
import type { Instant } from '#core/time/index.ts';
import type { Database, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { accept, refuse, Refused } from '../platform/refuse.ts';
import { contentOf } from '../platform/request-key.ts';
import type { Write } from '../platform/writing.ts';
import { thenCover } from './covering.ts';
import { appendMoves, holdStocks, keepStocks, sentBefore, stockKey, type Asked } from './ledger.ts';
import { pricesOf } from './moving.ts';
import { keepNeeds, withHolds } from './needs.ts';
import { purchaseUnderLock, settleStage, type PurchaseLineRow } from './purchases.ts';
import { purchaseFor, purchaseLine } from './purchase-tables.ts';
import { part, partNeed, storeAct, type Served } from './tables.ts';

type Body = BodyOf<typeof receivePurchase>;
type Came = Body['lines'][number] & { readonly line: PurchaseLineRow; readonly at: string };
type Delivery = { id: number; for: { orderId: number; number: string; name: string; thousandths: number }[] };

/** The lines that something came of; refused: one of another order, one twice, or more than was ordered unless that is said. */
function linesThatCame(
  { stage }: { readonly stage: Parameters<typeof receiveLine>[0] },
  rows: readonly PurchaseLineRow[],
  { lines, more }: Body,
): Came[] {
  const seen = new Set<number>();
  const isNone = (l: Body['lines'][number]): boolean => l.thousandths === 0 && l.refused === 0;
  if (lines.every(isNone)) refuse('invalid', 'Say how many came, good or not.', 'lines.0.thousandths');
  return lines.flatMap((came, i) => {
    if (isNone(came)) return [];
    const at = `lines.${i}.`;
    const line = rows.find((l) => l.id === came.lineId);
    if (!line || seen.has(line.id)) refuse('not-found', 'That is no line of this order; look again.', `${at}lineId`);
    seen.add(line.id);
    const after = receiveLine(stage, line, { good: came.thousandths, bad: came.refused }, more);
    if (!after.ok)
      throw new Refused(
        after.refusals.map((r) => ({ ...r, ...(r.field === 'thousandths' && { field: `${at}thousandths` }) })),
      );
    if (came.refused > 0 && came.why === '') refuse('missing', 'Say what is wrong with them.', `${at}why`);
    return { ...came, line, at };
  });
}

/** Whom each line was bought for, in the turn in which they asked, under lock. */
async function boughtFor(tx: Tx, came: readonly Came[]) {
  const rows = await tx.db
    .select()
    .from(purchaseFor)
    .where(
      inArray(
        purchaseFor.lineId,
        came.map((c) => c.line.id),
      ),
    )
    .orderBy(asc(purchaseFor.needId))
    .for('update');
  const ids = rows.map((r) => r.needId);
  const needs =
    ids.length === 0
      ? []
      : await tx.db.select().from(partNeed).where(inArray(partNeed.id, ids)).orderBy(asc(partNeed.id)).for('update');
  const needOf = new Map(needs.map((n) => [n.id, n]));
  const of = group(rows, (r) => r.lineId);
  return {
    needOf,
    wanting: ({ line }: Came): BoughtFor[] =>
      (of.get(line.id) ?? []).flatMap(({ needId, thousandths }) => {
        const need = needOf.get(needId);
        return need ? [{ needId, orderId: need.orderId, thousandths, open: need.open }] : [];
      }),
  };
}

/** Holds what came for those it was bought for; what is still expected for them stays written down. */
async function serve(tx: Tx, storeId: StoreId, came: readonly Came[], serialTracked: ReadonlySet<PartId>) {
  const { needOf, wanting } = await boughtFor(tx, came);
  const stocks = await holdStocks(
    tx,
    came.map(({ line }) => ({ storeId, partId: line.partId })),
  );
  const given = new Map<NeedId, number>();
  const served: { orderId: OrderId; partId: PartId; thousandths: number }[] = [];
  for (const one of came) {
    const { partId, id: lineId } = one.line;
    const { held, left } = deliver(one.thousandths, wanting(one), serialTracked.has(partId));
    const key = stockKey(storeId, partId);
    for (const { needId, orderId, thousandths } of held) {
      const there = stocks.get(key);
      if (there) stocks.set(key, { ...there, ...accept(holdStock(there, thousandths)) });
      given.set(needId, (given.get(needId) ?? 0) + thousandths);
      served.push({ orderId, partId, thousandths });
    }
    const expected = new Map(left.map((l) => [l.needId, l.thousandths]));
    for (const { needId } of wanting(one)) {
      const which = and(eq(purchaseFor.lineId, lineId), eq(purchaseFor.needId, needId));
      const thousandths = expected.get(needId);
      if (thousandths === undefined) await tx.db.delete(purchaseFor).where(which);
      else await tx.db.update(purchaseFor).set({ thousandths }).where(which);
    }
  }
  await keepStocks(tx, stocks);
  const needs = await withHolds(
    tx,
    [...needOf.values()].filter((n) => given.has(n.id)),
  );
  await keepNeeds(
    tx,
    needs.map((before) => {
      const { need, holds } = before;
      const there = holds.find((h) => h.storeId === storeId)?.thousandths ?? 0;
      const here = { storeId, thousandths: there + (given.get(need.id) ?? 0) };
      return { before, need, holds: [...holds.filter((h) => h.storeId !== storeId), here] };
    }),
  );
  return served;
}

async function keepLines(tx: Tx, rows: readonly PurchaseLineRow[], came: readonly Came[]): Promise<PurchaseLineRow[]> {
  const after: PurchaseLineRow[] = [];
  for (const line of rows) {
    const own = came.find((c) => c.line.id === line.id);
    if (!own) {
      after.push(line);
      continue;
    }
    const received = line.received + own.thousandths;
    const now = { ...line, received, short: own.thousandths > 0 ? null : line.short };
    const row = {
      ...now,
      ...{ toCome: toCome(now), refused: line.refused + own.refused, version: line.version + 1 },
    };
    const { id, ...rest } = row;
    await tx.db.update(purchaseLine).set(rest).where(eq(purchaseLine.id, id));
    after.push(row);
  }
  return after;
}

const saidWrong = (came: readonly Came[]): string =>
  came
    .filter((c) => c.refused > 0)
    .map((c) => c.why)
    .join('; ');

/** Takes what came on a purchase order, once however often it is sent; says for whom it is. */
export async function receiveOn(
  database: Database,
  write: Write,
  who: Person,
  id: PurchaseId,
  { requestKey, ...body }: Body,
  now: Instant,
): Promise<Delivery> {
  const requestContent = contentOf({ purchase: id, ...body });
  const actId = await thenCover(database, now, (follow) =>
    write(async (tx, told) => {
      const { order, lines } = await purchaseUnderLock(tx, id);
      const sent = await sentBefore(tx, requestKey, requestContent);
      if (sent !== null) return sent;
      const came = linesThatCame(order, lines, { requestKey, ...body });
      const partIds = came.map((c) => c.line.partId);
      const parts = await tx.db.select().from(part).where(inArray(part.id, partIds));
      const priceOf = await pricesOf(tx, partIds);
      const bySerial = new Set(parts.filter((p) => p.serialTracked).map((p) => p.id));
      const good = came.filter((c) => c.thousandths > 0);
      const wrong = saidWrong(came);
      const { id: made } = await appendMoves(
        tx,
        {
          ...{ kind: 'receipt', personId: who.id, orderId: null, at: now, requestKey, requestContent, purchaseId: id },
          text: [body.text, wrong && `wrong: ${wrong}`]
            .filter((x) => x)
            .join('; ')
            .slice(0, 200),
        },
        good.map(({ line, thousandths, serials, at }): Asked => {
          const unitPrice = line.unitPrice ?? priceOf(line.partId);
          return {
            ...{ storeId: order.storeId, partId: line.partId, serials, unitPrice, purchaseLineId: line.id },
            ...{ move: { kind: 'receipt', thousandths, unitPrice }, field: at },
          };
        }),
      );
      const served = good.length === 0 ? [] : await serve(tx, order.storeId, good, bySerial);
      const named = served.map((s): Served => {
        const of = parts.find((p) => p.id === s.partId);
        return { ...s, number: of?.number ?? '', name: of?.name ?? '' };
      });
      await tx.db.update(storeAct).set({ served: named }).where(eq(storeAct.id, made));
      await settleStage(tx, order, await keepLines(tx, lines, came));
      await follow(tx, { parts: good.map((c) => c.line.partId) });
      await follow(tx, { marks: served.map((s) => s.orderId) });
      const n = good.length;
      told({
        subject: 'purchase',
        id,
        text: `${n} ${n === 1 ? 'part' : 'parts'} came on ${purchaseNumber(id)}${wrong && `; wrong: ${wrong}`}`,
      });
      return made;
    }),
  );
  const [act] = await database.db.select({ served: storeAct.served }).from(storeAct).where(eq(storeAct.id, actId));
  return { id: actId, for: (act?.served ?? []).map(({ partId: _, ...s }) => s) };
}
