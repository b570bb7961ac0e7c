// A need of a part on an order line: how much of it is held and used, what is open, and whether its order waits.
import type { NeedId, StoreId } from '../ids.ts';
import { isFinished, type OrderAct, type OrderState } from '../orders/index.ts';
import { timesRatio } from '../money.ts';
import type { LocalDate } from '../time/index.ts';
import { sayQuantity } from './part.ts';

/** Thousandths of a unit. */
export type NeedCount = { readonly wanted: number; readonly used: number; readonly held: number };

/** What of it nobody has yet; 0 where more was used than foreseen. */
export const openOf = ({ wanted, used, held }: NeedCount): number => Math.max(0, wanted - used - held);

/** What is held of a need at a store. */
export type HeldAt = { readonly storeId: StoreId; readonly thousandths: number };

export type UsedOfNeed = {
  /** How much of what was held at the store is used up with it. */
  readonly fromHold: number;
  /** What stays held, in the order given. */
  readonly kept: readonly HeldAt[];
  /** What is not needed any more and is free again. */
  readonly letGo: readonly HeldAt[];
};

/**
 * What becomes of what is held for a need when so much of the part is used: first what was held where it was taken from; what is then
 * held beyond what is still wanted is let go, the last given first. `holds` in the turn in which stores are asked. Null: it came from
 * none of our stores. Thousandths of a unit. Source: domain-work, Stores.
 */
export function useOfNeed(
  need: NeedCount,
  holds: readonly HeldAt[],
  storeId: StoreId | null,
  thousandths: number,
): UsedOfNeed {
  const there = holds.find((h) => h.storeId === storeId)?.thousandths ?? 0;
  const fromHold = Math.min(there, thousandths);
  let over = need.held - fromHold - Math.max(0, need.wanted - need.used - thousandths);
  const [kept, letGo]: [HeldAt[], HeldAt[]] = [[], []];
  for (const hold of [...holds].reverse()) {
    const left = hold.thousandths - (hold.storeId === storeId ? fromHold : 0);
    const goes = Math.max(0, Math.min(left, over));
    over -= goes;
    if (goes > 0) letGo.push({ storeId: hold.storeId, thousandths: goes });
    if (left > goes) kept.unshift({ storeId: hold.storeId, thousandths: left - goes });
  }
  return { fromHold, kept, letGo };
}

/** A need of an order that is open, as far as its mark asks. */
export type Lacking = {
  readonly id: NeedId;
  readonly name: string;
  readonly open: number;
  /** Why the work is planned without it; null: it is waited for. */
  readonly anyway: string | null;
};

/** Parts are held for work of the next weeks: what is planned later takes nothing from it, and is not waited for yet. */
export const isSoon = (day: LocalDate | null, until: LocalDate): boolean => day === null || day <= until;

/** "2 × Door gasket, 1 × Compressor": what an order waits for. */
export const sayLacking = (lacking: readonly Pick<Lacking, 'name' | 'open'>[]): string =>
  lacking
    .map(({ open, name }) => `${sayQuantity(open)} × ${name}`)
    .join(', ')
    .slice(0, 200);

/**
 * What happens to an order's mark by its needs: it begins to wait for parts where one is open that nobody decided to go without, and goes
 * on where none is. It is left alone while it waits for something else, once the work is over or the machine back in use, and where it
 * has no needs at all, for then somebody waits for a part that is not in the list. Null: nothing. Source: domain-work, Orders, Waiting.
 */
export function markOf(
  {
    stage,
    waitingFor,
    pausedSince,
    restoredAt,
  }: Pick<OrderState, 'stage' | 'waitingFor' | 'pausedSince' | 'restoredAt'>,
  needs: readonly Lacking[],
): OrderAct | null {
  if (isFinished(stage) || restoredAt !== null || needs.length === 0) return null;
  const lacking = needs.filter((n) => n.open > 0 && n.anyway === null);
  if (lacking.length > 0 && pausedSince === null)
    return { kind: 'paused', reason: 'waiting for parts', text: sayLacking(lacking) };
  return lacking.length === 0 && waitingFor === 'waiting for parts' ? { kind: 'resumed' } : null;
}

/**
 * What comes back is worth of what went out: its share of what is still out, half-up, and the last takes the cents that are left.
 * Thousandths and minor units; throws where more comes back than is out. Source: domain-work, Settled questions, Stores.
 */
export function worthOfReturn(
  out: { readonly thousandths: number; readonly money: number },
  thousandths: number,
): number {
  if (thousandths > out.thousandths) throw new Error('No more comes back than went out.');
  return thousandths === out.thousandths
    ? out.money
    : timesRatio(out.money, BigInt(thousandths), BigInt(out.thousandths));
}
