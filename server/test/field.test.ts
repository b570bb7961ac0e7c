// Field over the routes: what a phone holds, acts taken once and judged again, and what is kept of work that went to somebody else.
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { PhoneActIn } from '#api/field.ts';
import type { OrderPage } from '#api/orders.ts';
import type { SaidOfAppointment } from '#api/rota.ts';
import { asInstant } from '#core/time/index.ts';
import type { OrderId } from '#core/ids.ts';
import { attachment, fieldAct, orderEvent, otherCost, outbox, timeEntry, usedPart } from '../src/tables.ts';
import { kindsOf, minutesAfter, onOrder, phoneOf, reasonOf, told } from './field-house.ts';
import { must, type Caller } from './house.ts';
import { day, openRota, repairOf, rotaCalls, rotaOf, type RotaHouse } from './rota-house.ts';
import { stocking } from './stock-house.ts';

let here: RotaHouse;
let own: Caller;
let phone: ReturnType<typeof phoneOf>;
const { page, book, nextMachine } = rotaCalls(() => here);

beforeAll(async () => {
  here = await openRota(40);
  own = await here.house.as('technician');
  phone = phoneOf(own);
});
afterAll(() => here?.house.close());

/** A repair whose appointment is the technician's, on the house's day. */
async function sentOrder(time = '12:00', people = [here.people.technician]): Promise<number> {
  const id = await repairOf(here, nextMachine());
  must(await book([id], people, day('2026-11-24', time), { anyway: true, overlapReason: 'a test' }));
  return id;
}
const NOON = asInstant('2026-11-24T09:40:00Z');
const at = (minutes: number): string => minutesAfter(NOON, minutes);
const eventsOf = async (id: number): Promise<string[]> => (await page(id)).events.map((e) => e.text);

describe('what a phone holds', () => {
  it('is the next days of its technician, with all that is needed on site, and nobody else’s', async () => {
    const mine = await sentOrder();
    const others = await sentOrder('12:00', [here.people.lia]);
    const days = await phone.days();
    const appointment = days.appointments.find((a) => a.orderIds.includes(mine));
    expect(appointment).toMatchObject({ sent: false, answer: null, late: null, with: [] });
    expect(days.orders.map((o) => o.id)).toContain(mine);
    expect(days.orders.map((o) => o.id)).not.toContain(others);
    const orders = await phone.orders(mine, others);
    expect(orders.map((o) => o.page.id)).toEqual([mine]);
    expect(orders[0]?.facts).toMatchObject({ kind: 'repair' });
    expect(orders[0]?.stamp).toBe(days.orders.find((o) => o.id === mine)?.stamp);
  });

  it('shows by its stamp that an order is another one', async () => {
    const id = await sentOrder();
    const stamp = async () => (await phone.days()).orders.find((o) => o.id === id)?.stamp;
    const before = await stamp();
    expect(await stamp()).toBe(before);
    must(await here.desk('POST', `/api/orders/${id}/events`, note('look behind it')));
    expect(await stamp()).not.toBe(before);
  });

  it('is for technicians', async () => {
    for (const role of ['dispatcher', 'storekeeper', 'manager'] as const)
      expect((await (await here.house.as(role))('GET', '/api/field')).status).toBe(403);
  });
});

const note = (text: string) => ({ requestKey: randomUUID(), at: at(-5), act: { kind: 'note', text } });

/** A whole visit as it is done: there, working, found out, in use, done. */
function visit(orderId: number, lineId: number, from = 565): PhoneActIn[] {
  const arrived = onOrder(orderId, { kind: 'arrived' }, at(-9));
  const needs = [arrived.deed];
  const found = { symptom: null, fault: null, cause: 'wear', remedy: 'part replaced' };
  return [
    arrived,
    onOrder(orderId, { kind: 'found', lineId, ...found }, at(-6), { needs }),
    onOrder(orderId, { kind: 'restored', lineId: null }, at(-5), { needs }),
    told(
      { kind: 'time', entry: { day: '2026-11-24', kind: 'work', from, to: from + 10, lines: [{ lineId }] } },
      at(-4),
      { needs },
    ),
    onOrder(orderId, { kind: 'done', text: 'new gasket' }, at(-3), { needs }),
  ];
}

