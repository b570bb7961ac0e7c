// A room of the house: what it hands over to be served, found and kept going.
import type { FastifyBaseLogger, FastifyPluginCallback } from 'fastify';
import type { Instant, LocalDate } from '#core/time/index.ts';
import type { Db } from './platform/database.ts';
import type { DerivedRows } from './platform/derived.ts';
import type { FinderSource } from './platform/finder-source.ts';
import type { House } from './platform/http.ts';
import type { Lane } from './platform/lanes.ts';
import type { JobKind } from './platform/jobs.ts';
import type { MessageKind } from './platform/message-kind.ts';
import type { PlaceMerged } from './platform/place-merged.ts';

export type Going = {
  /** Whether it does what it is there for, for whoever watches the server. */
  isUp?(): boolean;
  stop(): Promise<void>;
};

export type Room = {
  readonly name: string;
  readonly routes?: readonly FastifyPluginCallback<{ house: House }>[];
  readonly found?: readonly FinderSource[];
  readonly jobs?: readonly JobKind<House>[];
  readonly messages?: readonly MessageKind[];
  /** What goes on from the start of the server to its end. */
  readonly keep?: (house: House, log: FastifyBaseLogger) => Going | null;
  /** What it has on the time line of assets. */
  readonly lane?: Lane;
  /** Rows that follow from events, which `./stavok rebuild` compares and puts right. */
  readonly derived?: readonly DerivedRows[];
  /** What it does where a place turned out to be another one, in the transaction that makes them one. */
  readonly placeMerged?: PlaceMerged;
  /** The number beside its name in the rail: what waits for somebody there. */
  readonly count?: (db: Db, at: { readonly now: Instant; readonly today: LocalDate }) => Promise<number>;
};
