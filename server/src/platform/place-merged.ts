// What every room does where two places of the tree become one: what stood at the one that goes stands at the kept one.
import type { LocationId, PersonId } from '#core/ids.ts';
import type { Instant } from '#core/time/index.ts';
import type { Tx } from './database.ts';

export type MergedPlaces = {
  readonly gone: LocationId;
  readonly kept: LocationId;
  /** Their full names. */
  readonly goneName: string;
  readonly keptName: string;
  readonly by: PersonId;
  readonly now: Instant;
};

export type PlaceMerged = (tx: Tx, places: MergedPlaces) => Promise<void>;