describe('acts of a phone', () => {
  it('are taken in their order at their own times, and shown at the office', async () => {
    const id = await sentOrder();
    const [line] = (await page(id)).lines;
    expect(kindsOf(await phone.send(...visit(id, line?.id ?? 0)))).toEqual(Array.from({ length: 5 }, () => 'taken'));
    const after = await page(id);
    expect(after.stage).toBe('done');
    expect(after.events.find((e) => e.text === 'on site')?.at).toBe(asInstant(at(-9)));
    expect(after.worked).toBe(10);
  });

  it('sent twice, or twice at once, are taken once and answered the same', async () => {
    const id = await sentOrder();
    const [line] = (await page(id)).lines;
    const acts = visit(id, line?.id ?? 0, 580);
    const answers = await Promise.all([phone.send(...acts), phone.send(...acts), phone.send(...acts)]);
    for (const outcomes of [...answers, await phone.send(...acts)])
      for (const o of outcomes) expect(['taken', 'waits']).toContain(o.kind);
    expect(kindsOf(await phone.send(...acts))).toEqual(acts.map(() => 'taken'));
    const kinds = (
      await here.house.database.db
        .select()
        .from(orderEvent)
        .where(eq(orderEvent.orderId, id as OrderId))
    )
      .map((e) => e.act.kind)
      .filter((k) => ['arrived', 'found', 'restored', 'done'].includes(k));
    expect(kinds).toEqual(['arrived', 'found', 'restored', 'done']);
    const entries = await here.house.database.db
      .select()
      .from(timeEntry)
      .where(eq(timeEntry.requestKey, acts[3]?.id ?? ''));
    expect(entries).toHaveLength(1);
  });

  it('wait for what they need, and are refused under an id that was used for something else', async () => {
    const id = await sentOrder();
    const arrived = onOrder(id, { kind: 'arrived' }, at(-9));
    const written = onOrder(id, { kind: 'note', text: 'key at the desk' }, at(-8), { needs: [arrived.deed] });
    expect(kindsOf(await phone.send(written))).toEqual(['waits']);
    expect(kindsOf(await phone.send(arrived, written))).toEqual(['taken', 'taken']);
    const reused = { ...written, body: { kind: 'order', orderId: id, act: { kind: 'note', text: 'another' } } };
    expect(reasonOf((await phone.send(reused))[0])).toContain('used for something else');
    expect(await eventsOf(id)).not.toContain('another');
  });

  it('that are refused stay refused with their reason; put right, what needs them goes on', async () => {
    const id = await sentOrder();
    const [line] = (await page(id)).lines;
    const wrong = told(
      {
        kind: 'time',
        entry: { day: '2026-11-24', kind: 'work', from: 540, to: 540, minutes: 5, lines: [{ lineId: line?.id ?? 0 }] },
      },
      at(-4),
    );
    const [first] = await phone.send(wrong);
    expect(first?.kind).toBe('refused');
    expect(await phone.send(wrong)).toEqual([first]);
    const behind = onOrder(id, { kind: 'note', text: 'after it' }, at(-3), { needs: [wrong.deed] });
    expect(kindsOf(await phone.send(behind))).toEqual(['waits']);
    const right = told(
      {
        kind: 'time',
        entry: { day: '2026-11-24', kind: 'work', from: 540, to: 545, lines: [{ lineId: line?.id ?? 0 }] },
      },
      at(-4),
      { deed: wrong.deed },
    );
    expect(kindsOf(await phone.send(right, behind))).toEqual(['taken', 'taken']);
    const twice = { ...right, id: randomUUID() };
    expect(reasonOf((await phone.send(twice))[0])).toContain('told already');
  });

  it('one that nobody can read is refused by itself; the others are taken', async () => {
    const id = await sentOrder();
    const good = onOrder(id, { kind: 'note', text: 'read me' }, at(-3));
    const strange = { ...told({ kind: 'answer' } as never, at(-3)), id: 'strange-0001' };
    const [said, taken] = await phone.send(strange, good);
    expect([said?.kind, taken?.kind]).toEqual(['refused', 'taken']);
    expect(reasonOf((await phone.send(onOrder(id, { kind: 'called off', text: 'no' }, at(-2))))[0])).toContain(
      'The office does this',
    );
  });

  it('of a clock that runs ahead count as of their receipt, marked; a day late as of their own time', async () => {
    const [one, two] = [await sentOrder(), await sentOrder()];
    const ahead = onOrder(one, { kind: 'note', text: 'ahead' }, at(24 * 60));
    const behind = onOrder(two, { kind: 'arrived' }, at(-5), { phoneAt: at(-24 * 60) });
    expect(kindsOf(await phone.send(ahead, behind))).toEqual(['taken', 'taken']);
    const rows = await here.house.database.db.select().from(fieldAct);
    expect(rows.find((r) => r.id === ahead.id)).toMatchObject({ doubtful: true, at: here.house.now });
    expect(rows.find((r) => r.id === behind.id)).toMatchObject({ doubtful: false, at: asInstant(at(-5)) });
  });
});

