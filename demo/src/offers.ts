// Offers of the demo: a draft, one that is waited for, one that is about to lapse, one that lapsed, one declined, one accepted.
import { and, asc, desc, eq, isNull } from 'drizzle-orm';
import type { Currency } from '#core/money.ts';
import { comingOffered, planOffered, totalsOfOffer, type OfferLine, type OfferState } from '#core/offers/index.ts';
import {
  addDays,
  asZone,
  DAY,
  HOUR,
  instant,
  localDateAt,
  startOfDay,
  type Instant,
  type LocalDate,
} from '#core/time/index.ts';
import { plansToDo } from '#server/catalogue/index.ts';
import { standardCard } from '#server/labour/index.ts';
import type { Tx } from '#server/platform/database.ts';
import {
  asset,
  assetClass,
  contact,
  customer,
  offer,
  orderLine,
  part,
  person,
  tax,
  workOrder,
} from '#server/tables.ts';
import { LISBON } from './scenario.ts';

type DemoOffer = {
  readonly customer: string;
  readonly className: string;
  readonly title: string;
  readonly text: string;
  readonly state: OfferState;
  /** Days ago it was begun, and sent; days from today until it lapses. */
  readonly begun: number;
  readonly sent: number | null;
  readonly until: number;
  readonly decision?: string;
};
const OFFERS: readonly DemoOffer[] = [
  {
    ...{
      customer: 'Serra Veterinary Institute',
      className: 'Steam steriliser',
      title: 'Renew the door gasket and the lock',
    },
    text: 'The steriliser stands still for half a day; we bring the parts with us.',
    ...{ state: 'declined', begun: 60, sent: 58, until: -30, decision: 'they buy a new steriliser' },
  },
  {
    ...{ customer: 'Pontal Marine Station', className: 'Water purification unit', title: 'Overhaul of the water unit' },
    ...{ text: '', state: 'sent', begun: 48, sent: 45, until: -14 },
  },
  {
    ...{
      customer: 'Costabela Blood Centre',
      className: 'Plasma freezer',
      title: 'Second compressor, fitted and tested',
    },
    text: 'Outside working hours, so that the store stays cold.',
    ...{ state: 'sent', begun: 9, sent: 8, until: 22 },
  },
  {
    ...{
      customer: 'Fontelo Fertility Clinic',
      className: 'Incubator',
      title: 'Calibration of the incubators, on a Saturday',
    },
    ...{ text: '', state: 'sent', begun: 27, sent: 26, until: 4 },
  },
  {
    ...{ customer: 'Serra Veterinary Institute', className: 'Ultra-low freezer', title: 'Replace the evaporator fan' },
    ...{ text: '', state: 'draft', begun: 1, sent: null, until: 30 },
  },
];

async function linesOf(
  tx: Tx,
  machine: typeof asset.$inferSelect,
  title: string,
  today: LocalDate,
): Promise<OfferLine[]> {
  const [card, plans, parts] = await Promise.all([
    standardCard(tx.db),
    plansToDo(tx.db),
    tx.db.select().from(part).orderBy(asc(part.id)).limit(6),
  ]);
  const plan = [...plans.values()][machine.id % Math.max(1, plans.size)];
  const prices = new Map(parts.map((p) => [p.id as number, p]));
  // The parts list is mostly of one maker’s.
  const own = (machine.maker === 'Tindrel' ? parts : []).slice(machine.id % 3, (machine.id % 3) + 2).map((p) => ({
    ...{ partId: p.id, number: p.number, name: p.name, unit: p.unit, thousandths: 1000 },
  }));
  const offered = { name: title, minutes: plan?.minutes ?? 60, crew: 1, parts: own };
  return [...planOffered(machine.id, offered, { card, day: today, prices }), ...comingOffered(card)];
}

async function standardRate(tx: Tx) {
  const [standard] = await tx.db.select().from(tax).where(eq(tax.isStandard, true));
  return { category: standard?.category ?? ('E' as const), hundredths: standard?.hundredths ?? 0 };
}

