// A seeded source of chance: the same seed makes the same world.
export type Random = {
  next(): number;
  between(low: number, high: number): number;
  whole(low: number, high: number): number;
  pick<T>(list: readonly T[]): T;
  chance(share: number): boolean;
};

/** Mulberry32: small, fast, good enough for invented data. */
export function seeded(seed: number): Random {
  let state = seed >>> 0;
  const next = (): number => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  };
  const between = (low: number, high: number): number => low + next() * (high - low);
  const whole = (low: number, high: number): number => Math.floor(between(low, high + 1));
  return {
    next,
    between,
    whole,
    pick: (list) => list[whole(0, list.length - 1)] as never,
    chance: (share) => next() < share,
  };
}
