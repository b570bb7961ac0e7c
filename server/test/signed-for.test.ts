// Work under an agreement that asks for the customer's sign-off: not done before somebody signed, or it was said why nobody did.
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { AgreementPage } from '#api/agreements/index.ts';
import { calling, refusedAt } from './calling.ts';
import { agreementInForce, buildWorld, must, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let world: World;
let call: Caller;
let agreement: number;
const { raised, page, record } = calling(() => ({ call, world }));
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
  agreement = await agreementInForce(call, world);
});
afterAll(() => house.close());

async function asks(signOff: boolean): Promise<void> {
  const { version } = must(await call<AgreementPage>('GET', `/api/agreements/${agreement}`));
  const care = { version, managerId: null, contactIds: [], costCentre: '', reminder: '', signOff };
  must(await call('PUT', `/api/agreements/${agreement}/administration`, care));
}
/** Everything done at the machine, so that only the sign-off may be missing. */
async function workedOn(): Promise<number> {
  const id = await raised();
  must(await record(id, { kind: 'arrived' }));
  must(await record(id, { kind: 'restored' }));
  return id;
}
const sign = (over: object) => ({ kind: 'signed', by: '', function: '', text: '', ...over });
const done = { kind: 'done', text: '' };

describe('the customer’s sign-off', () => {
  it('is missing where the agreement asks for it, and nowhere else', async () => {
    await asks(false);
    const id = await workedOn();
    expect((await page(id)).missing).toEqual([]);
    await asks(true);
    expect((await page(id)).missing.map((m) => m.what)).toEqual(['sign-off']);
    const before = await page(id);
    expect(refusedAt(await record(id, done))).toEqual([422, 'kind', 'missing']);
    expect(refusedAt(await record(id, sign({})))).toEqual([422, 'act.by', 'missing']);
    expect(refusedAt(await record(id, sign({ by: 'Marta Silva' })))).toEqual([422, 'act.function', 'missing']);
    expect((await page(id)).events).toEqual(before.events);
    must(await record(id, sign({ by: 'Marta Silva', function: 'shift lead' })));
    const signed = await page(id);
    expect([signed.missing, signed.signed]).toEqual([[], 'signed for by Marta Silva, shift lead']);
    must(await record(id, done));
  });

  it('is settled by saying why nobody signed, or by a manager’s word', async () => {
    await asks(true);
    const [unsigned, finished] = [await workedOn(), await workedOn()];
    must(await record(unsigned, sign({ text: 'night shift' })));
    must(await record(unsigned, done));
    expect((await page(unsigned)).signed).toBe('nobody signed for it: night shift');
    const manager = await house.as('manager');
    must(await record(finished, { ...done, anyway: 'agreed by phone' }, manager));
    expect((await page(finished)).stage).toBe('done');
  });

  it('asked for later takes nothing back of what is done', async () => {
    await asks(false);
    const before = await workedOn();
    must(await record(before, done));
    await asks(true);
    must(await record(before, { kind: 'note', text: 'invoice sent' }));
    expect((await page(before)).stage).toBe('done');
  });
});
