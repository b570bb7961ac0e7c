// Sharing a whole number out by weights so that the parts add up to it: minutes over visits or orders, cents over lines or payers.

/**
 * Whole parts of a whole total, in proportion to whole weights of 0 or more, whose sum is exactly the total: largest remainder; of
 * equal remainders the earlier gets the unit. A total below zero is shared out as its opposite is. Where every weight is 0 nothing
 * can be placed: all get 0. Throws on a total or weight that is no whole number, or a weight below 0.
 * Source: settled questions, Time (dividing one entry) and Settle (several payers).
 */
export function shareOut(total: number, weights: readonly number[]): number[] {
  if (!Number.isSafeInteger(total)) throw new RangeError(`${total} is not a whole number to share out`);
  if (weights.some((w) => !Number.isSafeInteger(w) || w < 0))
    throw new RangeError('weights are whole and not negative');
  if (total < 0) return shareOut(-total, weights).map((part) => (part === 0 ? 0 : -part));
  const sum = weights.reduce((a, b) => a + BigInt(b), 0n);
  if (sum === 0n) return weights.map(() => 0);
  const exact = weights.map((w) => BigInt(total) * BigInt(w));
  const parts = exact.map((x) => Number(x / sum));
  const left = total - parts.reduce((a, b) => a + b, 0);
  const byRemainder = exact
    .map((x, i) => ({ i, rest: x % sum }))
    .sort((a, b) => (a.rest === b.rest ? a.i - b.i : a.rest > b.rest ? -1 : 1));
  for (const { i } of byRemainder.slice(0, left)) parts[i] = (parts[i] as number) + 1;
  return parts;
}

/** The same in equal parts. */
export const shareEvenly = (total: number, parts: number): number[] =>
  shareOut(
    total,
    Array.from({ length: parts }, () => 1),
  );
