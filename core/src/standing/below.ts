// What was counted at places, told from a place down: each place directly below it with everything beneath.
import { addCounts, NOTHING_COUNTED, type Counts } from './attainment.ts';

/** A place by the ids from the top of its tree down to it, "/1/5/9/". */
export type CountedPlace = { readonly path: string; readonly counts: Counts };

export type Below = {
  /** By the ids of the places directly below, each with everything beneath it. */
  readonly below: ReadonlyMap<number, Counts>;
  /** At the place itself and at none below it. */
  readonly here: Counts;
  /** At places that are not in it. */
  readonly elsewhere: Counts;
};

/**
 * Divides what was counted at places among those directly below one of them, itself, and the rest: each count is in one of them, so that
 * all together are the sum of what was given. Places are taken by where they are in the tree now.
 * Source: domain, Standing (per asset, place, agreement, customer).
 */
export function belowPlace(path: string, counted: readonly CountedPlace[]): Below {
  const below = new Map<number, Counts>();
  let [here, elsewhere] = [NOTHING_COUNTED, NOTHING_COUNTED];
  for (const { path: at, counts } of counted) {
    if (!at.startsWith(path)) elsewhere = addCounts(elsewhere, counts);
    else if (at === path) here = addCounts(here, counts);
    else {
      const child = Number(at.slice(path.length).split('/')[0]);
      below.set(child, addCounts(below.get(child) ?? NOTHING_COUNTED, counts));
    }
  }
  return { below, here, elsewhere };
}