describe('while a phone was out of reach', () => {
  const callOff = (id: number, when: string) =>
    here.desk('POST', `/api/orders/${id}/events`, {
      ...{ requestKey: randomUUID(), at: when, act: { kind: 'called off', text: 'the customer sold it' } },
    });
  /** The dispatcher gives it to Lia, who hears of it; the phone does not. */
  const giveToLia = async (id: number): Promise<void> => {
    const mine = (await phone.days()).appointments.find((a) => a.orderIds.includes(id));
    const moved = { version: mine?.version, people: [here.people.lia], from: day('2026-11-24', '12:00'), minutes: 60 };
    must(
      await here.desk('PUT', `/api/rota/appointments/${mine?.id}`, { ...moved, anyway: true, overlapReason: 'a test' }),
    );
    expect((await page(id)).technician).toBe('Lia');
  };

  it('the order was called off: an earlier arrival counts, later stages do not, what was found and used is kept', async () => {
    const id = await sentOrder();
    const { addPart } = stocking(here.desk);
    const partId = await addPart();
    const [line] = (await page(id)).lines;
    const lineId = line?.id ?? 0;
    must(await callOff(id, at(-6)));
    const [arrived, back, part, time, written] = await phone.send(
      onOrder(id, { kind: 'arrived' }, at(-9)),
      onOrder(id, { kind: 'restored', lineId: null }, at(-4)),
      told({ kind: 'part', orderId: id, partId, lineId, thousandths: 1000 }, at(-5)),
      told(
        { kind: 'time', entry: { day: '2026-11-24', kind: 'work', from: 550, to: 555, lines: [{ lineId }] } },
        at(-4),
      ),
      onOrder(id, { kind: 'note', text: 'it had been sold' }, at(-3)),
    );
    expect([arrived, back, part, time, written].map((o) => o?.kind)).toEqual([
      ...['taken', 'refused', 'taken', 'taken', 'taken'],
    ]);
    expect(reasonOf(back)).toContain('called off');
    expect((await page(id)).stage).toBe('called off');
    const used = await here.house.database.db
      .select()
      .from(usedPart)
      .where(eq(usedPart.orderId, id as OrderId));
    expect(used).toHaveLength(1);
  });

  it('it was given to somebody else who is not there yet: whoever arrives first keeps it', async () => {
    const id = await sentOrder();
    await giveToLia(id);
    expect(kindsOf(await phone.send(onOrder(id, { kind: 'arrived' }, at(-5))))).toEqual(['taken']);
    expect(await page(id)).toMatchObject({ stage: 'on site', technician: 'The technician' });
  });

  it('somebody else arrived first: what was found and written is kept, stages are not', async () => {
    const id = await sentOrder();
    await giveToLia(id);
    must(
      await here.desk('POST', `/api/orders/${id}/events`, {
        ...{ requestKey: randomUUID(), at: at(20), act: { kind: 'arrived' } },
      }),
    );
    const [line] = (await page(id)).lines;
    const found = { symptom: null, fault: 'leaks', cause: null, remedy: null };
    const [arrived, kept] = await phone.send(
      onOrder(id, { kind: 'arrived' }, at(21)),
      onOrder(id, { kind: 'found', lineId: line?.id, ...found }, at(21)),
    );
    expect(arrived?.kind).toBe('refused');
    expect(reasonOf(arrived)).toContain('arrived before you');
    expect(kept?.kind).toBe('taken');
    expect(await eventsOf(id)).toContain('found: fault leaks');
  });

  it('orders that never were theirs are refused', async () => {
    const id = await sentOrder('12:00', [here.people.rui]);
    const [said] = await phone.send(onOrder(id, { kind: 'note', text: 'hello' }, at(-5)));
    expect(reasonOf(said)).toContain('never yours');
  });
});

