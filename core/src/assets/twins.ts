// Twins: assets that may be the same machine registered twice, and merging them.
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { slipsBetween } from '../finder.ts';

export type TwinCandidate<A> = {
  readonly id: A;
  readonly customerId: number;
  readonly locationId: number | null;
  readonly maker: string;
  readonly serialPlain: string;
  readonly tag: string;
};
export type TwinPair<A> = {
  readonly a: A;
  readonly b: A;
  readonly because: 'same serial' | 'near-same serial at one place';
};

/** Letters and digits that are mistaken for one another on a plate. */
const LOOKALIKES: Readonly<Record<string, string>> = { o: '0', i: '1', l: '1', s: '5', b: '8', z: '2' };

/** A serial with its mistakable letters made the same. */
export function blurred(serialPlain: string): string {
  return serialPlain.replace(/[oilsbz]/g, (c) => LOOKALIKES[c] ?? c);
}

/**
 * Pairs that may be one machine: the same serial without dashes whatever the maker; or, at one place, the same when
 * mistakable letters are made the same, or one slip apart in a serial of at least six characters of which the digits at the
 * end agree (numbers in sequence are different machines). Each pair once, in the order given.
 */
export function findTwins<A>(assets: readonly TwinCandidate<A>[]): TwinPair<A>[] {
  const pairs: TwinPair<A>[] = [];
  const bySerial = new Map<string, TwinCandidate<A>[]>();
  const byPlace = new Map<string, TwinCandidate<A>[]>();
  for (const asset of assets) {
    if (asset.serialPlain === '') continue;
    for (const other of bySerial.get(asset.serialPlain) ?? [])
      pairs.push({ a: other.id, b: asset.id, because: 'same serial' });
    const place = `${asset.customerId}|${asset.locationId}`;
    for (const other of byPlace.get(place) ?? [])
      if (other.serialPlain !== asset.serialPlain && nearSame(other.serialPlain, asset.serialPlain))
        pairs.push({ a: other.id, b: asset.id, because: 'near-same serial at one place' });
    bySerial.set(asset.serialPlain, [...(bySerial.get(asset.serialPlain) ?? []), asset]);
    byPlace.set(place, [...(byPlace.get(place) ?? []), asset]);
  }
  return pairs;
}

const tailOf = (serial: string): string => /\d*$/.exec(serial)?.[0] ?? '';

function nearSame(a: string, b: string): boolean {
  if (blurred(a) === blurred(b)) return true;
  if (Math.min(a.length, b.length) < 6 || tailOf(a) !== tailOf(b)) return false;
  return slipsBetween(a, b, 1) <= 1;
}

type Merging<A> = { readonly id: A; readonly customerId: number; readonly tag: string; readonly state: string };

/**
 * Whether two assets may be merged. Refused: one with itself, across customers, into one that is retired, and one that was merged
 * into another already.
 */
export function checkMerge<A>(kept: Merging<A>, gone: Merging<A> & { readonly isMergedAway: boolean }): Decided<null> {
  if (kept.id === gone.id)
    return refused(refusal('conflict', 'An asset cannot be merged with itself; choose the other one.', 'goneId'));
  if (kept.customerId !== gone.customerId)
    return refused(
      refusal(
        'conflict',
        `${kept.tag} and ${gone.tag} belong to different customers; they cannot be merged.`,
        'goneId',
      ),
    );
  if (kept.state === 'retired')
    return refused(refusal('wrong-stage', `${kept.tag} is retired; keep the one in use.`, 'keptId'));
  if (gone.isMergedAway)
    return refused(refusal('wrong-stage', `${gone.tag} was merged already; its past is with the other one.`, 'goneId'));
  return decided(null);
}
