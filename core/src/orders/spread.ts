// Spread of figures from past work, so that an odd job can be quoted.

export type Spread = {
  readonly count: number;
  readonly mean: number;
  /** Sample standard deviation (n − 1); null below two values. */
  readonly deviation: number | null;
  readonly least: number;
  readonly median: number;
  readonly most: number;
};

/** Mean, sample standard deviation, median and range; null for no values. Source: NIST/SEMATECH e-Handbook, 1.3.5. */
export function spreadOf(values: readonly number[]): Spread | null {
  if (values.length === 0) return null;
  const sorted = [...values].sort((a, b) => a - b);
  const mean = values.reduce((sum, v) => sum + v, 0) / values.length;
  const squares = values.reduce((sum, v) => sum + (v - mean) ** 2, 0);
  const middle = sorted.length / 2;
  return {
    count: values.length,
    mean,
    deviation: values.length < 2 ? null : Math.sqrt(squares / (values.length - 1)),
    least: sorted[0] as number,
    median:
      sorted.length % 2 === 1
        ? (sorted[Math.floor(middle)] as number)
        : ((sorted[middle - 1] as number) + (sorted[middle] as number)) / 2,
    most: sorted[sorted.length - 1] as number,
  };
}
