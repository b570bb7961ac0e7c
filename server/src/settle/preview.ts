// What a billing run would make: of the same lots, by the same function as the run itself.
import type { BodyOf } from '#api/contract.ts';
import type { BillingPreview, startBilling } from '#api/documents.ts';
import type { CustomerId } from '#core/ids.ts';
import type { Instant } from '#core/time/index.ts';
import type { Database, Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { aboutWords } from './about.ts';
import { settleSettings } from './billing-settings.ts';
import { customerNames } from './names.ts';
import { gather, nextPayers, type Gathered, type Left, type Wanted } from './billing.ts';

/** Customers of one transaction. */
const LOT = 60;
export const NAMED_AT_MOST = 200;
const DOCUMENTS_SHOWN = 100;

export type Asked = Omit<BodyOf<typeof startBilling>, 'requestKey'>;
export const wantedOf = ({ upTo, takesOrders, takesFees, orderId }: Asked, now: Instant): Wanted => ({
  ...{ upTo, takesOrders, takesFees, now },
  ...(orderId !== null && { orderId }),
});

export async function mustBeReady(db: Db, { takesOrders, takesFees, issues }: Asked): Promise<void> {
  const { billsFrom, seller } = await settleSettings(db);
  if (!takesOrders && !takesFees) refuse('missing', 'Say what is billed: orders, agreements, or both.', 'takesOrders');
  if (takesFees && billsFrom === null)
    refuse('not-ready', 'Say first from which day the house bills here: Setup, Billing.', 'takesFees');
  if (issues && seller === null)
    refuse('not-ready', 'Say first in whose name documents are sent: Setup, Billing.', 'issues');
}

/** Of whom, lot by lot. */
export async function* lotsOf(db: Db, customerId: CustomerId | null, wanted: Wanted, from: CustomerId) {
  if (customerId !== null) {
    if (from < customerId) yield [customerId];
    return;
  }
  for (let after = from; ;) {
    const lot = await nextPayers(db, after, wanted, LOT);
    if (lot.length === 0) return;
    yield lot;
    after = lot.at(-1) as CustomerId;
  }
}

/** What a run would make, added up, with its first documents and everything it would leave: by the very function that makes them. */
export async function previewBilling({ db }: Pick<Database, 'db'>, ask: Asked, now: Instant): Promise<BillingPreview> {
  const wanted = wantedOf(ask, now);
  await mustBeReady(db, { ...ask, issues: false });
  const sums = { documents: 0, lines: 0, withoutTax: 0, tax: 0, withTax: 0, silent: 0, left: 0 };
  const shown: Gathered['documents'][number][] = [];
  const left: Left[] = [];
  for await (const lot of lotsOf(db, ask.customerId, wanted, 0 as CustomerId)) {
    const made = await gather(db, lot, wanted);
    for (const { kind, lines, totals } of made.documents) {
      const sign = kind === 'invoice' ? 1 : -1;
      sums.documents += 1;
      sums.lines += lines.length;
      sums.withoutTax += sign * totals.withoutTax;
      sums.tax += sign * totals.tax;
      sums.withTax += sign * totals.withTax;
    }
    sums.silent += made.silent.length;
    sums.left += made.left.length;
    shown.push(...made.documents.slice(0, DOCUMENTS_SHOWN - shown.length));
    left.push(...made.left.slice(0, NAMED_AT_MOST - left.length));
  }
  const about = await aboutWords(
    db,
    shown.map((d) => d.about),
  );
  const names = await customerNames(db, [...shown.map((d) => d.customerId), ...left.map((l) => l.customerId)]);
  return {
    ...sums,
    currencies: [...new Set(shown.map((d) => d.currency as string))],
    shown: shown.map(({ kind, customerId, currency, about: of, lines, totals }) => ({
      ...{ kind, customer: { id: customerId, name: names.get(customerId) ?? '' }, currency, about: about(of) },
      ...{ lines: lines.length, first: lines[0]?.text ?? '', withoutTax: totals.withoutTax, withTax: totals.withTax },
    })),
    leftOut: left.map((l) => ({ ...l, customer: names.get(l.customerId) ?? '' })),
  };
}
