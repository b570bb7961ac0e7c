// Random days of a phone against the real server, with a network that loses requests and answers: the end is that of the same acts sent
// once, in order, on a server of their own. Source of the check: domain-work, Field; the twin server stands for “sent once in order”.
import { eq, inArray } from 'drizzle-orm';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { PhoneActIn } from '#api/field.ts';
import {
  addAct,
  answered,
  goneAstray,
  sending,
  toSend,
  type Outcome,
  type PhoneAct,
  type Queue,
} from '#core/field/index.ts';
import { below, seeded } from '#core/random.ts';
import { addDays, asInstant, asLocalDate } from '#core/time/index.ts';
import type { OrderId } from '#core/ids.ts';
import {
  fieldAct,
  orderEvent,
  orderPayment,
  partNeed,
  positionConsent,
  saidPosition,
  timeEntry,
} from '../src/tables.ts';
import { phoneOf, told } from './field-house.ts';
import { must } from './house.ts';
import { day, openRota, repairOf, rotaCalls, type RotaHouse } from './rota-house.ts';
import { stocking } from './stock-house.ts';

/** More of them where somebody asks: the number that is claimed of them is measured with 500. */
const DAYS = Number(process.env.STAVOK_OFFLINE_DAYS ?? 24);
const ORDERS = 2;
const ACTS = 14;
/** So many days of a phone fit into one day of hours. */
const DAYS_OF_HOURS = 60;
const TODAY = asLocalDate('2026-11-24');
const AT = '2026-11-24T09:50:00Z';

type Side = {
  readonly here: RotaHouse;
  readonly phone: ReturnType<typeof phoneOf>;
  readonly orders: readonly (readonly { readonly id: number; readonly lineId: number }[])[];
  readonly partId: number;
};

/** Two of these are the same in all but what is sent to them: the same ids for the same things. */
async function openSide(): Promise<Side> {
  const here = await openRota(DAYS * ORDERS + 2);
  const { book, nextMachine, page } = rotaCalls(() => here);
  const partId = await stocking(here.desk).addPart({ number: 'OFF-1' });
  const orders = [];
  for (let i = 0; i < DAYS; i += 1) {
    const own = [];
    for (let k = 0; k < ORDERS; k += 1) {
      const id = await repairOf(here, nextMachine());
      const more = { anyway: true, overlapReason: 'a test' };
      must(await book([id], [here.people.technician], day('2026-11-24', '12:00'), more));
      own.push({ id, lineId: (await page(id)).lines[0]?.id ?? 0 });
    }
    orders.push(own);
  }
  return { here, phone: phoneOf(await here.house.as('technician')), orders, partId };
}

let phoneSide: Side;
let twin: Side;
beforeAll(async () => {
  [phoneSide, twin] = [await openSide(), await openSide()];
}, DAYS * 8000);
afterAll(async () => {
  await phoneSide?.here.house.close();
  await twin?.here.house.close();
});

/** What somebody does in a day, drawn; some of it the rules refuse. */
function actsOf(random: () => number, of: number, { orders, partId }: Side): PhoneActIn[] {
  const arrivals = new Map<number, string>();
  return Array.from({ length: ACTS }, (_, i): PhoneActIn => {
    const order = orders[of]?.[below(random, ORDERS)] ?? { id: 0, lineId: 0 };
    const { id, lineId } = order;
    const needs = arrivals.has(id) && below(random, 3) > 0 ? [arrivals.get(id) as string] : [];
    // Each of its own minutes, so that hours overlap only where they are drawn twice.
    const from = 60 + (of % DAYS_OF_HOURS) * 18 + below(random, 16);
    const drawn = below(random, 12);
    const on = (act: object): PhoneActIn =>
      told({ kind: 'order', orderId: id, act } as PhoneActIn['body'], AT, { needs });
    if (drawn === 0 || i === 0) {
      const arrived = on({ kind: 'arrived' });
      if (!arrivals.has(id)) arrivals.set(id, arrived.deed);
      return arrived;
    }
    if (drawn === 1) return on({ kind: 'restored', lineId: null });
    if (drawn === 2) return on({ kind: 'paused', reason: 'no access', text: '' });
    if (drawn === 3) return on({ kind: 'resumed' });
    if (drawn === 4) return on({ kind: 'done', text: 'greased' });
    if (drawn === 5) return on({ kind: 'note', text: `note ${i}` });
    if (drawn === 6) return told({ kind: 'need', orderId: id, lineId, partId, thousandths: 1000 }, AT, { needs });
    if (drawn === 7)
      return on({ kind: 'found', lineId, symptom: null, fault: `fault ${i}`, cause: null, remedy: null });
    if (drawn === 9) return told({ kind: 'to invoice', orderId: id }, AT, { needs });
    if (drawn === 10) return told({ kind: 'position allowed', allowed: below(random, 3) > 0 }, AT);
    if (drawn === 11) {
      const deed = needs[0] ?? `day ${of} act ${i}`;
      return told({ kind: 'was at', deed, orderId: id, latitude: 42, longitude: -8.4, accuracy: 9 }, AT, { needs });
    }
    const entry = {
      day: addDays(TODAY, -Math.floor(of / DAYS_OF_HOURS)),
      kind: 'work',
      from,
      to: from + 2,
      lines: [{ lineId }],
    } as const;
    return told({ kind: 'time', entry: { ...entry, lines: [...entry.lines] } }, AT, { needs });
  });
}