async function writeOffer(tx: Tx, it: DemoOffer, now: Instant, today: LocalDate, by: number | null): Promise<void> {
  const [owner] = await tx.db.select().from(customer).where(eq(customer.name, it.customer));
  if (!owner) throw new Error(`The demo offers something to ${it.customer}, who is no customer.`);
  const machines = await tx.db
    .select({ machine: asset })
    .from(asset)
    .innerJoin(assetClass, eq(assetClass.id, asset.classId))
    .where(and(eq(asset.customerId, owner.id), eq(assetClass.name, it.className)))
    .orderBy(asc(asset.id))
    .limit(1);
  const [to] = await tx.db
    .select()
    .from(contact)
    .where(eq(contact.customerId, owner.id))
    .orderBy(asc(contact.id))
    .limit(1);
  const rate = await standardRate(tx);
  const own = await Promise.all(machines.map(({ machine }) => linesOf(tx, machine, it.title, today)));
  const lines = own.flat().map((line) => ({ ...line, rate }));
  await tx.db.insert(offer).values({
    ...{ customerId: owner.id, contactId: to?.id ?? null, assetIds: machines.map((m) => m.machine.id), kind: 'repair' },
    ...{ title: it.title, text: it.text, currency: 'EUR' as Currency, lines, state: it.state, personId: by as never },
    withoutTax: totalsOfOffer(lines, () => rate).withoutTax,
    validUntil: addDays(today, it.until),
    createdAt: instant(now - it.begun * DAY),
    sentAt: it.sent === null ? null : instant(now - it.sent * DAY),
    sentTo: it.sent === null ? null : (to?.email ?? null),
    ...(it.decision && { decision: it.decision, decidedAt: instant(now - (it.begun - 20) * DAY) }),
  });
}

/** The newest finished repair that was chargeable came of an offer. */
async function writeAccepted(tx: Tx, now: Instant, today: LocalDate, by: number | null): Promise<number> {
  const [done] = await tx.db
    .select({ order: workOrder, assetId: orderLine.assetId })
    .from(workOrder)
    .innerJoin(orderLine, eq(orderLine.orderId, workOrder.id))
    .where(and(eq(workOrder.kind, 'repair'), eq(workOrder.stage, 'done'), isNull(workOrder.agreementId)))
    .orderBy(desc(workOrder.startedAt))
    .limit(1);
  const [machine] = done?.assetId ? await tx.db.select().from(asset).where(eq(asset.id, done.assetId)) : [];
  if (!done || !machine) return 0;
  const { order } = done;
  const [to] = await tx.db.select().from(contact).where(eq(contact.customerId, order.customerId)).limit(1);
  const rate = await standardRate(tx);
  const lines = (await linesOf(tx, machine, order.title, today)).map((line) => ({ ...line, rate }));
  const zone = asZone(LISBON);
  const morningOf = (at: Instant): Instant => instant(startOfDay(zone, localDateAt(zone, at)) + 10 * HOUR);
  const sentAt = morningOf(instant(order.startedAt - 4 * DAY));
  await tx.db.insert(offer).values({
    ...{ customerId: order.customerId, contactId: to?.id ?? null, assetIds: [machine.id], kind: 'repair', text: '' },
    ...{ title: order.title, currency: 'EUR' as Currency, lines, state: 'accepted', personId: by as never },
    ...{
      withoutTax: totalsOfOffer(lines, () => rate).withoutTax,
      validUntil: addDays(localDateAt(zone, sentAt), 30),
    },
    ...{ createdAt: instant(sentAt - DAY), sentAt, sentTo: to?.email ?? null, orderId: order.id },
    ...{ decidedAt: morningOf(instant(order.startedAt - DAY)), decision: `${to?.name ?? 'the customer'}, by mail` },
  });
  return 1;
}

export async function writeOffers(tx: Tx, now: Instant, today: LocalDate): Promise<number> {
  const [by] = await tx.db.select({ id: person.id }).from(person).where(eq(person.role, 'coordinator')).limit(1);
  for (const it of OFFERS) await writeOffer(tx, it, now, today, by?.id ?? null);
  return OFFERS.length + (await writeAccepted(tx, now, today, by?.id ?? null));
}