describe('an appointment', () => {
  /** What the dispatcher has to answer to, of one appointment. */
  const saidAt = async (id: number) =>
    must(await here.desk<{ items: SaidOfAppointment[] }>('GET', '/api/rota/said')).items.filter((s) => s.id === id);
  const appointmentOf = async (id: number) => {
    const found = (await phone.days()).appointments.find((a) => a.orderIds.includes(id));
    if (!found) throw new Error('no appointment');
    return found;
  };

  it('is accepted, or not and why; moved, it asks again', async () => {
    const id = await sentOrder();
    const first = await appointmentOf(id);
    const answer = { kind: 'answer', appointmentId: first.id, version: first.version } as const;
    const [bare] = await phone.send(told({ ...answer, accepted: false, text: '' }, at(-5)));
    expect(reasonOf(bare)).toBe('Say why not.');
    await phone.send(told({ ...answer, accepted: false, text: 'no gas ticket' }, at(-4)));
    expect((await appointmentOf(id)).answer).toEqual({ accepted: false, text: 'no gas ticket' });
    const shown = (await rotaOf(here.desk)).appointments.find((a) => a.id === first.id);
    expect(shown?.answers).toEqual([{ personId: here.people.technician, accepted: false, text: 'no gas ticket' }]);
    expect(await saidAt(first.id)).toMatchObject([{ late: null, text: 'no gas ticket', who: 'The technician' }]);
    must(
      await here.desk('PUT', `/api/rota/appointments/${first.id}`, {
        ...{ version: first.version, people: [here.people.technician], from: day('2026-11-24', '13:00') },
        ...{ minutes: 60, anyway: true, overlapReason: 'a test' },
      }),
    );
    expect((await appointmentOf(id)).answer).toBeNull();
    expect(await saidAt(first.id)).toEqual([]);
    const [stale] = await phone.send(told({ ...answer, accepted: true, text: '' }, at(-3)));
    expect(reasonOf(stale)).toContain('moved meanwhile');
  });

  it('said to be late, the customer is told once when they may expect us, and the rota knows', async () => {
    const contact = must(
      await here.desk<{ id: number }>('POST', `/api/customers/${here.world.customerId}/contacts`, {
        ...{ name: 'Rita', role: '', phone: null, email: 'rita@example.org', preferred: 'e-mail', language: 'en' },
        locationId: null,
      }),
    ).id;
    const id = await repairOf(here, nextMachine(), { contactId: contact });
    must(await book([id], [here.people.technician], day('2026-11-24', '12:00'), { anyway: true, overlapReason: 'x' }));
    const of = await appointmentOf(id);
    const late = told({ kind: 'late', appointmentId: of.id, minutes: 25, text: 'traffic' }, at(-2));
    expect(kindsOf(await phone.send(late))).toEqual(['taken']);
    await phone.send(late);
    const said = (await here.house.database.db.select().from(outbox)).filter((m) => m.kind === 'rota later');
    expect(said.map((m) => m.toName)).toEqual(['Rita']);
    expect(said[0]?.subject).toContain('12:25');
    expect((await appointmentOf(id)).late).toBe(25);
    expect(await saidAt(of.id)).toMatchObject([{ late: 25, text: 'traffic', who: 'The technician' }]);
  });
});