const asAct = (a: PhoneActIn): PhoneAct<PhoneActIn> => ({
  ...{ id: a.id, deed: a.deed, needs: a.needs, body: a },
  ...{ at: asInstant(a.at), phoneAt: asInstant(a.phoneAt) },
});

/** A day on the phone: acts, syncs that go wrong anywhere, restarts; at last a network that works. */
async function live(side: Side, acts: readonly PhoneActIn[], random: () => number): Promise<Queue<PhoneActIn>> {
  let queue: Queue<PhoneActIn> = [];
  const sync = async (how: number): Promise<void> => {
    queue = goneAstray(queue);
    const batch = toSend(queue, 5);
    if (batch.length === 0) return;
    queue = sending(
      queue,
      batch.map((a) => a.id),
    );
    // 0: it never arrived. 1: the answer is lost. 2: half of it is heard. 3: it arrives twice at once. Else it is heard.
    if (how === 0) return;
    const send = () => side.phone.send(...batch.map((a) => a.body));
    const [outcomes] = how === 3 ? await Promise.all([send(), send()]) : [await send()];
    if (how === 2) queue = answered(queue, (outcomes ?? []).slice(0, 1));
    if (how > 2) queue = answered(queue, outcomes ?? []);
  };
  for (const act of acts) {
    const kept = addAct(queue, asAct(act));
    if (kept.ok) queue = kept.value;
    if (below(random, 3) === 0) await sync(below(random, 7));
  }
  for (let round = 0; round < ACTS; round += 1) await sync(9);
  return queue;
}

/** What there is of a day at the server, in what matters: what happened, hours, needs, and which acts it took. */
async function standing({ here, orders }: Side, of: number) {
  const { db } = here.house.database;
  const ids = (orders[of] ?? []).map((o) => o.id as OrderId);
  const found = [];
  for (const id of ids) {
    const page = must(await here.desk<{ stage: string; worked: number | null }>('GET', `/api/orders/${id}`));
    const events = await db.select().from(orderEvent).where(eq(orderEvent.orderId, id)).orderBy(orderEvent.id);
    const needs = await db.select().from(partNeed).where(eq(partNeed.orderId, id));
    found.push({
      ...{ id, stage: page.stage, worked: page.worked },
      invoiced: await db.$count(orderPayment, eq(orderPayment.orderId, id)),
      seen: await db.$count(saidPosition, eq(saidPosition.orderId, id)),
      events: events.map((e) => JSON.stringify(e.act)).sort(),
      needs: needs.map((n) => [n.partId, n.wanted]),
    });
  }
  return found;
}

it('0 lost, 0 doubled: any day ends as the same acts sent once, in order', { timeout: DAYS * 10_000 }, async () => {
  const refused: number[] = [];
  for (let of = 0; of < DAYS; of += 1) {
    const random = seeded(7000 + of);
    const acts = actsOf(random, of, phoneSide);
    const left = await live(phoneSide, acts, random);
    // The twin gets each once, in its order, one by one.
    const outcomes: Outcome[] = [];
    for (const act of acts) outcomes.push(...(await twin.phone.send(act)));
    const taken = outcomes.flatMap((o) => (o.kind === 'taken' ? [o.id] : []));
    const rows = await phoneSide.here.house.database.db
      .select()
      .from(fieldAct)
      .where(
        inArray(
          fieldAct.id,
          acts.map((a) => a.id),
        ),
      );
    const held = new Set(rows.filter((r) => r.outcome === 'taken').map((r) => r.id));
    expect([of, acts.flatMap((a) => (held.has(a.id) ? [a.id] : []))]).toEqual([of, taken]);
    // What was not taken stays on the phone, refused by name or behind what was.
    expect(left.map((w) => w.act.id).sort()).toEqual(acts.flatMap((a) => (held.has(a.id) ? [] : [a.id])).sort());
    expect(toSend(left, 99)).toEqual([]);
    expect(await standing(phoneSide, of)).toEqual(await standing(twin, of));
    refused.push(left.length);
  }
  const entries = (side: Side) => side.here.house.database.db.select().from(timeEntry);
  expect((await entries(phoneSide)).length).toBe((await entries(twin)).length);
  const said = async (side: Side) =>
    (await side.here.house.database.db.select().from(positionConsent)).map((c) => c.allowed);
  expect(await said(phoneSide)).toEqual(await said(twin));
  // Days in which nothing is refused, and nothing is taken, would prove little.
  expect(refused.some((n) => n > 0) && refused.some((n) => n < ACTS)).toBe(true);
});
