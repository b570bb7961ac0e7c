// The demo's agreement types, and one agreement that was amended in mid-term.
import { asc, eq } from 'drizzle-orm';
import type { AgreementTypeTerms } from '#core/agreements/index.ts';
import type { AgreementId, PersonId } from '#core/ids.ts';
import { addMonths, asZone, type Instant, type LocalDate } from '#core/time/index.ts';
import { amendIn } from '#server/agreements/amend.ts';
import type { Tx } from '#server/platform/database.ts';
import type { Person } from '#server/platform/http.ts';
import { agreement, agreementEvent, agreementType, coverageLine, person } from '#server/platform/tables/index.ts';
import type { DemoAgreement } from './contracts.ts';
import { LISBON, REPAIR_DISCOUNT, SHARES, type AgreementPlan } from './scenario.ts';

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
  const asker = { ...who, id: who.id as PersonId, zone: asZone(LISBON) } as unknown as Person;
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
