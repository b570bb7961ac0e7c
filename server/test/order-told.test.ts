// What people outside are told of orders: by their way, each thing once, and only what the settings say.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Told } from '#api/orders.ts';
import { REPORTING } from '../src/field/report.ts';
import { dueNow } from './field-house.ts';
import { linkTo } from '#core/telling.ts';
import { outbox, person } from '../src/tables.ts';
import { buildWorld, must, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
let callerId: number;
let contactId: number;
let technician: number;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
  const contact = async (body: object) =>
    must(await call<{ id: number }>('POST', `/api/customers/${world.customerId}/contacts`, body)).id;
  callerId = await contact({
    name: 'Rosa Vidal',
    role: null,
    email: 'rosa@lab.example',
    phone: '900',
    preferred: 'e-mail',
  });
  contactId = await contact({ name: 'Paulo Reis', role: null, email: null, phone: '901', preferred: 'phone' });
  const people = await house.database.db.select().from(person);
  technician = people.find((p) => p.role === 'technician')?.id as number;
});
afterAll(() => house.close());

const raise = async (over: object = {}): Promise<number> =>
  must(
    await call<{ id: number }>('POST', '/api/orders', {
      ...{ requestKey: randomUUID(), assetIds: [world.assetIds[0]], priority: 1, cause: 'wear', title: 'Warm' },
      ...{ receivedAt: '2026-11-24T09:00:00Z', callerId, contactId, ...over },
    }),
  ).id;
const act = async (id: number, of: object, at = '2026-11-24T09:30:00Z') =>
  must(await call('POST', `/api/orders/${id}/events`, { requestKey: randomUUID(), at, act: of }));
const planned = (date: string) => ({ kind: 'planned', technicianId: technician, date });
const told = async (id: number) => must(await call<{ items: Told[] }>('GET', `/api/orders/${id}/told`)).items;
const said = async (id: number) => (await told(id)).map((m) => [m.kind, m.to, m.way]).reverse();

describe('confirmations', () => {
  it('go to who called, to the contact on site and to the technician, each by their way', async () => {
    const id = await raise();
    await act(id, planned('2026-11-25'));
    await act(id, { kind: 'sent' });
    await act(id, { kind: 'arrived' });
    await act(id, { kind: 'restored' });
    await act(id, { kind: 'done', text: 'fan changed' });
    // With its report, which is drawn a little later.
    expect(await said(id)).toHaveLength(3);
    await dueNow(house, REPORTING);
    await expect
      .poll(() => said(id), { timeout: 20_000 })
      .toEqual([
        ['order taken', 'Rosa Vidal', 'mail'],
        ['order planned', 'Paulo Reis', 'message'],
        ['order sent', 'The technician', 'mail'],
        ['order done', 'Paulo Reis', 'message'],
      ]);
    const [done, sent, plan, taken] = await house.database.db
      .select()
      .from(outbox)
      .then((rows) => rows.reverse());
    expect([taken?.subject, taken?.body.includes('Respond by')]).toEqual([
      `WO-${10_000 + id} Warm: we have your call`,
      true,
    ]);
    expect(plan?.body).toContain('The technician comes on Wed 25 Nov 2026');
    expect(done?.body).toContain('fan changed');
    expect(sent?.body).toContain(linkTo(`/orders/${id}`));
  });

  it('are not said twice: the same plan is one, another day or technician is told again', async () => {
    const id = await raise();
    await act(id, planned('2026-11-25'));
    await act(id, planned('2026-11-25'), '2026-11-24T09:31:00Z');
    await act(id, planned('2026-11-26'), '2026-11-24T09:32:00Z');
    expect((await said(id)).filter(([kind]) => kind === 'order planned')).toHaveLength(2);
  });

  it('are left out where nobody is named, for work that came by itself, and as the settings say', async () => {
    const nobody = await raise({ callerId: null, contactId: null });
    await act(nobody, planned('2026-11-25'));
    expect(await said(nobody)).toEqual([]);
    const manager = await house.as('manager');
    const { version } = must(await manager<{ version: number }>('GET', '/api/order-settings'));
    must(await manager('PUT', '/api/order-settings', { overTerms: 'ask', tells: ['called off'], version }));
    const id = await raise();
    await act(id, planned('2026-11-25'));
    await act(id, { kind: 'called off', text: 'sold' });
    expect(await said(id)).toEqual([
      ['order called off', 'Rosa Vidal', 'mail'],
      ['order called off', 'The technician', 'mail'],
    ]);
  });
});
