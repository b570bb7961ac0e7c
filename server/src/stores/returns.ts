// What goes back: old parts from the field into quarantine, and goods sent to a supplier or maker with what came of it.
import { group, sum } from 'd3-array';
import { and, asc, count, desc, eq, inArray, lt } from 'drizzle-orm';
import type { Asked, BodyOf } from '#api/contract.ts';
import { orderNumber } from '#api/shapes.ts';
import type * as contracts from '#api/returns.ts';
import type { ReturnOut } from '#api/returns.ts';
import type { StoreActId, StoreId, SupplierReturnId } from '#core/ids.ts';
import { seesMoney, type Role } from '#core/people.ts';
import { answerReturn, THOUSANDTHS } from '#core/stores/index.ts';
import type { Instant } from '#core/time/index.ts';
import { workOrder } from '../orders/tables.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import type { Write } from '../platform/writing.ts';
import { thenCover } from './covering.ts';
import { appendMoves, type Asked as ToAppend } from './ledger.ts';
import { once } from './moving.ts';
import { supplier, supplierReturn } from './purchase-tables.ts';
import { moveSerial, part, stockMove, store, storeAct } from './tables.ts';

async function mustBeQuarantine(tx: Tx, id: StoreId): Promise<void> {
  const [row] = await tx.db.select({ kind: store.kind, name: store.name }).from(store).where(eq(store.id, id));
  if (!row) refuse('not-found', 'That store does not exist; choose another.', 'storeId');
  if (row.kind !== 'quarantine')
    refuse('invalid', `${row.name} is no quarantine; old parts lie apart from those for work.`, 'storeId');
}

/** It was used up with what it was built into, so it comes back worth nothing; what a maker gives for it is won. */
export const takeOld = (
  database: Database,
  write: Write,
  who: Person,
  body: BodyOf<typeof contracts.takeOldPart>,
  now: Instant,
): Promise<{ id: StoreActId }> =>
  once(database, write, body, { kind: 'return', personId: who.id, at: now }, async (tx, told, act) => {
    const { storeId, orderId, partId, thousandths, serials, reason, text } = body;
    await mustBeQuarantine(tx, storeId);
    const [order] = await tx.db.select({ id: workOrder.id }).from(workOrder).where(eq(workOrder.id, orderId));
    if (!order) refuse('not-found', 'That work order does not exist; choose another.', 'orderId');
    const said = `${reason === 'core' ? 'old part for its core' : 'old part under warranty'}${text && `: ${text}`}`;
    const { id } = await appendMoves(tx, { ...act, orderId, text: said }, [
      { storeId, partId, serials, move: { kind: 'return', thousandths, money: 0 }, field: '' },
    ]);
    told({ subject: 'order', id: orderId, text: `${said}, taken in for ${orderNumber(orderId)}` });
    return id;
  });

export const sendBackTo = (
  database: Database,
  write: Write,
  who: Person,
  body: BodyOf<typeof contracts.sendBack>,
  now: Instant,
): Promise<{ id: StoreActId }> =>
  once(database, write, body, { kind: 'to supplier', personId: who.id, at: now }, async (tx, told, act) => {
    const { storeId, supplierId, reason, reference, lines } = body;
    const [to] = await tx.db.select({ name: supplier.name }).from(supplier).where(eq(supplier.id, supplierId));
    if (!to) refuse('not-found', 'That supplier does not exist; choose another.', 'supplierId');
    const { id, moves } = await appendMoves(
      tx,
      act,
      lines.map(({ partId, thousandths, serials }, i): ToAppend => ({
        ...{ storeId, partId, serials, move: { kind: 'to supplier', thousandths }, field: `lines.${i}.` },
      })),
    );
    const worth = -sum(
      moves.filter((m) => m.kind === 'to supplier'),
      (m) => m.money,
    );
    await tx.db.insert(supplierReturn).values({
      ...{ supplierId, storeId, actId: id, reason, reference, stage: 'sent', worth: worth === 0 ? 0 : worth },
    });
    told({
      subject: 'store',
      id: storeId,
      text: `sent ${lines.length} ${lines.length === 1 ? 'part' : 'parts'} back to ${to.name}: ${reason}`,
    });
    return id;
  });

type Went = Awaited<ReturnType<typeof wentWith>>[number];

/** What went with some acts, and by which serials. */
async function wentWith(db: Db, acts: readonly StoreActId[]) {
  if (acts.length === 0) return [];
  const rows = await db
    .select({ move: stockMove, part })
    .from(stockMove)
    .innerJoin(part, eq(part.id, stockMove.partId))
    .where(and(inArray(stockMove.actId, [...acts]), eq(stockMove.kind, 'to supplier')))
    .orderBy(asc(stockMove.id));
  const ids = rows.map((r) => r.move.id);
  const serials =
    ids.length === 0
      ? []
      : await db.select().from(moveSerial).where(inArray(moveSerial.moveId, ids)).orderBy(asc(moveSerial.serial));
  const of = group(serials, (s) => s.moveId);
  return rows.map((r) => ({ ...r, serials: (of.get(r.move.id) ?? []).map((s) => s.serial) }));
}

