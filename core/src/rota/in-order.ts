// Figures compared one after the other: a later one counts only where all before it are the same.

/** Below zero: the first comes first. Both have as many figures. */
export function compareInOrder(a: readonly number[], b: readonly number[]): number {
  for (let i = 0; i < a.length; i += 1) {
    const apart = (a[i] as number) - (b[i] as number);
    if (apart !== 0) return apart;
  }
  return 0;
}
