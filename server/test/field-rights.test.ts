// What a phone tells of an order that never was its technician's: refused by name whatever it is, and nothing of it is kept.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { PhoneActIn } from '#api/field.ts';
import { startTerminal, type StandInTerminal } from '#standins/terminal.ts';
import { asInstant } from '#core/time/index.ts';
import { asset, person } from '../src/tables.ts';
import { changed, kept } from './every-row.ts';
import { minutesAfter, phoneOf, reasonOf, told } from './field-house.ts';
import { must, type Caller } from './house.ts';
import { day, openRota, repairOf, rotaCalls, type RotaHouse } from './rota-house.ts';
import { stocking } from './stock-house.ts';

let here: RotaHouse;
let own: Caller;
let terminal: StandInTerminal;
const { page, book, nextMachine } = rotaCalls(() => here);
beforeAll(async () => {
  terminal = await startTerminal();
  here = await openRota(12, { terminalUrl: terminal.url });
  own = await here.house.as('technician');
  await here.house.database.db.update(person).set({ showsPrice: true });
});
afterAll(async () => {
  await here?.house.close();
  await terminal?.stop();
});

const AT = minutesAfter(asInstant('2026-11-24T09:40:00Z'), 1);

async function orderOf(technician: number): Promise<{ id: number; lineId: number; assetId: number }> {
  const id = await repairOf(here, nextMachine());
  must(await book([id], [technician], day('2026-11-24', '12:00'), { anyway: true, overlapReason: 'a test' }));
  const [line] = (await page(id)).lines;
  return { id, lineId: line?.id as number, assetId: line?.assetId as number };
}

it('is refused, and nothing of it is kept', async () => {
  const { id: orderId, lineId, assetId } = await orderOf(here.people.lia);
  const partId = await stocking(here.desk).addPart();
  const [other] = await here.house.database.db.select().from(asset).limit(1);
  const of = { orderId };
  const bodies: Record<string, PhoneActIn['body']> = {
    arrived: { kind: 'order', ...of, act: { kind: 'arrived' } },
    found: {
      kind: 'order',
      ...of,
      act: { kind: 'found', lineId, symptom: 'x', fault: null, cause: null, remedy: null },
      was: null,
    },
    part: { kind: 'part', ...of, lineId, partId, thousandths: 1000, serial: '', storeId: null },
    need: { kind: 'need', ...of, lineId, partId, thousandths: 1000 },
    cost: { kind: 'cost', ...of, lineId, day: '2026-11-24', text: 'Toll', cost: 450, price: 450 },
    photo: { kind: 'photo', ...of, photo: randomUUID(), name: 'x.jpg', signs: true },
    rest: { kind: 'rest', ...of, lineIds: [lineId], reason: 'no time', own: true },
    machine: { kind: 'machine', ...of, code: other?.tag as string, text: '' },
    swap: {
      kind: 'swap',
      ...of,
      assetId,
      code: 'S-NEW',
      fresh: { tag: 'T-NEW', serial: 'S-NEW' },
      partsMove: true,
      text: '',
    },
    invoice: { kind: 'to invoice', ...of },
  } as never;
  const before = await kept(here.house);
  for (const [name, body] of Object.entries(bodies)) {
    const [outcome] = await phoneOf(own).send(told(body, AT));
    expect([name, outcome?.kind, reasonOf(outcome)]).toEqual([name, 'refused', expect.stringMatching(/./)]);
  }
  expect((await own('POST', `/api/orders/${orderId}/card`, { requestKey: randomUUID(), amount: 1 })).status).toBe(403);
  // That it was refused is kept, so that it is answered the same again.
  expect(changed(before, await kept(here.house))).toEqual(['field_act']);
});

it('a payment’s key is of one order for good', async () => {
  const [one, two] = [await orderOf(here.people.technician), await orderOf(here.people.technician)];
  for (const { id, lineId } of [one, two])
    must(
      await here.desk('POST', `/api/orders/${id}/costs`, {
        ...{ requestKey: randomUUID(), lineId, day: '2026-11-24', text: 'Hire', cost: 900, price: 900 },
      }),
    );
  const requestKey = randomUUID();
  const card = (id: number) => own('POST', `/api/orders/${id}/card`, { requestKey, amount: 500 });
  expect([(await card(one.id)).status, (await card(two.id)).status]).toEqual([200, 409]);
  expect([...terminal.taken.values()]).toEqual([500]);
});
