// Parts that a job plan foresees, beside those that were used already.
import type { StoreId } from '../ids.ts';
import type { HeldAt } from './needs.ts';

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

export type TakenFrom = { readonly storeId: StoreId | null; readonly thousandths: number };

/**
 * Where a planned part is taken from when it is said to be used: what is held for its line first, in the turn given, then what is free in
 * the van of who goes. `short` is what neither has. A part that lies in no store at all is not kept: it comes from none (null). Thousandths.
 */
export function takePlanned(
  thousandths: number,
  holds: readonly HeldAt[],
  van: { readonly storeId: StoreId; readonly free: number } | null,
  isKept: boolean,
): { readonly taken: readonly TakenFrom[]; readonly short: number } {
  if (!isKept) return { taken: [{ storeId: null, thousandths }], short: 0 };
  const from = new Map<StoreId, number>();
  let short = thousandths;
  const takeUpTo = (storeId: StoreId, most: number): void => {
    const some = Math.min(short, most);
    if (some <= 0) return;
    from.set(storeId, (from.get(storeId) ?? 0) + some);
    short -= some;
  };
  for (const hold of holds) takeUpTo(hold.storeId, hold.thousandths);
  if (van) takeUpTo(van.storeId, van.free);
  return { taken: [...from].map(([storeId, n]) => ({ storeId, thousandths: n })), short };
}
