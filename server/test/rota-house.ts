// A house with two depots' technicians for tests of the rota: people with calendars, skills and starts around the places of the world.
import { randomUUID } from 'node:crypto';
import { count, eq } from 'drizzle-orm';
import { expect } from 'vitest';
import type { OrderPage } from '#api/orders.ts';
import type { Rota } from '#api/rota.ts';
import type { CalendarId, PersonId } from '#core/ids.ts';
import { asInstant, asZone } from '#core/time/index.ts';
import { appointment, appointmentPerson, orderEvent, person, rotaStep } from '../src/tables.ts';
import type { Config } from '../src/platform/config.ts';
import { buildWorld, must, openHouse, type Answer, type Caller, type TestHouse, type World } from './house.ts';

export type RotaHouse = {
  readonly house: TestHouse;
  readonly desk: Caller;
  readonly world: World;
  /** Lia starts 11 km from the machines, Rui at the other depot 60 km away; the technician signs in, near by. */
  readonly people: { readonly lia: number; readonly rui: number; readonly technician: number };
  readonly depots: readonly [number, number];
  readonly gas: number;
};

export async function openRota(assets = 8, config: Partial<Config> = {}): Promise<RotaHouse> {
  const house = await openHouse(undefined, false, config);
  const desk = await house.as('coordinator');
  const world = await buildWorld(desk, { assets });
  const depotAt = async (name: string, latitude: number) =>
    must(await desk<{ id: number }>('POST', '/api/depots', { name, latitude, longitude: -8.4, capacity: [] })).id;
  const depots = [await depotAt('Ribeira', 42.1), await depotAt('Pedralonga', 41.7)] as const;
  const gas = must(await desk<{ id: number }>('POST', '/api/skills', { name: 'Refrigerants' })).id;
  const { db } = house.database;
  const calendarId = world.calendarId as CalendarId;
  const add = async (name: string): Promise<number> => {
    const [row] = await db
      .insert(person)
      .values({
        ...{ email: `${name.toLowerCase()}@example.org`, name, role: 'technician', zone: asZone('Europe/Lisbon') },
        ...{ passwordHash: 'none', createdAt: asInstant('2026-01-01T00:00:00Z'), calendarId },
      })
      .$returningId();
    return row?.id as number;
  };
  const [own] = await db.select().from(person).where(eq(person.role, 'technician'));
  await db
    .update(person)
    .set({ calendarId })
    .where(eq(person.id, own?.id as PersonId));
  const people = { lia: await add('Lia'), rui: await add('Rui'), technician: own?.id as number };
  for (const [id, depotId, skills] of [
    [people.lia, depots[0], [{ skillId: gas, until: '2026-11-26' }]],
    [people.rui, depots[1], [{ skillId: gas, until: null }]],
    [people.technician, depots[0], []],
  ] as const)
    must(await desk('PUT', `/api/rota/people/${id}`, technicianBody({ depotId, skills })));
  return { house, desk, world, people, depots, gas };
}

export const technicianBody = (over: object = {}) => ({
  ...{ version: 0, depotId: null, startsFrom: 'depot', home: '', latitude: null, longitude: null },
  ...{ van: '', speaks: [], skills: [], ...over },
});

/** A repair of one machine, raised; the work of an hour. */
export async function repairOf({ desk }: RotaHouse, assetId: number | undefined, over: object = {}): Promise<number> {
  const asked = { assetIds: [assetId], priority: 1, cause: 'wear', receivedAt: '2026-11-24T09:30:00Z', title: 'Warm' };
  return must(await desk<{ id: number }>('POST', '/api/orders', { requestKey: randomUUID(), ...asked, ...over })).id;
}

export const bookingOf = (orders: readonly number[], people: readonly number[], from: string, over: object = {}) => ({
  ...{ requestKey: randomUUID(), orders, people, from, minutes: 60, ...over },
});

export const rotaOf = async (call: Caller, from = '2026-11-24', days = 7): Promise<Rota> =>
  must(await call<Rota>('GET', `/api/rota?from=${from}&days=${days}`));

/** What tests of the rota do again and again. The house is asked for at each: it stands only after it was opened. */
export function rotaCalls(here: () => RotaHouse) {
  const page = async (id: number): Promise<OrderPage> => must(await here().desk<OrderPage>('GET', `/api/orders/${id}`));
  const book = (orders: readonly number[], people: readonly number[], from: string, over: object = {}) =>
    here().desk<{ id: number; version: number }>(
      'POST',
      '/api/rota/appointments',
      bookingOf(orders, people, from, over),
    );
  const rows = async (): Promise<number[]> => {
    const { db } = here().house.database;
    const counted = await Promise.all(
      [appointment, appointmentPerson, rotaStep, orderEvent].map((table) => db.select({ n: count() }).from(table)),
    );
    return counted.map(([row]) => row?.n ?? -1);
  };
  /** Is refused, with nothing written. */
  const refused = async (asked: () => Promise<Answer>): Promise<Answer> => {
    const before = await rows();
    const answer = await asked();
    expect(answer.status).not.toBe(200);
    expect(await rows()).toEqual(before);
    return answer;
  };
  let machine = 0;
  /** Each case has a machine of its own. */
  const nextMachine = (): number => {
    const { assetIds } = here().world;
    return assetIds[machine++ % assetIds.length] as number;
  };
  /** Lets an order need the skill, as its job plan would. */
  const needGas = async (order: number): Promise<void> => {
    const plan = {
      ...{
        name: 'Gas',
        version: 1,
        minutes: 60,
        crew: 1,
        skills: ['Refrigerants'],
        safety: '',
        parts: [],
        formIds: [],
      },
    };
    await here().house.database.pool.query('UPDATE order_line SET plan = ? WHERE order_id = ?', [
      JSON.stringify(plan),
      order,
    ]);
  };
  return { page, book, refused, nextMachine, needGas };
}

export const saysOf = ({ body }: Answer): string[] => body.errors.map((e) => `${e.field}: ${e.message}`);
export const day = (date: string, time: string): string => `${date}T${time}:00Z`;
