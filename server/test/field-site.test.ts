// A technician's day as far as it reaches beyond the order: where they were, work that goes on, machines swapped and found, cards, reports.
import { randomUUID } from 'node:crypto';
import { eq, like } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { AssetPage } from '#api/register.ts';
import type { OrderCharges } from '#api/settle.ts';
import type { PhoneActIn } from '#api/field.ts';
import { asInstant } from '#core/time/index.ts';
import type { OrderId, PersonId } from '#core/ids.ts';
import { startTerminal, type StandInTerminal } from '#standins/terminal.ts';
import { REPORTING } from '../src/field/report.ts';
import { forgetPositions } from '../src/rota/seen.ts';
import { asset, attachment, orderPayment, outbox, person, positionConsent, saidPosition } from '../src/tables.ts';
import { readContent } from '../src/platform/content.ts';
import { dueNow, kindsOf, minutesAfter, onOrder, phoneOf, reasonOf, told } from './field-house.ts';
import { must, registerAsset, type Caller } from './house.ts';
import { day, openRota, repairOf, rotaCalls, rotaOf, type RotaHouse } from './rota-house.ts';

let here: RotaHouse;
let own: Caller;
let terminal: StandInTerminal;
let phone: ReturnType<typeof phoneOf>;
const { page, book, nextMachine } = rotaCalls(() => here);

beforeAll(async () => {
  terminal = await startTerminal();
  here = await openRota(40, { terminalUrl: terminal.url });
  own = await here.house.as('technician');
  phone = phoneOf(own);
});
afterAll(async () => {
  await here?.house.close();
  await terminal?.stop();
});

const at = (minutes: number): string => minutesAfter(asInstant('2026-11-24T09:40:00Z'), minutes);
const db = () => here.house.database.db;

/** A repair that the technician is at. */
async function onSite(over: object = {}): Promise<number> {
  const id = await repairOf(here, nextMachine(), over);
  must(
    await book([id], [here.people.technician], day('2026-11-24', '12:00'), { anyway: true, overlapReason: 'a test' }),
  );
  expect(kindsOf(await phone.send(onOrder(id, { kind: 'arrived' }, at(0))))).toEqual(['taken']);
  return id;
}
const say = async (body: PhoneActIn['body'], minutes = 1) => (await phone.send(told(body, at(minutes))))[0];
const allow = (allowed: boolean, minutes = 0) => say({ kind: 'position allowed', allowed }, minutes);
const wasAt = (orderId: number, over: object = {}): PhoneActIn['body'] => ({
  ...{ kind: 'was at', deed: randomUUID(), orderId, latitude: 42.1001, longitude: -8.4, accuracy: 12.4, ...over },
});
const seenOn = async (call: Caller, id: number) => (await rotaOf(call)).people.find((p) => p.id === id)?.seen ?? null;

describe('where somebody is', () => {
  it('is said with what they do only while they allow it, seen by the office alone, and forgotten when they take it back', async () => {
    const { technician } = here.people;
    const id = await onSite();
    expect(reasonOf(await say(wasAt(id)))).toContain('did not allow');
    expect(await db().select().from(saidPosition)).toEqual([]);
    expect((await phone.days()).person.allowsPosition).toBe(false);
    expect((await allow(true))?.kind).toBe('taken');
    expect((await phone.days()).person.allowsPosition).toBe(true);
    expect((await say(wasAt(id), 2))?.kind).toBe('taken');
    expect(await seenOn(here.desk, technician)).toMatchObject({ orderId: id, latitude: 42.1001, accuracy: 12 });
    // Said later of an earlier moment, it changes nothing of where they are now.
    await say(wasAt(id, { latitude: 40 }), 1);
    expect(await seenOn(here.desk, technician)).toMatchObject({ latitude: 42.1001 });
    expect(await seenOn(own, technician)).toMatchObject({ latitude: 42.1001 });
    expect(await seenOn(await here.house.as('storekeeper'), technician)).toBeNull();
    expect((await allow(false, 3))?.kind).toBe('taken');
    expect([await seenOn(here.desk, technician), await db().$count(saidPosition)]).toEqual([null, 0]);
    const kept = await db().select().from(positionConsent);
    expect(kept.map((c) => [c.personId, c.allowed])).toEqual([
      [technician, true],
      [technician, false],
    ]);
  });

  it('cannot be outside the earth, and is forgotten after a week', async () => {
    await allow(true);
    await say(wasAt(await onSite()));
    expect(await forgetPositions(here.house.database, asInstant('2026-12-01T09:00:00Z'))).toBe(0);
    expect(await forgetPositions(here.house.database, asInstant('2026-12-01T10:00:00Z'))).toBe(1);
    expect((await say(wasAt(1, { latitude: 91 })))?.kind).toBe('refused');
    expect((await say(wasAt(1, { longitude: -181 })))?.kind).toBe('refused');
  });
});

