// Needs of order lines against what stores have: whose turn it is, and from where each is given.
import type { NeedId, PartId, PersonId, StoreId } from '../ids.ts';
import type { Instant, LocalDate } from '../time/index.ts';
import { THOUSANDTHS } from './part.ts';

export const STORE_KINDS = ['depot', 'van', 'quarantine'] as const;
export type StoreKind = (typeof STORE_KINDS)[number];

export type OpenNeed = {
  readonly id: NeedId;
  readonly partId: PartId;
  readonly thousandths: number;
  /** When the work is planned or wished; null: nobody said. */
  readonly day: LocalDate | null;
  /** 1 is the most urgent. */
  readonly priority: number;
  readonly askedAt: Instant;
  /** Who goes; null: nobody yet. */
  readonly technicianId: PersonId | null;
  /** Kilometres from the place of the work to each store; one that is not named is as far as can be. */
  readonly kmTo: ReadonlyMap<StoreId, number>;
};

/** What is free of one part at one store. */
export type Shelf = {
  readonly storeId: StoreId;
  readonly kind: StoreKind;
  /** Whose van it is. */
  readonly personId: PersonId | null;
  readonly partId: PartId;
  readonly available: number;
};

export type Held = { readonly needId: NeedId; readonly storeId: StoreId; readonly thousandths: number };
export type Coverage = {
  readonly held: readonly Held[];
  /** What no store can give: to be bought, or asked for from somebody's van. */
  readonly open: readonly { readonly needId: NeedId; readonly thousandths: number }[];
};

const NEVER = '9999-12-31';

/** Whose turn is first: by day, priority and age. */
type InTurn = Pick<OpenNeed, 'id' | 'day' | 'priority' | 'askedAt'>;
export const compareNeeds = (a: InTurn, b: InTurn): number => {
  const [x, y] = [a.day ?? NEVER, b.day ?? NEVER];
  return (x < y ? -1 : x > y ? 1 : 0) || a.priority - b.priority || a.askedAt - b.askedAt || a.id - b.id;
};

/** In which turn a store is asked for a need; null: never by itself. */
function turnOf(need: OpenNeed, { kind, personId, storeId }: Shelf): readonly [number, number, number] | null {
  const km = need.kmTo.get(storeId) ?? Infinity;
  if (kind === 'depot') return [1, km, storeId];
  const isOwnVan = kind === 'van' && personId !== null && personId === need.technicianId;
  return isOwnVan ? [0, 0, storeId] : null;
}

/**
 * Gives needs what stores have free, in whole units where a part is kept by serial: the van of who goes first, then depots' stores by
 * their distance; other people's vans only by a person, quarantine never. A need may be split. Thousandths of a unit; stores are given as
 * they are and not changed. Source: domain-work, Stores, Coverage of needs, and Settled questions.
 */
export function coverNeeds(
  needs: readonly OpenNeed[],
  shelves: readonly Shelf[],
  bySerial: ReadonlySet<PartId> = new Set(),
): Coverage {
  const free = new Map(shelves.map((s) => [s, Math.max(0, s.available)]));
  const held: Held[] = [];
  const open: { needId: NeedId; thousandths: number }[] = [];
  for (const need of [...needs].sort(compareNeeds)) {
    const asked = shelves
      .filter((s) => s.partId === need.partId)
      .flatMap((shelf) => {
        const turn = turnOf(need, shelf);
        return turn ? [{ shelf, turn }] : [];
      })
      .sort(({ turn: a }, { turn: b }) => a[0] - b[0] || (a[1] === b[1] ? 0 : a[1] - b[1]) || a[2] - b[2]);
    let left = need.thousandths;
    for (const { shelf } of asked) {
      const has = Math.min(left, free.get(shelf) as number);
      const given = bySerial.has(need.partId) ? has - (has % THOUSANDTHS) : has;
      if (given === 0) continue;
      held.push({ needId: need.id, storeId: shelf.storeId, thousandths: given });
      free.set(shelf, (free.get(shelf) as number) - given);
      left -= given;
    }
    if (left > 0) open.push({ needId: need.id, thousandths: left });
  }
  return { held, open };
}
