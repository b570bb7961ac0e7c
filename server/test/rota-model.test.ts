// Appointments of random dispatchers against a model with a sheet of paper: nobody is in two places unless it was said why, the steps that
// are taken are those of what stands, orders say what their appointments say, and what is refused changes nothing.
import { asc, eq } from 'drizzle-orm';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { appointment, appointmentOrder, appointmentPerson, rotaStep, workOrder } from '../src/tables.ts';
import { must } from './house.ts';
import { bookingOf, openRota, repairOf, type RotaHouse } from './rota-house.ts';

let here: RotaHouse;
let orders: number[];
beforeAll(async () => {
  here = await openRota();
  orders = [];
  for (const id of here.world.assetIds) orders.push(await repairOf(here, id));
});
afterAll(() => here?.house.close());

const STEP_MS = 5 * 60_000;
const BEGIN = Date.parse('2026-12-01T08:00:00Z');
const at = (step: number): string => new Date(BEGIN + step * STEP_MS).toISOString();

type Ask = { order: number; who: number[]; step: number; length: number; reason: boolean };
const ask = fc.record({
  order: fc.nat(7),
  who: fc.uniqueArray(fc.nat(2), { minLength: 1, maxLength: 2 }),
  step: fc.integer({ min: 0, max: 60 }),
  length: fc.integer({ min: 1, max: 12 }),
  reason: fc.boolean(),
});
const acts = fc.array(
  fc.oneof(
    { weight: 3, arbitrary: fc.record({ kind: fc.constant('book' as const), ask }) },
    {
      weight: 2,
      arbitrary: fc.record({ kind: fc.constant('move' as const), which: fc.nat(20), stale: fc.nat(5), ask }),
    },
    { weight: 1, arbitrary: fc.record({ kind: fc.constant('out' as const), which: fc.nat(20), stale: fc.nat(5) }) },
  ),
  { minLength: 4, maxLength: 14 },
);

async function standing() {
  const { db } = here.house.database;
  const [appointments, people, served, steps, stages] = [
    await db.select().from(appointment).orderBy(asc(appointment.id)),
    await db
      .select()
      .from(appointmentPerson)
      .orderBy(asc(appointmentPerson.appointmentId), asc(appointmentPerson.position)),
    await db.select().from(appointmentOrder),
    await db.select().from(rotaStep).orderBy(asc(rotaStep.personId), asc(rotaStep.step), asc(rotaStep.lap)),
    await db
      .select({ id: workOrder.id, stage: workOrder.stage, version: workOrder.version })
      .from(workOrder)
      .orderBy(asc(workOrder.id)),
  ];
  return { appointments, people, served, steps, stages };
}

/** What must hold of whatever stands. */
function mustHold({ appointments, people, served, steps, stages }: Awaited<ReturnType<typeof standing>>): void {
  const expected = new Map<string, number>();
  for (const a of appointments)
    for (const p of people.filter((x) => x.appointmentId === a.id))
      for (let t: number = a.fromAt; t < a.toAt; t += STEP_MS) {
        const key = `${p.personId} ${t / STEP_MS}`;
        expected.set(key, (expected.get(key) ?? 0) + 1);
      }
  const taken = new Map<string, number[]>();
  for (const s of steps) taken.set(`${s.personId} ${s.step}`, [...(taken.get(`${s.personId} ${s.step}`) ?? []), s.lap]);
  expect([...taken].map(([key, laps]) => [key, laps.length]).sort()).toEqual([...expected].sort());
  // Whatever is taken is taken on lap 0, so that nobody new comes into it without a reason.
  for (const laps of taken.values()) expect(laps[0]).toBe(0);
  for (const { id, stage } of stages)
    expect([id, stage]).toEqual([id, served.some((s) => s.orderId === id) ? 'planned' : 'raised']);
  const overlapping = appointments.filter((a) =>
    appointments.some(
      (b) =>
        b.id !== a.id &&
        a.fromAt < b.toAt &&
        b.fromAt < a.toAt &&
        people.some(
          (p) => p.appointmentId === a.id && people.some((q) => q.appointmentId === b.id && q.personId === p.personId),
        ),
    ),
  );
  // Of two that overlap at least the one that came later says why.
  if (overlapping.length > 0) expect(overlapping.some((a) => a.overlapReason !== '')).toBe(true);
}

it('holds after each of them', { timeout: 120_000 }, async () => {
  const { desk, people, house } = here;
  const ids = [people.lia, people.rui, people.technician];
  const bodyOf = ({ order, who, step, length, reason }: Ask) =>
    bookingOf(
      [orders[order] as number],
      who.map((i) => ids[i] as number),
      at(step),
      {
        ...{ minutes: length * 5, anyway: true, overlapReason: reason ? 'meant so' : '' },
      },
    );
  let [made, refused, moved] = [0, 0, 0];
  const sequences = fc.asyncProperty(acts, async (sequence) => {
    for (const act of sequence) {
      const before = await standing();
      const row =
        act.kind === 'book' ? null : (before.appointments[act.which % Math.max(1, before.appointments.length)] ?? null);
      if (act.kind !== 'book' && !row) continue;
      const version = act.kind === 'book' || !row ? 0 : row.version + (act.stale === 0 ? 1 : 0);
      const answer =
        act.kind === 'book'
          ? await desk('POST', '/api/rota/appointments', bodyOf(act.ask))
          : act.kind === 'move'
            ? await desk('PUT', `/api/rota/appointments/${row?.id}`, { ...bodyOf(act.ask), version })
            : await desk('POST', `/api/rota/appointments/${row?.id}/out`, { version, text: '' });
      expect([200, 409]).toContain(answer.status);
      const after = await standing();
      if (answer.status === 200) {
        made += 1;
        if (act.kind === 'move') moved += 1;
      } else {
        refused += 1;
        expect(after).toEqual(before);
      }
      mustHold(after);
    }
    // The next sequence begins with nothing planned.
    const { db } = house.database;
    for (const a of await db.select().from(appointment))
      must(await desk('POST', `/api/rota/appointments/${a.id}/out`, { version: a.version, text: '' }));
    expect(await db.select().from(rotaStep).where(eq(rotaStep.lap, 0))).toEqual([]);
  });
  const enough = () => Math.min(made, refused, moved) > 5;
  // What chance leaves out is tried until it came: fifteen sequences usually have all of it, sixty always had.
  for (let rounds = 0; rounds === 0 || (!enough() && rounds < 4); rounds += 1)
    await fc.assert(sequences, { numRuns: 15 });
  expect(enough()).toBe(true);
});
