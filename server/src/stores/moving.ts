// What people do to stock: receive, carry over, throw away; each act once, however often it is sent.
import { and, eq, inArray, max } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { receiveStock, scrapStock, transferStock } from '#api/stock.ts';
import type { PartId, StoreActId, StoreId } from '#core/ids.ts';
import { seesMoney } from '#core/people.ts';
import type { Instant } from '#core/time/index.ts';
import { isTaken, type Database, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse, Refused } from '../platform/refuse.ts';
import { contentOf } from '../platform/request-key.ts';
import type { Told, Write } from '../platform/writing.ts';
import { noteArrivals } from './arrivals.ts';
import { thenCover } from './covering.ts';
import { appendMoves, carried, sentBefore, type Act, type Asked } from './ledger.ts';
import { part, stockMove, store } from './tables.ts';

type Done = { readonly id: StoreActId };

/** Says of which parts more is free now: whoever waits for them is served after it. */
type Freed = (tx: Tx, parts: readonly PartId[]) => Promise<void>;

/** Does something once for a request key: sent again it gives the first act, sent twice at the same time as well. */
export async function once(
  database: Database,
  write: Write,
  body: { readonly requestKey: string; readonly text: string },
  by: Pick<Act, 'kind' | 'personId' | 'at'>,
  work: (tx: Tx, told: Told, act: Act, freed: Freed) => Promise<StoreActId>,
): Promise<Done> {
  const { requestKey, ...ask } = body;
  const requestContent = contentOf(ask);
  const act = { ...by, orderId: null, text: body.text, requestKey, requestContent };
  try {
    return await thenCover(database, by.at, (follow) =>
      write(async (tx, told) => {
        const sent = await sentBefore(tx, requestKey, requestContent);
        const freed: Freed = (of, parts) => follow(of, { parts: [...new Set(parts)] });
        return { id: sent ?? (await work(tx, told, act, freed)) };
      }),
    );
  } catch (error) {
    // Sent by two at once, what the first did stands in the way of the second: it is the same all the same.
    if (!isTaken(error) && !(error instanceof Refused)) throw error;
    const sent = await database.transact((tx) => sentBefore(tx, requestKey, requestContent));
    if (sent === null) throw error;
    return { id: sent };
  }
}

/** What one costs where nobody says: what was last paid anywhere, else what the parts list has. */
export async function pricesOf(tx: Pick<Tx, 'db'>, ids: readonly PartId[]): Promise<(id: PartId) => number> {
  const last = tx.db
    .select({ id: max(stockMove.id) })
    .from(stockMove)
    .where(and(inArray(stockMove.partId, [...ids]), eq(stockMove.kind, 'receipt')))
    .groupBy(stockMove.partId);
  const [listed, paid] = [
    await tx.db
      .select({ id: part.id, price: part.cost })
      .from(part)
      .where(inArray(part.id, [...ids])),
    await tx.db
      .select({ id: stockMove.partId, price: stockMove.unitPrice })
      .from(stockMove)
      .where(inArray(stockMove.id, last)),
  ];
  const prices = new Map([...listed, ...paid].map(({ id, price }) => [id, price]));
  return (id) => prices.get(id) ?? 0;
}

async function nameOf(tx: Tx, id: StoreId): Promise<string> {
  const [row] = await tx.db.select({ name: store.name }).from(store).where(eq(store.id, id));
  return row?.name ?? '';
}

const linesSaid = (n: number): string => `${n} ${n === 1 ? 'part' : 'parts'}`;

export const receive = (
  database: Database,
  write: Write,
  who: Person,
  body: BodyOf<typeof receiveStock>,
  now: Instant,
): Promise<Done> =>
  once(database, write, body, { kind: 'receipt', personId: who.id, at: now }, async (tx, told, act, freed) => {
    const { storeId, lines } = body;
    if (!seesMoney(who.role) && lines.some((l) => l.unitPrice !== null))
      refuse('not-allowed', 'Prices are entered by the office; leave them empty.', 'lines');
    const priceOf = await pricesOf(tx, [...new Set(lines.map((l) => l.partId))]);
    const { id } = await appendMoves(
      tx,
      act,
      lines.map(({ partId, thousandths, serials, unitPrice }, i): Asked => {
        const price = unitPrice ?? priceOf(partId);
        const move = { kind: 'receipt', thousandths, unitPrice: price } as const;
        return { storeId, partId, serials, move, unitPrice: price, field: `lines.${i}.` };
      }),
    );
    await freed(
      tx,
      lines.map((l) => l.partId),
    );
    told({
      subject: 'store',
      id: storeId,
      text: `received ${linesSaid(lines.length)} in ${await nameOf(tx, storeId)}`,
    });
    return id;
  });

export const transfer = (
  database: Database,
  write: Write,
  who: Person,
  body: BodyOf<typeof transferStock>,
  now: Instant,
): Promise<Done> =>
  once(database, write, body, { kind: 'transfer', personId: who.id, at: now }, async (tx, told, act, freed) => {
    const { fromId, toId, lines } = body;
    if (fromId === toId) refuse('invalid', 'It is there already; choose another store.', 'toId');
    const { id } = await appendMoves(
      tx,
      act,
      lines.flatMap((line, i) => carried(fromId, toId, { ...line, field: `lines.${i}.` })),
    );
    const [from, to] = [await nameOf(tx, fromId), await nameOf(tx, toId)];
    await noteArrivals(tx, id, [toId], who, now);
    await freed(
      tx,
      lines.map((l) => l.partId),
    );
    told({ subject: 'store', id: fromId, text: `${linesSaid(lines.length)} carried from ${from} to ${to}` });
    return id;
  });

export const scrap = (
  database: Database,
  write: Write,
  who: Person,
  body: BodyOf<typeof scrapStock>,
  now: Instant,
): Promise<Done> =>
  once(database, write, body, { kind: 'scrap', personId: who.id, at: now }, async (tx, told, act) => {
    const { storeId, text, lines } = body;
    const { id } = await appendMoves(
      tx,
      act,
      lines.map(({ partId, thousandths, serials }, i): Asked => ({
        ...{ storeId, partId, serials, move: { kind: 'scrap', thousandths }, field: `lines.${i}.` },
      })),
    );
    told({
      subject: 'store',
      id: storeId,
      text: `threw ${linesSaid(lines.length)} away from ${await nameOf(tx, storeId)}: ${text}`,
    });
    return id;
  });
