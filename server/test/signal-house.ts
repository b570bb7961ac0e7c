// A house whose machines all report, for tests of signals: rules added, readings said, and what became of them.
import { asc, eq } from 'drizzle-orm';
import type { AlertOut } from '#api/signals.ts';
import { asId, type AlertRuleId } from '#core/ids.ts';
import { asInstant, type Instant } from '#core/time/index.ts';
import { alert } from '../src/tables.ts';
import { buildWorld, must, openHouse, type Caller, type TestHouse, type World } from './house.ts';

/** A time of the day all of it happens on. */
export const at = (time: string): Instant => asInstant(`2026-11-24T${time}:00Z`);

/** What of a rule most tests leave as it is. */
export const RULE = {
  ...{ onDelaySeconds: 0, offDelaySeconds: 0, holdSeconds: 3600, model: null, assetId: null, watched: true },
  ...{ partOnly: false, askFirst: false, orderText: '', likelyCause: '', jobPlanId: null, watchCalendarId: null },
  ...{ suppressedBy: [], tells: [] },
};

export type SignalHouse = {
  readonly house: TestHouse;
  readonly call: Caller;
  readonly world: World;
  readonly classId: number;
  machine(n: number): number;
  /** A rule that finds a channel above 10. */
  add(name: string, channel: string, over?: object): Promise<number>;
  /** What one machine says on one channel; gives how many alerts that started. */
  say(n: number, channel: string, ...points: readonly [time: string, value: number][]): Promise<number>;
  alertsOf(ruleId: number): Promise<(typeof alert.$inferSelect)[]>;
  journal(query: string): Promise<{ items: AlertOut[]; counts: Record<string, number> }>;
};

export const keyOf = (assetId: number): string => `urn:dev:os:machine-${assetId}`;

/** Its clock stands at 09:20. */
export async function openSignals(machines: number): Promise<SignalHouse> {
  const house = await openHouse('2026-11-24T09:20:00Z');
  const call = await house.as('coordinator');
  const world = await buildWorld(call, { assets: machines });
  const classId = must(await call<{ classes: { id: number }[] }>('GET', '/api/reference')).classes[0]?.id as number;
  for (const assetId of world.assetIds) must(await call('POST', '/api/devices', { assetId, key: keyOf(assetId) }));
  const machine = (n: number): number => world.assetIds[n] as number;
  return {
    ...{ house, call, world, classId, machine },
    async add(name, channel, over = {}) {
      const condition = { kind: 'limit', side: 'above', limit: 10, deadband: 0 };
      const rule = { ...RULE, name, assetClassId: classId, channel, unit: '', priority: 2, condition, ...over };
      return must(await call<{ id: number }>('POST', '/api/alert-rules', rule)).id;
    },
    async say(n, channel, ...points) {
      const pack = points.map(([time, v]) => ({ n: `${keyOf(machine(n))}:${channel}`, t: at(time) / 1000, v }));
      return must(await call<{ alerts: number }>('POST', '/api/readings', pack)).alerts;
    },
    alertsOf: async (ruleId) =>
      house.database.db
        .select()
        .from(alert)
        .where(eq(alert.ruleId, asId<AlertRuleId>(ruleId)))
        .orderBy(asc(alert.startedAt), asc(alert.id)),
    journal: async (query) => must(await call('GET', `/api/alerts?${query}`)),
  };
}