/** What is replaced comes back with exactly the money that left; serials of what is kept so stand in the order of what went. */
function replacing(went: readonly Went[], serials: readonly string[]): ToAppend[] {
  const units = sum(went, (w) => (w.part.serialTracked ? -w.move.thousandths / THOUSANDTHS : 0));
  if (serials.length !== units)
    refuse('missing', units === 0 ? 'No serials are kept of it; leave them out.' : `Give ${units} serials.`, 'serials');
  let from = 0;
  return went.map((w): ToAppend => {
    const n = w.part.serialTracked ? -w.move.thousandths / THOUSANDTHS : 0;
    const own = serials.slice(from, from + n);
    from += n;
    return {
      ...{ storeId: w.move.storeId, partId: w.move.partId, serials: own, field: '', serialField: 'serials' },
      move: { kind: 'return', thousandths: -w.move.thousandths, money: -w.move.money },
    };
  });
}

export const answerReturnOf = (
  database: Database,
  write: Write,
  who: Person,
  id: SupplierReturnId,
  body: BodyOf<typeof contracts.answerReturn>,
  now: Instant,
): Promise<void> =>
  thenCover(database, now, (follow) =>
    write(async (tx, told) => {
      const [row] = await tx.db.select().from(supplierReturn).where(eq(supplierReturn.id, id)).for('update');
      if (!row) refuse('not-found', 'That return does not exist.');
      if (row.version !== body.version) stale({ id, version: row.version });
      if (body.credit !== null && !seesMoney(who.role))
        refuse('not-allowed', 'Credits are entered by the office; leave it to them.', 'credit');
      const { stage, credit, variance } = accept(answerReturn(row.stage, row.worth, body));
      if (stage === 'replaced') {
        const went = await wentWith(tx.db, [row.actId]);
        const { id: actId } = await appendMoves(
          tx,
          {
            ...{ kind: 'return', personId: who.id, orderId: null, text: body.text || 'replaced by the supplier' },
            ...{ at: now, requestKey: null, requestContent: null },
          },
          replacing(went, body.serials),
        );
        await follow(tx, { parts: [...new Set(went.map((w) => w.part.id))] });
        told({ subject: 'store', id: row.storeId, text: `replaced by the supplier (act ${actId})` });
      } else if (body.serials.length > 0)
        refuse('unsupported', 'Only what is replaced has new serials; leave them out.', 'serials');
      await tx.db
        .update(supplierReturn)
        .set({
          ...{ stage, credit, variance, answer: body.text, answeredBy: who.id, answeredAt: now },
          version: row.version + 1,
        })
        .where(eq(supplierReturn.id, id));
      told({ subject: 'store', id: row.storeId, text: `what was sent back was ${stage}` });
    }),
  );

type Query = Asked<typeof contracts.listReturns>['query'];

export async function returnsShown(db: Db, { stage, after, limit = 60 }: Query, role: Role) {
  const which = stage === undefined ? undefined : eq(supplierReturn.stage, stage);
  const [[open], rows] = await Promise.all([
    db.select({ n: count() }).from(supplierReturn).where(eq(supplierReturn.stage, 'sent')),
    db
      .select({ of: supplierReturn, to: supplier.name, from: store.name, act: storeAct, by: person.name })
      .from(supplierReturn)
      .innerJoin(supplier, eq(supplier.id, supplierReturn.supplierId))
      .innerJoin(store, eq(store.id, supplierReturn.storeId))
      .innerJoin(storeAct, eq(storeAct.id, supplierReturn.actId))
      .leftJoin(person, eq(person.id, storeAct.personId))
      .where(and(which, after === undefined ? undefined : lt(supplierReturn.id, Number(after) as SupplierReturnId)))
      .orderBy(desc(supplierReturn.id))
      .limit(limit + 1),
  ]);
  const shown = rows.slice(0, limit);
  const went = group(
    await wentWith(
      db,
      shown.map((r) => r.of.actId),
    ),
    (w) => w.move.actId,
  );
  const money = seesMoney(role);
  return {
    items: shown.map(({ of, to, from, act, by }): ReturnOut => ({
      ...{ id: of.id, version: of.version, reason: of.reason, stage: of.stage, reference: of.reference },
      ...{ supplier: { id: of.supplierId, name: to }, store: { id: of.storeId, name: from }, text: act.text },
      lines: (went.get(of.actId) ?? []).map((w) => ({
        part: {
          ...{ id: w.part.id, name: w.part.name, number: w.part.number, unit: w.part.unit },
          serialTracked: w.part.serialTracked,
        },
        ...{ thousandths: -w.move.thousandths, serials: w.serials },
      })),
      ...{ sentAt: act.at, by, answer: of.answer, answeredAt: of.answeredAt },
      worth: money ? of.worth : null,
      credit: money ? of.credit : null,
      variance: money && of.stage !== 'sent' ? of.variance : null,
    })),
    open: open?.n ?? 0,
    next: rows.length > limit ? `${shown.at(-1)?.of.id}` : null,
  };
}
