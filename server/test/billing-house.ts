// A house that bills: orders done with parts and other costs, a standard tax, in whose name documents are sent, and small builders.
import { randomUUID } from 'node:crypto';
import type { LookPage } from '#api/billing.ts';
import type { DocumentPage } from '#api/documents.ts';
import { eq } from 'drizzle-orm';
import { lookAtMarked } from '../src/settle/index.ts';
import { job } from '../src/tables.ts';
import { buildWorld, must, openHouse, type Caller, type TestHouse, type World } from './house.ts';

export type BillingHouse = {
  readonly house: TestHouse;
  readonly call: Caller;
  readonly manager: Caller;
  readonly world: World;
  /** An order that is done: two gaskets at 89.90, of which the agreement bears 80 %, and a toll of 15.00 that is the customer's. */
  done(over?: { machine?: number; toll?: number; reference?: string }): Promise<number>;
  look(id: number): Promise<LookPage>;
  approve(...ids: number[]): Promise<{ approved: number; left: { orderId: number; reason: string }[] }>;
  /** Bills and waits until the run has ended. */
  bill(over?: object): Promise<number>;
  documents(query?: string): Promise<DocumentPage[]>;
};

export const SELLER = {
  name: 'Halmen Cold Service',
  address: 'Rua do Cais 4, Porto',
  country: 'PT',
  taxNumber: 'PT500000000',
};
export const billAsk = (over: object = {}) => ({
  ...{ upTo: '2026-11-30', takesOrders: true, takesFees: false, customerId: null, orderId: null, issues: true },
  ...over,
});

async function setUp(manager: Caller): Promise<void> {
  must(await manager('POST', '/api/taxes', { name: 'Standard', category: 'S', hundredths: 2300, isStandard: true }));
  must(
    await manager('PUT', '/api/settle/settings', {
      ...{ version: 0, billsFrom: '2026-11-01', secondAbove: 50_00, seller: SELLER, account: 'PT50 0000 0000' },
      ...{
        graceDays: 10,
        reminderLevels: [
          { days: 10, wait: 0 },
          { days: 24, wait: 14 },
        ],
      },
    }),
  );
}

async function raiseDone(
  call: Caller,
  world: World,
  partId: number,
  over: { machine?: number; toll?: number; reference?: string },
) {
  const { id } = must(
    await call<{ id: number }>('POST', '/api/orders', {
      ...{ requestKey: randomUUID(), assetIds: [world.assetIds[over.machine ?? 0]], priority: 2, cause: 'wear' },
      ...{ title: 'Warm', receivedAt: '2026-11-23T09:00:00Z', customerReference: over.reference ?? '' },
    }),
  );
  const { lines } = must(await call<{ lines: { id: number }[] }>('GET', `/api/orders/${id}`));
  const lineId = lines[0]?.id;
  const act = async (at: string, kind: object) =>
    must(await call('POST', `/api/orders/${id}/events`, { requestKey: randomUUID(), at, act: kind }));
  await act('2026-11-23T10:00:00Z', { kind: 'arrived' });
  await act('2026-11-23T11:00:00Z', { kind: 'restored' });
  must(await call('POST', `/api/orders/${id}/parts`, { requestKey: randomUUID(), partId, lineId, thousandths: 2000 }));
  const toll = over.toll ?? 15_00;
  if (toll > 0)
    must(
      await call('POST', `/api/orders/${id}/costs`, {
        ...{ requestKey: randomUUID(), lineId, day: '2026-11-23', text: 'Toll', cost: 12_50, price: toll, taxId: null },
      }),
    );
  await act('2026-11-23T12:00:00Z', { kind: 'done', text: '' });
  return id;
}

export async function openBillingHouse(): Promise<BillingHouse> {
  const house = await openHouse();
  const [call, manager] = [await house.as('coordinator'), await house.as('manager')];
  const world = await buildWorld(call, { assets: 4 });
  await setUp(manager);
  const { id: partId } = must(
    await call<{ id: number }>('POST', '/api/parts', {
      ...{ number: 'GS-720', name: 'Door gasket', unit: 'piece', listPrice: 89_90, cost: 51_00, taxId: null },
      ...{ consumable: false, serialTracked: false, retired: false },
    }),
  );
  const look = async (id: number) => must(await manager<LookPage>('GET', `/api/settle/orders/${id}`));
  return {
    ...{ house, call, manager, world, look },
    async done(over = {}) {
      const id = await raiseDone(call, world, partId, over);
      while ((await lookAtMarked(house.database)) > 0);
      return id;
    },
    async approve(...ids) {
      const orders = await Promise.all(ids.map(async (id) => ({ id, digest: (await look(id)).digest })));
      return must(await call('POST', '/api/settle/approvals', { orders }));
    },
    async bill(over = {}) {
      const { id } = must(
        await call<{ id: number }>('POST', '/api/settle/runs', { requestKey: randomUUID(), ...billAsk(over) }),
      );
      for (let i = 0; i < 200; i += 1) {
        const { items } = must(await call<{ items: { id: number; state: string }[] }>('GET', '/api/settle/runs'));
        if (items.find((r) => r.id === id)?.state === 'ended') return id;
        await new Promise((resolve) => setTimeout(resolve, 50));
      }
      const [lost] = await house.database.db
        .select()
        .from(job)
        .where(eq(job.jobKey, `billing ${id}`));
      throw new Error(`the run did not end: ${lost?.state}, ${lost?.problem}`);
    },
    async documents(query = '') {
      const { items } = must(await call<{ items: { id: number }[] }>('GET', `/api/settle/documents${query}`));
      return Promise.all(
        items.map(async ({ id }) => must(await call<DocumentPage>('GET', `/api/settle/documents/${id}`))),
      );
    },
  };
}
