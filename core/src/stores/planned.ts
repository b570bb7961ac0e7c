// Parts that a job plan foresees, beside those that were used already.

export type Wanted = { readonly partId: number; readonly thousandths: number };

/** What of the planned parts was not used yet, each part once: planned together less used together, where anything is left. */
export function plannedLeft(planned: readonly Wanted[], used: readonly Wanted[]): Wanted[] {
  const left = new Map<number, number>();
  for (const { partId, thousandths } of planned) left.set(partId, (left.get(partId) ?? 0) + thousandths);
  for (const { partId, thousandths } of used)
    if (left.has(partId)) left.set(partId, (left.get(partId) as number) - thousandths);
  return [...left]
    .filter(([, thousandths]) => thousandths > 0)
    .map(([partId, thousandths]) => ({ partId, thousandths }));
}