describe('what cannot be finished', () => {
  const rest = (id: number, lineId: number, over: object = {}): PhoneActIn['body'] => ({
    ...{ kind: 'rest', orderId: id, lineIds: [lineId], reason: 'the fan comes at noon', ...over },
  });
  const restOf = async (id: number) => page((await page(id)).followedBy[0]?.id as number);

  it('is taken on oneself for later that day: planned for them, sent, and on their phone', async () => {
    const id = await onSite();
    const lineId = (await page(id)).lines[0]?.id as number;
    expect((await say(rest(id, lineId, { own: true })))?.kind).toBe('taken');
    const next = await restOf(id);
    expect(next).toMatchObject({ stage: 'sent', technicianId: here.people.technician, plannedFor: '2026-11-24' });
    expect((await phone.days()).orders.map((o) => o.id)).toContain(next.id);
  });

  it('waits for the dispatcher with what is needed and when, unplanned', async () => {
    const id = await onSite();
    const lineId = (await page(id)).lines[0]?.id as number;
    const act = told(rest(id, lineId, { parts: '1 fan', wishedOn: '2026-11-26' }), at(2));
    expect(kindsOf(await phone.send(act, act))).toEqual(['taken', 'taken']);
    expect((await page(id)).followedBy).toHaveLength(1);
    const next = await restOf(id);
    expect(next).toMatchObject({ stage: 'raised', technicianId: null, wishedOn: '2026-11-26' });
    expect(next.events[0]?.text).toContain('parts needed: 1 fan');
  });
});

describe('done', () => {
  // Source of the rule: domain-work, Settled questions, Field.
  it('stops the promise of back in use where nothing did, and needs an arrival', async () => {
    const id = await repairOf(here, nextMachine());
    must(
      await book([id], [here.people.technician], day('2026-11-24', '12:00'), { anyway: true, overlapReason: 'a test' }),
    );
    const found = {
      kind: 'found',
      lineId: (await page(id)).lines[0]?.id,
      symptom: null,
      fault: null,
      cause: 'wear',
      remedy: 'x',
    };
    expect(reasonOf((await phone.send(onOrder(id, { kind: 'done', text: '' }, at(5))))[0])).toContain('on site');
    await phone.send(onOrder(id, { kind: 'arrived' }, at(0)), onOrder(id, found, at(1)));
    expect(kindsOf(await phone.send(onOrder(id, { kind: 'done', text: 'fan changed' }, at(8))))).toEqual(['taken']);
    const { lines, clocks } = await page(id);
    const restoration = clocks.find((c) => c.target === 'restoration');
    expect(lines[0]?.restoredAt).toBe(asInstant(at(8)));
    expect(restoration).toMatchObject({ state: 'met', stoppedAt: asInstant(at(8)) });
  });

  it('has its report among the files of the order, and the contact hears of it once, with it', async () => {
    const customer = (await page(await onSite())).customer.id;
    const contact = {
      name: 'Paulo Reis',
      email: 'paulo@example.org',
      phone: null,
      preferred: 'e-mail',
      language: 'pt',
    };
    const contactId = must(
      await here.desk<{ id: number }>('POST', `/api/customers/${customer}/contacts`, { ...contact, role: 'site lead' }),
    ).id;
    const id = await onSite({ contactId });
    const lineId = (await page(id)).lines[0]?.id as number;
    const signed = { kind: 'signed', by: 'Marta Silva', function: 'shift lead', text: '' };
    await phone.send(
      onOrder(id, { kind: 'found', lineId, symptom: null, fault: null, cause: 'wear', remedy: 'x' }, at(1)),
      onOrder(id, signed, at(2)),
      onOrder(id, { kind: 'done', text: 'fan changed' }, at(3)),
    );
    const reports = () =>
      db()
        .select()
        .from(attachment)
        .where(like(attachment.name, `%${id}%report.pdf`));
    await dueNow(here.house, REPORTING);
    await expect.poll(async () => (await reports()).length, { timeout: 20_000 }).toBe(1);
    const [report] = await reports();
    const bytes = await readContent(db(), report?.sha256 as string);
    expect(bytes.subarray(0, 5).toString()).toBe('%PDF-');
    const messages = await db().select().from(outbox).where(eq(outbox.kind, 'order done'));
    const mine = messages.filter((m) => m.aboutId === id);
    expect(mine).toMatchObject([{ way: 'mail', address: 'paulo@example.org', paperSha256: report?.sha256 }]);
    expect(mine[0]?.subject).toContain('concluído');
  });
});

