// A seeded source of chance: the same seed makes the same world.
import { seeded as seededNumbers } from '#core/random.ts';

export type Random = {
  next(): number;
  between(low: number, high: number): number;
  whole(low: number, high: number): number;
  pick<T>(list: readonly T[]): T;
  chance(share: number): boolean;
};

export function seeded(seed: number): Random {
  const next = seededNumbers(seed);
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
