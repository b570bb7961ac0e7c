// Loose work in the order and the groups that somebody wants to look through it by.
import { group } from 'd3-array';
import type { LooseOrder } from '#api/rota.ts';

export const ORDERS_BY = ['margin', 'window', 'area', 'skill'] as const;
export type OrderBy = (typeof ORDERS_BY)[number];
export const ORDER_WORDS: Readonly<Record<OrderBy, string>> = {
  margin: 'by what is left',
  window: 'by window',
  area: 'by area',
  skill: 'by skill',
};
export const readOrderBy = (text: string | null): OrderBy => ORDERS_BY.find((o) => o === text) ?? 'margin';

type Group = { readonly name: string | null; readonly items: readonly LooseOrder[] };

const NEVER = Infinity;
const leaves = (o: LooseOrder): number => o.latestStart ?? NEVER;
const closes = (o: LooseOrder): number => o.window?.to ?? NEVER;
const by =
  (of: (o: LooseOrder) => number) =>
  (a: LooseOrder, b: LooseOrder): number =>
    of(a) === of(b) ? a.orderId - b.orderId : of(a) - of(b);

/** The site of an order: what stands highest of its place. */
export const areaOf = (o: Pick<LooseOrder, 'place'>): string => o.place.split(' · ')[0] ?? '';
const skillOf = (o: LooseOrder): string => (o.skills.length === 0 ? 'no skill asked' : o.skills.join(' and '));

/** Within each group what must be left for first stands first; groups go by their most urgent. */
export function grouped(items: readonly LooseOrder[], orderBy: OrderBy): Group[] {
  if (orderBy === 'margin') return [{ name: null, items: [...items].sort(by(leaves)) }];
  if (orderBy === 'window') return [{ name: null, items: [...items].sort(by(closes)) }];
  const urgent = [...items].sort(by(leaves));
  return [...group(urgent, orderBy === 'area' ? areaOf : skillOf)].map(([name, of]) => ({ name, items: of }));
}
