// A room of the house: what it hands over to be served, found and kept going.
import type { FastifyPluginCallback } from 'fastify';
import type { Instant, LocalDate } from '#core/time/index.ts';
import type { Db } from './platform/database.ts';
import type { FinderSource } from './platform/finder-source.ts';
import type { House } from './platform/http.ts';

export type Room = {
  readonly name: string;
  readonly routes?: readonly FastifyPluginCallback<{ house: House }>[];
  readonly found?: FinderSource;
  /** The number beside its name in the rail: what waits for somebody there. */
  readonly count?: (db: Db, at: { readonly now: Instant; readonly today: LocalDate }) => Promise<number>;
};
