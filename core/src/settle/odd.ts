// What is odd about a finished order: whoever looks through orders before they are billed looks at these, the others are plain.

export const ODDITIES = [
  'no hours',
  'without a rate',
  'cost far from like work',
  'cover nearly full',
  'excluded',
  'no customer order number',
  'over credit terms',
  'no tax',
  'corrected',
  'changed since it was approved',
] as const;
export type Oddity = (typeof ODDITIES)[number];

export type LookedAt = {
  /** Minutes of work that were entered, counter-entries taken off. */
  readonly minutes: number;
  /** Whether somebody’s time has no rate. */
  readonly withoutRate: boolean;
  /** Minor units. */
  readonly cost: number;
  /** Costs of like work that was done before, in minor units, each above 0. */
  readonly like: readonly number[];
  /** Of the counted rights it drew on, the least that is left: share in percent; null: it drew on none. */
  readonly leftPercent: number | null;
  /** Whether something is left to pay because a cover leaves out the kind of work, its cause or a part. */
  readonly excluded: boolean;
  readonly wantsReference: boolean;
  readonly reference: string;
  readonly overTerms: boolean;
  /** Whether a charge has no tax. */
  readonly withoutTax: boolean;
  readonly corrected: boolean;
  readonly changedSince: boolean;
};

/** Fewer say nothing about what is usual. */
const LIKE_AT_LEAST = 5;
const FAR = 2;
const NEARLY_FULL_PERCENT = 10;

/** The middle value; of an even number the lower middle, so that it is one of them. Throws on none. */
export function medianOf(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  const middle = sorted[Math.ceil(sorted.length / 2) - 1];
  if (middle === undefined) throw new Error('nothing has no median');
  return middle;
}

/** Costs more than twice, or less than half, of the median of at least five like works. What cost nothing says so otherwise. */
export function isFarFromLike(cost: number, like: readonly number[]): boolean {
  if (cost <= 0 || like.length < LIKE_AT_LEAST) return false;
  const usual = medianOf(like);
  return cost > FAR * usual || cost * FAR < usual;
}

/** Everything odd about it, in the order of `ODDITIES`. Source: domain-work, Settle; the trade’s questions before an invoice. */
export function oddOf(of: LookedAt): Oddity[] {
  const is: Readonly<Record<Oddity, boolean>> = {
    'no hours': of.minutes <= 0,
    'without a rate': of.withoutRate,
    'cost far from like work': isFarFromLike(of.cost, of.like),
    'cover nearly full': of.leftPercent !== null && of.leftPercent <= NEARLY_FULL_PERCENT,
    excluded: of.excluded,
    'no customer order number': of.wantsReference && of.reference.trim() === '',
    'over credit terms': of.overTerms,
    'no tax': of.withoutTax,
    corrected: of.corrected,
    'changed since it was approved': of.changedSince,
  };
  return ODDITIES.filter((oddity) => is[oddity]);
}

/** What keeps an order from being approved until it is put right: the rest is for whoever looks to judge. */
export const HINDERING: readonly Oddity[] = ['without a rate', 'no customer order number', 'no tax'];