describe('what was found', () => {
  const nothing = { symptom: null, fault: null, cause: null, remedy: null };
  const found = (id: number, lineId: number, over: object, was: object | undefined, minutes: number) =>
    say(
      { kind: 'order', orderId: id, act: { kind: 'found', lineId, ...nothing, ...over }, ...(was && { was }) } as never,
      minutes,
    );
  const held = async (id: number) => (await page(id)).lines[0]?.found;
  const officeSays = (id: number, lineId: number, over: object) =>
    here.desk('POST', `/api/orders/${id}/events`, {
      ...{ requestKey: randomUUID(), at: at(5), act: { kind: 'found', lineId, ...nothing, ...over } },
    });

  it('stands beside what the office said meanwhile; the same field said otherwise is refused, and nothing of it kept', async () => {
    const id = await onSite();
    const lineId = (await page(id)).lines[0]?.id as number;
    must(await officeSays(id, lineId, { cause: 'wear' }));
    expect((await found(id, lineId, { remedy: 'seal replaced' }, nothing, 3))?.kind).toBe('taken');
    expect(await held(id)).toMatchObject({ cause: 'wear', remedy: 'seal replaced' });
    const before = await held(id);
    const torn = await found(id, lineId, { cause: 'dirt', symptom: 'warm' }, nothing, 4);
    expect(torn).toMatchObject({ kind: 'refused', refusals: [{ code: 'conflict', field: 'cause' }] });
    expect(await held(id)).toEqual(before);
    // Said again by who has seen what the office says, it holds.
    expect((await found(id, lineId, { ...before, cause: 'dirt' }, before ?? nothing, 5))?.kind).toBe('taken');
    expect(await held(id)).toMatchObject({ cause: 'dirt', remedy: 'seal replaced' });
  });
});

it('a phone fetches an order again when what it costs changed, and not for what another costs', async () => {
  const [id, other] = [await onSite(), await onSite()];
  const stamp = async () => (await phone.days()).orders.find((o) => o.id === id)?.stamp;
  const lineOf = async (of: number) => (await page(of)).lines[0]?.id as number;
  const cost = async (of: number) =>
    say({ kind: 'cost', orderId: of, lineId: await lineOf(of), day: '2026-11-24', text: 'Toll', cost: 45, price: 45 });
  const before = await stamp();
  expect([(await cost(other))?.kind, await stamp()]).toEqual(['taken', before]);
  expect([(await cost(id))?.kind, (await stamp()) === before]).toEqual(['taken', false]);
});

describe('a phone of another version', () => {
  it('earlier: what it tells as it did then is taken', async () => {
    const id = await onSite();
    const lineId = (await page(id)).lines[0]?.id as number;
    const before = [
      { kind: 'order', orderId: id, act: { kind: 'note', text: 'as ever' } },
      {
        kind: 'order',
        orderId: id,
        act: { kind: 'found', lineId, symptom: 'warm', fault: null, cause: null, remedy: null },
      },
      { kind: 'cost', orderId: id, lineId, day: '2026-11-24', text: 'Toll', cost: 450, price: 450 },
      { kind: 'rest', orderId: id, lineIds: [lineId], reason: 'no time' },
    ];
    const outcomes = await phone.send(...before.map((body) => told(body as never, at(2))));
    expect(kindsOf(outcomes)).toEqual(['taken', 'taken', 'taken', 'taken']);
  });

  it('later: what this server has no word for is refused with what would be right, and holds up nothing', async () => {
    const id = await onSite();
    const unknown = told({ kind: 'weighed', orderId: id, kilograms: 4 } as never, at(2));
    const more = { ...onOrder(id, { kind: 'note', text: 'and this' }, at(3)), mood: 'fine' };
    const [strange, known] = await phone.send(unknown, more);
    expect(reasonOf(strange)).toContain('does not know “weighed” yet');
    expect(known?.kind).toBe('taken');
  });
});

