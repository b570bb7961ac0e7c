// What an offer begins with: machines with a job plan, past work, a message, another offer; and what like work took.
import { and, avg, count, desc, eq, inArray, isNotNull } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { OfferProposal, proposeOffer } from '#api/offers.ts';
import type { AssetId, CustomerId, MailId, OfferId, OrderId, PartId } from '#core/ids.ts';
import type { RateCard } from '#core/labour/index.ts';
import { plainSubject, saidIn } from '#core/mail/index.ts';
import { comingOffered, planOffered, workOffered, type OfferLine, type PartPrice } from '#core/offers/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { plansToDo } from '../catalogue/index.ts';
import { assetClass } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { cardFor } from '../labour/index.ts';
import { timePiece } from '../labour/tables.ts';
import { mail } from '../mailbox/tables.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import { location } from '../places/tables.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { otherCost } from '../settle/tables.ts';
import { usedOn } from '../stores/index.ts';
import { part } from '../stores/tables.ts';
import { machinesOf } from './queries.ts';
import { offer } from './tables.ts';

type Begun = Pick<OfferProposal, 'contactId' | 'title' | 'text' | 'orderId' | 'mailId'> & {
  readonly customerId: CustomerId | null;
  readonly assetIds: readonly AssetId[];
  readonly locationId: typeof offer.$inferSelect.locationId;
  readonly lines: readonly OfferLine[];
};
const BLANK: Begun = {
  ...{ customerId: null, assetIds: [], locationId: null, contactId: null, title: '', text: '', lines: [] },
  ...{ orderId: null, mailId: null },
};

async function pricesOf(db: Db, ids: readonly PartId[]): Promise<ReadonlyMap<number, PartPrice>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select()
    .from(part)
    .where(inArray(part.id, [...ids]));
  return new Map(rows.map((p) => [p.id, { listPrice: p.listPrice, cost: p.cost, taxId: p.taxId }]));
}

/** Machines of a call that is not covered: each by the job plan, coming once. */
async function ofMachines(
  db: Db,
  { assets = '', jobPlan, customer: asked }: Asked<typeof proposeOffer>['query'],
  card: RateCard | null,
  day: LocalDate,
): Promise<Begun> {
  const assetIds = assets === '' ? [] : assets.split(',').map((x) => Number(x) as AssetId);
  const [first] = assetIds.length === 0 ? [] : await db.select().from(asset).where(inArray(asset.id, assetIds));
  const plan = jobPlan ? (await plansToDo(db, [jobPlan])).get(jobPlan) : undefined;
  if (jobPlan && !plan) refuse('not-found', 'That job plan does not exist; choose another.', 'jobPlan');
  const prices = await pricesOf(db, plan?.kept.parts.map((p) => p.partId as PartId) ?? []);
  const on = assetIds.length === 0 ? [null] : assetIds;
  const lines = plan ? on.flatMap((id) => planOffered(id, plan.kept, { card, day, prices })) : [];
  return {
    ...BLANK,
    ...{ customerId: first?.customerId ?? asked ?? null, assetIds, title: plan?.name ?? '' },
    lines: [...lines, ...comingOffered(card)],
  };
}

/** Past work once more: the minutes that were entered, the parts that were used at today's prices, the other costs. */
async function ofOrder(db: Db, id: OrderId, card: RateCard | null, day: LocalDate): Promise<Begun> {
  const [order] = await db.select().from(workOrder).where(eq(workOrder.id, id));
  if (!order) refuse('not-found', 'That work order does not exist.');
  const [lines, pieces, used, others] = await Promise.all([
    db.select().from(orderLine).where(eq(orderLine.orderId, id)).orderBy(orderLine.id).limit(200),
    db
      .select()
      .from(timePiece)
      .where(and(eq(timePiece.orderId, id), eq(timePiece.kind, 'work'))),
    usedOn(db, [id]),
    db.select().from(otherCost).where(eq(otherCost.orderId, id)).orderBy(otherCost.id).limit(200),
  ]);
  const prices = await pricesOf(
    db,
    used.map((u) => u.part.id),
  );
  const proposed = lines.flatMap((line): OfferLine[] => {
    const entered = pieces.filter((p) => p.orderLineId === line.id).reduce((sum, p) => sum + p.minutes, 0);
    const minutes = entered > 0 ? entered : (line.labourMinutes ?? 0);
    const plain = { assetId: line.assetId, discount: 0, supplier: '' };
    return [
      ...(minutes > 0 ? [workOffered(line.assetId, order.title, minutes, card, day)] : []),
      ...used
        .filter((u) => u.used.orderLineId === line.id)
        .map(({ used: u, part: p }): OfferLine => ({
          ...{ ...plain, kind: 'part', text: `${p.number} ${p.name}`, quantity: u.thousandths, unit: p.unit },
          ...{ price: prices.get(p.id)?.listPrice ?? u.unitPrice, cost: prices.get(p.id)?.cost ?? u.unitCost },
          ...{ partId: p.id, taxId: p.taxId },
        })),
      ...others
        .filter((o) => o.orderLineId === line.id)
        .map((o): OfferLine => ({
          ...{ ...plain, kind: 'other', text: o.text, quantity: 1000, unit: 'piece', price: o.price, cost: o.cost },
          ...{ partId: null, taxId: o.taxId },
        })),
    ];
  });
  return {
    ...BLANK,
    ...{ customerId: order.customerId, contactId: order.callerId, title: order.title, orderId: id },
    assetIds: lines.flatMap((l) => l.assetId ?? []),
    locationId: lines.find((l) => l.assetId === null)?.locationId ?? null,
    lines: [...proposed, ...comingOffered(card)],
  };
}

