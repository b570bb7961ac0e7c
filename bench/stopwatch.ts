// A stopwatch for measurements: seconds of one run, and rounding for people.
export async function secondsOf(work: () => unknown): Promise<number> {
  const start = process.hrtime.bigint();
  await work();
  return Number(process.hrtime.bigint() - start) / 1e9;
}

export function rounded(n: number, digits = 3): number {
  return n === 0 ? 0 : Number(n.toPrecision(digits));
}