describe('machines on site', () => {
  const inStore = async (over: object = {}): Promise<{ id: number; tag: string }> => {
    const tag = `N-${randomUUID().slice(0, 6)}`;
    const made = await registerAsset(here.desk, here.world, { tag, serial: `S-${tag}`, locationId: null, ...over });
    return { id: must(made).id, tag };
  };
  const assetPage = async (id: number): Promise<AssetPage> =>
    must(await here.desk<AssetPage>('GET', `/api/assets/${id}`));
  const swap = (orderId: number, assetId: number, over: object = {}): PhoneActIn['body'] => ({
    ...{ kind: 'swap', orderId, assetId, code: '', fresh: null, partsMove: false, text: 'compressor dead', ...over },
  });

  it('are swapped by what is on the plate; parts go over or stay, as was said', async () => {
    for (const partsMove of [true, false]) {
      const id = await onSite();
      const old = (await page(id)).lines[0]?.assetId as number;
      const part = await inStore();
      const { locationId } =
        (
          await db()
            .select()
            .from(asset)
            .where(eq(asset.id, old as never))
        )[0] ?? {};
      await db()
        .update(asset)
        .set({ parentId: old as never, locationId, state: 'in service' })
        .where(eq(asset.id, part.id as never));
      expect((await phone.orders(id))[0]?.machines[0]?.parts.map((p) => p.tag)).toEqual([part.tag]);
      const fresh = await inStore();
      expect((await say(swap(id, old, { code: `S-${fresh.tag}`, partsMove }), 2))?.kind).toBe('taken');
      const [was, is, own] = await Promise.all([old, fresh.id, part.id].map(assetPage));
      expect([was?.state, is?.state]).toEqual(['in store', 'in service']);
      expect(own?.parent?.id).toBe(partsMove ? fresh.id : old);
    }
  });

  it('a new one is registered by it; refused, nothing is registered and nothing moves', async () => {
    const id = await onSite();
    const old = (await page(id)).lines[0]?.assetId as number;
    const before = await db().select().from(asset);
    expect(reasonOf(await say(swap(id, old, { code: 'NOBODY-KNOWS' }), 2))).toContain('no tag and no serial');
    expect(reasonOf(await say(swap(id, before.at(-1)?.id as number, { code: 'X' }), 2))).toContain('not on this order');
    const taken = { tag: before[0]?.tag as string, serial: 'S-NEW' };
    expect(reasonOf(await say(swap(id, old, { code: 'S-NEW', fresh: taken }), 2))).toContain('belongs to another');
    expect(await db().select().from(asset)).toEqual(before);
    const fresh = { tag: `T-${randomUUID().slice(0, 6)}`, serial: 'S-NEW' };
    expect((await say(swap(id, old, { code: 'S-NEW', fresh }), 2))?.kind).toBe('taken');
    const [made] = await db().select().from(asset).where(eq(asset.tag, fresh.tag));
    expect(made).toMatchObject({
      serial: 'S-NEW',
      state: 'in service',
      model: before.find((a) => a.id === old)?.model,
    });
  });

  it('found there join the order with their checklist, once', async () => {
    const [id, other] = [await onSite(), nextMachine()];
    const { tag } = await assetPage(other);
    const act = told({ kind: 'machine', orderId: id, code: tag, text: 'beside it' }, at(2));
    expect(kindsOf(await phone.send(act, act))).toEqual(['taken', 'taken']);
    expect((await page(id)).lines.map((l) => l.tag)).toContain(tag);
    expect(reasonOf(await say({ kind: 'machine', orderId: id, code: tag, text: '' }, 3))).toContain('already');
    expect(reasonOf(await say({ kind: 'machine', orderId: id, code: 'Q-NONE', text: '' }, 3))).toContain('register');
  });

  it('what else is open at the place is told', async () => {
    const machine = nextMachine();
    const [one, two] = [
      await repairOf(here, machine),
      await repairOf(here, machine, { anyway: true, title: 'Door loose' }),
    ];
    must(await book([one], [here.people.technician], day('2026-11-24', '12:00'), { anyway: true, overlapReason: 'x' }));
    const [order] = await phone.orders(one);
    expect(order?.alsoHere.map((o) => o.orderId)).toContain(two);
    expect(order?.alsoHere.map((o) => o.orderId)).not.toContain(one);
  });
});