async function ofMail(db: Db, id: MailId, card: RateCard | null): Promise<Begun> {
  const [row] = await db.select().from(mail).where(eq(mail.id, id));
  if (!row) refuse('not-found', 'That message does not exist.');
  return {
    ...BLANK,
    ...{ customerId: row.customerId, contactId: row.contactId, title: plainSubject(row.subject).slice(0, 120) },
    ...{ text: saidIn(row.text ?? '').slice(0, 2000), mailId: id, lines: comingOffered(card) },
  };
}

async function ofOffer(db: Db, id: OfferId): Promise<Begun> {
  const [held] = await db.select().from(offer).where(eq(offer.id, id));
  if (!held) refuse('not-found', 'That offer does not exist.');
  const { customerId, contactId, assetIds, locationId, title, text } = held;
  const lines = held.lines.map(({ rate: _rate, ...line }) => line);
  return { ...BLANK, customerId, contactId, assetIds, locationId, title, text, lines };
}

/** Of finished repairs of a class, the newest: what they took is like what this takes. */
const LIKE_WORK = 200;

/** Averages of like work on the class of each machine, where there is any. */
async function likeWork(db: Db, assetIds: readonly AssetId[]): Promise<OfferProposal['like']> {
  if (assetIds.length === 0) return [];
  const machines = await db
    .select({ id: asset.id, classId: asset.classId, className: assetClass.name })
    .from(asset)
    .innerJoin(assetClass, eq(assetClass.id, asset.classId))
    .where(inArray(asset.id, [...assetIds]));
  const took = new Map<number, Omit<OfferProposal['like'][number], 'assetId' | 'className'>>();
  for (const classId of new Set(machines.map((m) => m.classId))) {
    const newest = db
      .select({ minutes: orderLine.labourMinutes, partsCost: orderLine.partsCost, otherCost: orderLine.otherCost })
      .from(orderLine)
      .innerJoin(asset, eq(asset.id, orderLine.assetId))
      .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
      .where(
        and(
          ...[eq(asset.classId, classId), eq(workOrder.kind, 'repair')],
          ...[isNotNull(orderLine.labourMinutes), isNotNull(workOrder.doneAt)],
        ),
      )
      .orderBy(desc(orderLine.id))
      .limit(LIKE_WORK)
      .as('newest');
    const [row] = await db
      .select({
        ...{
          n: count(),
          minutes: avg(newest.minutes),
          partsCost: avg(newest.partsCost),
          otherCost: avg(newest.otherCost),
        },
      })
      .from(newest);
    if (row && row.n > 0) {
      const [minutes, partsCost, other] = [row.minutes, row.partsCost, row.otherCost].map((x) =>
        Math.round(Number(x ?? 0)),
      );
      took.set(classId, { count: row.n, minutes: minutes ?? 0, partsCost: partsCost ?? 0, otherCost: other ?? 0 });
    }
  }
  return machines.flatMap(({ id, classId, className }) => {
    const found = took.get(classId);
    return found ? [{ assetId: id, className, ...found }] : [];
  });
}

/** Whose prices it is written at, where that is known. */
async function whose(
  db: Db,
  { order, mail: of, assets = '', customer: asked }: Asked<typeof proposeOffer>['query'],
): Promise<CustomerId | null> {
  const first = assets === '' ? undefined : (Number(assets.split(',')[0]) as AssetId);
  const [found] = order
    ? await db.select({ id: workOrder.customerId }).from(workOrder).where(eq(workOrder.id, order))
    : of
      ? await db.select({ id: mail.customerId }).from(mail).where(eq(mail.id, of))
      : first === undefined
        ? []
        : await db.select({ id: asset.customerId }).from(asset).where(eq(asset.id, first));
  return found?.id ?? asked ?? null;
}

export async function proposalFor(
  db: Db,
  asked: Asked<typeof proposeOffer>['query'],
  day: LocalDate,
): Promise<OfferProposal> {
  const card = await cardFor(db, await whose(db, asked));
  const begun = asked.order
    ? await ofOrder(db, asked.order, card, day)
    : asked.mail
      ? await ofMail(db, asked.mail, card)
      : asked.offer
        ? await ofOffer(db, asked.offer)
        : await ofMachines(db, asked, card, day);
  const { customerId, assetIds, locationId, ...rest } = begun;
  const [[owner], [place], machines, like] = await Promise.all([
    customerId === null
      ? []
      : db.select({ id: customer.id, name: customer.name }).from(customer).where(eq(customer.id, customerId)),
    locationId === null
      ? []
      : db.select({ id: location.id, name: location.name }).from(location).where(eq(location.id, locationId)),
    machinesOf(db, assetIds),
    likeWork(db, assetIds),
  ]);
  return {
    ...rest,
    lines: rest.lines.map((line) => ({ ...line })),
    ...{ customer: owner ?? null, place: place ?? null, machines, like, currency: card?.currency ?? 'EUR' },
  };
}