describe('hours', () => {
  it('are entered on site for whoever goes along, and for nobody else', async () => {
    const { technician, lia, rui } = here.people;
    const id = await sentOrder('12:00', [technician, lia]);
    const [line] = (await page(id)).lines;
    const entry = { day: '2026-11-24', kind: 'work', from: 300, to: 310, lines: [{ lineId: line?.id ?? 0 }] } as const;
    const hours = (personId: number) =>
      told({ kind: 'time', personId, entry: { ...entry, lines: [...entry.lines] } }, at(-3));
    const [along, stranger] = await phone.send(hours(lia), hours(rui));
    expect([along?.kind, stranger?.kind]).toEqual(['taken', 'refused']);
    expect(reasonOf(stranger)).toContain('for oneself');
  });
});

const PNG = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);

describe('photos of a phone', () => {
  it('come by themselves, once, and hang on the order that an act names', async () => {
    const id = await sentOrder();
    const photo = randomUUID();
    for (let i = 0; i < 2; i += 1) must(await own('POST', `/api/field/photos/${photo}`, PNG));
    const act = told({ kind: 'photo', orderId: id, photo, name: 'before.png' }, at(-3));
    expect(kindsOf(await phone.send(act, act))).toEqual(['taken', 'taken']);
    const { items } = must(
      await here.desk<{ items: { name: string }[] }>('GET', `/api/files?subject=order&subjectId=${id}`),
    );
    expect(items.map((f) => f.name)).toEqual(['before.png']);
    const lost = told({ kind: 'photo', orderId: id, photo: randomUUID(), name: 'lost.png' }, at(-2));
    expect(reasonOf((await phone.send(lost))[0])).toContain('take it again');
    expect((await own('POST', `/api/field/photos/${randomUUID()}`, Buffer.from('no photo'))).status).toBe(400);
  });
});

describe('the rest of a visit', () => {
  it('goes on as another order, ready for the dispatcher; a part is asked for', async () => {
    const id = await sentOrder();
    const { addPart } = stocking(here.desk);
    const partId = await addPart();
    const [line] = (await page(id)).lines;
    const lineId = line?.id ?? 0;
    const rest = told({ kind: 'rest', orderId: id, lineIds: [lineId], reason: 'needs a new seal' }, at(-3));
    const need = (n: number) => told({ kind: 'need', orderId: id, lineId, partId, thousandths: n * 1000 }, at(-4));
    expect(kindsOf(await phone.send(need(1), need(2), rest, rest))).toEqual(['taken', 'taken', 'taken', 'taken']);
    const { followedBy } = must(await here.desk<OrderPage>('GET', `/api/orders/${id}`));
    expect(followedBy).toHaveLength(1);
  });
});

describe('another cost', () => {
  it('hangs its receipt on, once; without the photo it is refused and keeps nothing', async () => {
    const id = await sentOrder();
    const lineId = (await page(id)).lines[0]?.id ?? 0;
    const photo = randomUUID();
    must(await own('POST', `/api/field/photos/${photo}`, PNG));
    const hung = told({ kind: 'photo', orderId: id, photo, name: 'receipt.png' }, at(1));
    const paid = {
      kind: 'cost',
      orderId: id,
      lineId,
      day: '2026-11-24',
      text: 'Parking',
      cost: 450,
      price: 450,
    } as const;
    const cost = told({ ...paid, receipt: photo }, at(2), { needs: [hung.deed] });
    expect(kindsOf(await phone.send(cost))).toEqual(['waits']);
    expect(kindsOf(await phone.send(hung, cost, cost))).toEqual(['taken', 'taken', 'taken']);
    const [kept, ...others] = await here.house.database.db
      .select()
      .from(otherCost)
      .where(eq(otherCost.orderId, id as OrderId));
    expect(others).toEqual([]);
    const [file] = await here.house.database.db
      .select()
      .from(attachment)
      .where(eq(attachment.id, kept?.receiptId as never));
    expect(file?.name).toBe('receipt.png');
    const without = told({ ...paid, receipt: randomUUID() }, at(3));
    expect(reasonOf((await phone.send(without))[0])).toContain('receipt did not come');
    expect(await here.house.database.db.$count(otherCost, eq(otherCost.orderId, id as OrderId))).toBe(1);
  });
});