describe('paying on site', () => {
  const lets = (showsPrice: boolean) =>
    db()
      .update(person)
      .set({ showsPrice })
      .where(eq(person.id, here.people.technician as PersonId));
  const card = (id: number, amount: number, requestKey: string = randomUUID()) =>
    own<{ state: string; receipt: string }>('POST', `/api/orders/${id}/card`, { requestKey, amount });
  const cost = (id: number, lineId: number, minor: number): PhoneActIn['body'] => ({
    ...{ kind: 'cost', orderId: id, lineId, day: '2026-11-24', text: 'Hire', cost: minor, price: minor },
    ...{ taxId: null, oursBecause: null, receiptId: null, receipt: null },
  });
  const charges = async (id: number) => must(await here.desk<OrderCharges>('GET', `/api/orders/${id}/charges`));

  it('is for those who may show prices; others are told nothing of them', async () => {
    const id = await onSite();
    await say(cost(id, (await page(id)).lines[0]?.id as number, 5_000));
    expect((await phone.orders(id))[0]?.comesTo).toBeNull();
    expect((await card(id, 100)).status).toBe(403);
    await lets(true);
    expect((await phone.orders(id))[0]?.comesTo).toMatchObject({ pay: 5_000, paid: 0, toInvoice: false });
    expect((await say({ kind: 'to invoice', orderId: id }, 2))?.kind).toBe('taken');
    expect((await phone.orders(id))[0]?.comesTo).toMatchObject({ toInvoice: true });
    await lets(false);
  });

  it('takes at most what is due, each payment once, and says what was declined', async () => {
    await lets(true);
    const id = await onSite();
    await say(cost(id, (await page(id)).lines[0]?.id as number, 10_000));
    const due = (await phone.orders(id))[0]?.comesTo?.withTax as number;
    expect((await card(id, due + 1)).status).toBe(422);
    expect((await card(id, 4_013)).body).toMatchObject({ state: 'declined' });
    const key = randomUUID();
    const answers = await Promise.all([card(id, 4_000, key), card(id, 4_000, key), card(id, 4_000, key)]);
    for (const a of answers) expect([a.status, a.body.state]).toEqual([200, 'paid']);
    expect((await card(id, 4_100, key)).status).toBe(409);
    expect([...terminal.taken.values()].reduce((a, b) => a + b, 0)).toBe(4_000);
    expect((await phone.orders(id))[0]?.comesTo).toMatchObject({ paid: 4_000 });
    expect((await charges(id)).payments.map((p) => [p.way, p.state, p.amount])).toEqual([
      ['card', 'declined', 4_013],
      ['card', 'paid', 4_000],
    ]);
    await lets(false);
  });

  it('what the terminal never answered is asked for again, by the same payment or before the next', async () => {
    await lets(true);
    const id = await onSite();
    await say(cost(id, (await page(id)).lines[0]?.id as number, 10_000));
    const lost = {
      orderId: id as OrderId,
      way: 'card',
      state: 'asked',
      amount: 3_000,
      currency: 'EUR',
      receipt: '',
    } as const;
    await db()
      .insert(orderPayment)
      .values({
        ...lost,
        personId: here.people.technician as PersonId,
        at: here.house.now,
        requestKey: randomUUID(),
        requestContent: 'x',
      });
    const due = (await phone.orders(id))[0]?.comesTo?.withTax as number;
    // Of what is due 30.00 turns out to be paid: so much is left, and no more.
    expect((await card(id, due - 2_999)).status).toBe(422);
    expect((await phone.orders(id))[0]?.comesTo).toMatchObject({ paid: 3_000 });
    expect((await card(id, due - 3_000)).body.state).toBe('paid');
    expect((await card(id, 1)).status).toBe(409);
    await lets(false);
  });
});
