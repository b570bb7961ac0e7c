// The demo's agreement types, and one agreement that was amended in mid-term.
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { AgreementTypeTerms } from '#core/agreements/index.ts';
import type { AgreementId } from '#core/ids.ts';
import { allowancePeriodAt } from '#core/entitlement/index.ts';
import { addMonths, asZone, localDateAt, type Instant, type LocalDate } from '#core/time/index.ts';
import { amendIn } from '#server/agreements/index.ts';
import type { Tx } from '#server/platform/database.ts';
import type { Person } from '#server/platform/http.ts';
import {
  agreement,
  agreementEvent,
  agreementType,
  allowance,
  allowanceDraw,
  coverageLine,
  orderLine,
  person,
  workOrder,
} from '#server/tables.ts';
import type { DemoAgreement } from './agreements.ts';
import { LISBON } from './scenario.ts';
import { REPAIR_DISCOUNT, SHARES, type AgreementPlan } from './scenario-agreements.ts';

const NAMES: Record<AgreementPlan['type'], string> = {
  full: 'Full care',
  shared: 'Parts shared',
  checks: 'Checks only',
  uptime: 'Uptime promise',
};

function termsOf(type: AgreementPlan['type']): AgreementTypeTerms {
  const { labour, parts, travel, kinds } = SHARES[type];
  return {
    months: type === 'checks' ? 12 : 24,
    noticeDays: type === 'uptime' ? 120 : 90,
    renewalMode: type === 'full' ? 'renews by itself' : 'to be renegotiated',
    renewalMonths: 12,
    billingPer: type === 'checks' ? 'month' : 'quarter',
    billingTiming: type === 'checks' ? 'in arrears' : 'in advance',
    reminder: '',
    shares: { labour, parts, consumables: 0, travel },
    discounts: type === 'checks' ? [{ element: 'labour', percent: REPAIR_DISCOUNT, kinds: ['repair'] }] : [],
    kinds: [...kinds],
    excludedCauses: ['misuse', 'consumable'],
    excludedParts: [],
    allowances: [],
  };
}

/** Types for every kind, and the pathology group’s agreement with another share of parts since half a year. */
export async function writeTerms(
  tx: Tx,
  agreements: readonly DemoAgreement[],
  now: Instant,
  today: LocalDate,
): Promise<void> {
  const types = (Object.keys(NAMES) as AgreementPlan['type'][]).map((type) => ({
    name: NAMES[type],
    terms: termsOf(type),
  }));
  await tx.db.insert(agreementType).values(types);
  const amended = agreements.find((a) => a.plan.customer === 'Alvaiz Pathology Group' && a.plan.type === 'shared');
  const [who] = await tx.db
    .select()
    .from(person)
    .where(eq(person.role, 'coordinator'))
    .orderBy(asc(person.id))
    .limit(1);
  if (!amended || !who) return;
  const id = amended.id as AgreementId;
  const [row] = await tx.db.select().from(agreement).where(eq(agreement.id, id));
  const lines = await tx.db.select({ id: coverageLine.id }).from(coverageLine).where(eq(coverageLine.agreementId, id));
  if (!row) return;
  const from = `${addMonths(today, -6).slice(0, 7)}-01` as LocalDate;
  const asker = { ...who, id: who.id, zone: asZone(LISBON) } as unknown as Person;
  const { told } = await amendIn(
    tx,
    row,
    {
      from,
      reason: 'parts at 60 % instead of 50 %, for a higher price',
      changes: [
        {
          act: 'change',
          lineIds: lines.map((l) => l.id),
          terms: { shares: { labour: 100, parts: 60, consumables: 0, travel: 100 } },
        },
      ],
      priceMinor: Math.round((row.priceMinor ?? 0) * 1.08),
    },
    asker,
    now,
  );
  await tx.db
    .insert(agreementEvent)
    .values({ agreementId: id, at: (now - 190 * 86_400_000) as Instant, personId: who.id, text: `${told}` });
}

/** What the past drew from the counted rights of the present period: call-outs by repairs, hours by their labour. */
export async function writeDraws(tx: Tx, today: LocalDate): Promise<void> {
  const rights = await tx.db
    .select({ right: allowance, from: agreement.termFrom, to: agreement.termTo })
    .from(allowance)
    .innerJoin(agreement, eq(agreement.id, allowance.agreementId));
  for (const { right, from, to } of rights) {
    const period = allowancePeriodAt(right.period, { from, to }, today);
    const orders = await tx.db
      .select({
        id: workOrder.id,
        lineId: orderLine.id,
        at: workOrder.startedAt,
        zone: workOrder.zone,
        minutes: orderLine.labourMinutes,
      })
      .from(workOrder)
      .innerJoin(orderLine, eq(orderLine.orderId, workOrder.id))
      .where(
        and(
          eq(workOrder.agreementId, right.agreementId),
          eq(workOrder.kind, 'repair'),
          inArray(workOrder.stage, ['done', 'settled']),
        ),
      )
      .orderBy(asc(workOrder.startedAt));
    let left = right.amount;
    for (const order of orders) {
      const drawnOn = localDateAt(order.zone, order.at);
      const amount = Math.min(left, right.unit === 'hours' ? (order.minutes ?? 0) : 1);
      if (drawnOn < period.from || amount === 0) continue;
      left -= amount;
      await tx.db
        .insert(allowanceDraw)
        .values({ allowanceId: right.id, orderId: order.id, orderLineId: order.lineId, drawnOn, amount, at: order.at });
    }
  }
}
