// Purchase orders: how much of what to buy from whom, what may be done with an order, and what a delivery does to it.
import type { NeedId, OrderId, SupplierId } from '../ids.ts';
import { decided, refusal, refused, type Decided, type Refusal } from '../refusal.ts';
import { addDays, type LocalDate } from '../time/index.ts';
import { priceOf, sayQuantity, THOUSANDTHS } from './part.ts';

export const PURCHASE_STAGES = ['draft', 'sent', 'closed', 'called off'] as const;
export type PurchaseStage = (typeof PURCHASE_STAGES)[number];

/** Where a part may be bought. */
export type Offered = {
  readonly supplierId: SupplierId;
  /** Minor units for one unit; null: nobody said. */
  readonly unitPrice: number | null;
  /** Thousandths of a unit in one pack. */
  readonly pack: number;
  readonly leadDays: number;
  readonly preferred: boolean;
};

/** Of whom a part is bought by itself: the preferred one, else the cheapest, those without a price last; ties by lead time and age. */
export function usualSupplier(offers: readonly Offered[]): Offered | null {
  const rank = (o: Offered): readonly number[] => [
    ...[o.preferred ? 0 : 1, o.unitPrice ?? Number.MAX_SAFE_INTEGER, o.leadDays, o.supplierId],
  ];
  const before = (a: Offered, b: Offered): number => {
    const [x, y] = [rank(a), rank(b)];
    const at = x.findIndex((n, i) => n !== y[i]);
    return at < 0 ? 0 : (x[at] as number) - (y[at] as number);
  };
  return [...offers].sort(before)[0] ?? null;
}

/** In whole packs, no less than is asked for. Thousandths. */
export function inPacks(thousandths: number, pack: number): number {
  if (pack <= 0) throw new Error('A pack holds something.');
  return Math.ceil(thousandths / pack) * pack;
}

/** The day on which what is ordered today is here. */
export const hereOn = (today: LocalDate, leadDays: number): LocalDate => addDays(today, leadDays);

export type PurchaseLine = {
  readonly thousandths: number;
  /** Minor units for one; null: not agreed yet. */
  readonly unitPrice: number | null;
  readonly received: number;
  /** Why the rest does not come; null: it does. */
  readonly short: string | null;
};

/** What is still to come of a line. */
export const toCome = ({ thousandths, received, short }: PurchaseLine): number =>
  short === null ? Math.max(0, thousandths - received) : 0;

/** What an order comes to, in minor units; lines without a price count nothing and are told apart. */
export function totalOfPurchase(lines: readonly Pick<PurchaseLine, 'thousandths' | 'unitPrice'>[]): {
  readonly total: number;
  readonly withoutPrice: number;
} {
  return {
    total: lines.reduce((sum, l) => sum + (l.unitPrice === null ? 0 : priceOf(l.thousandths, l.unitPrice)), 0),
    withoutPrice: lines.filter((l) => l.unitPrice === null).length,
  };
}

/**
 * What stands against sending an order: nothing on it, a line without a price, or a total above the limit that nobody approved.
 * `limit` in minor units, null: nothing has to be approved.
 */
export function againstSending(
  lines: readonly Pick<PurchaseLine, 'thousandths' | 'unitPrice'>[],
  approved: boolean,
  limit: number | null,
): Refusal[] {
  if (lines.length === 0) return [refusal('missing', 'There is nothing on it: add a part first.', 'lines')];
  const { total, withoutPrice } = totalOfPurchase(lines);
  if (withoutPrice > 0)
    return [refusal('missing', `${withoutPrice} of its parts have no price: give each the one agreed.`, 'lines')];
  return limit !== null && total > limit && !approved
    ? [refusal('not-allowed', 'It comes to more than may be sent without approval: ask a manager to approve it.')]
    : [];
}

/** The stage that follows from what is still to come. */
export const stageAfter = (stage: PurchaseStage, lines: readonly PurchaseLine[]): PurchaseStage =>
  stage === 'sent' && lines.every((l) => toCome(l) === 0) ? 'closed' : stage;

/** For whom a line is bought, in the turn in which they are served. */
export type BoughtFor = {
  readonly needId: NeedId;
  readonly orderId: OrderId;
  readonly thousandths: number;
  /** What of the need is open still. */
  readonly open: number;
};

export type Delivered = {
  /** Held at once, for whom it was bought. */
  readonly held: readonly { readonly needId: NeedId; readonly orderId: OrderId; readonly thousandths: number }[];
  /** What is expected for them still. */
  readonly left: readonly { readonly needId: NeedId; readonly thousandths: number }[];
};

/**
 * What came in, given to those it was bought for in their turn, each up to what it was bought and is open for; the rest is free. Of parts
 * kept by serial whole units only. Thousandths. Source: domain-work, Settled questions: a receipt first serves what it was ordered for.
 */
export function deliver(thousandths: number, wanting: readonly BoughtFor[], bySerial = false): Delivered {
  let left = thousandths;
  const held: Delivered['held'][number][] = [];
  const rest: Delivered['left'][number][] = [];
  for (const { needId, orderId, thousandths: bought, open } of wanting) {
    const most = Math.min(left, bought, open);
    const given = bySerial ? most - (most % THOUSANDTHS) : most;
    if (given > 0) held.push({ needId, orderId, thousandths: given });
    left -= given;
    const expects = Math.min(bought, open) - given;
    if (expects > 0) rest.push({ needId, thousandths: expects });
  }
  return { held, left: rest };
}

/**
 * A line after a delivery of so much that is good and so much that is wrong or broken, which counts as not come. Refused: nothing at all,
 * an order that was not sent, and more than was ordered unless it is said that it is taken (`more`).
 */
export function receiveLine(
  stage: PurchaseStage,
  line: PurchaseLine,
  came: { readonly good: number; readonly bad: number },
  more: boolean,
): Decided<PurchaseLine> {
  if (stage !== 'sent')
    return refused(refusal('wrong-stage', `The order is ${stage}: nothing is received on it.`, 'stage'));
  if (came.good < 0 || came.bad < 0 || came.good + came.bad === 0)
    return refused(refusal('invalid', 'Say how many came, good or not.', 'thousandths'));
  const expected = toCome(line);
  if (came.good > expected && !more)
    return refused(
      refusal(
        'conflict',
        `${sayQuantity(expected)} are still to come: take more than that all the same?`,
        'thousandths',
      ),
    );
  return decided({ ...line, received: line.received + came.good, short: came.good > 0 ? null : line.short });
}
