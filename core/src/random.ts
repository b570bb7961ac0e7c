// Numbers that look drawn at random and are the same for the same seed.

/** Numbers from 0 to below 1, the same for the same seed (a 32-bit mixing generator). */
export function seeded(seed: number): () => number {
  let state = seed | 0;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
  };
}

/** A whole number from 0 to below a bound; 0 for a bound of 0. */
export const below = (random: () => number, bound: number): number => Math.floor(random() * bound);

/** The same things in another order. */
export function shuffled<T>(random: () => number, items: readonly T[]): T[] {
  const list = [...items];
  for (let i = list.length - 1; i > 0; i -= 1) {
    const k = below(random, i + 1);
    [list[i], list[k]] = [list[k] as T, list[i] as T];
  }
  return list;
}
