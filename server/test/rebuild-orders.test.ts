// Orders with everything on them: what follows from their events is built again with the same result, after random acts told in any
// order, and at any later hour. The acts are drawn blindly, so that many are refused: a refused one changes nothing.
import { randomUUID } from 'node:crypto';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { ClassOut } from '#api/catalogue.ts';
import type { OrderPage } from '#api/orders.ts';
import { HOUR, instant } from '#core/time/index.ts';
import { rebuild } from '../src/platform/derived.ts';
import { DERIVED } from '../src/rooms.ts';
import { person } from '../src/tables.ts';
import { changed, kept } from './every-row.ts';
import {
  agreementInForce,
  buildWorld,
  must,
  openHouse,
  type Answer,
  type Caller,
  type TestHouse,
  type World,
} from './house.ts';

let house: TestHouse;
let call: Caller;
let manager: Caller;
let world: World;
let technicianId: number;
let plan: number;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  manager = await house.as('manager');
  await house.as('technician');
  world = await buildWorld(call, { assets: 6, minutes: 60 });
  await agreementInForce(call, world, { signOff: true });
  technicianId = (await house.database.db.select().from(person)).find((p) => p.role === 'technician')?.id as number;
  const own = must(await call<{ classes: ClassOut[] }>('GET', '/api/catalogue')).classes.find((c) => c.assets > 0);
  const form = {
    ...{ name: 'Record', classId: own?.id, kinds: ['repair'] },
    questions: [{ text: 'Tight', kind: 'yes or no', mandatory: true, unit: null, from: null, to: null }],
  };
  must(await call('POST', '/api/class-forms', form));
  const tasks = [
    { text: 'Clean', mandatory: true },
    { text: 'Look', mandatory: false },
  ];
  plan = must(await call<{ id: number }>('POST', '/api/job-plans', { name: 'All of it', minutes: 45, tasks })).id;
});
afterAll(() => house.close());

type Drawn = { readonly kind: (typeof KINDS)[number]; readonly hour: number; readonly a: number; readonly b: number };
const at = <T>(list: readonly T[], n: number): T => list[n % list.length] as T;
const OUTCOMES = ['done', 'left', 'off', 'to do'] as const;

/** What is sent for an act of an order as it is shown now; those of the desk have an address of their own. */
const ACTS = {
  planned: () => ({ kind: 'planned', technicianId, date: '2026-11-25' }),
  sent: () => ({ kind: 'sent' }),
  told: () => ({ kind: 'told', technicianId }),
  arrived: () => ({ kind: 'arrived' }),
  paused: () => ({ kind: 'paused', reason: 'no access', text: '' }),
  resumed: () => ({ kind: 'resumed' }),
  'task settled': ({ tasks }: OrderPage, { a, b }: Drawn) => ({
    ...{ kind: 'task', taskId: tasks.length > 0 ? at(tasks, a).id : 0 },
    ...{ outcome: b % 3 === 0 ? 'left' : 'done', text: 'as told' },
  }),
  'form filled': ({ forms }: OrderPage, { a, b }: Drawn) => ({
    ...{ kind: 'form', formId: forms.length > 0 ? at(forms, a).id : 0, answers: [b % 2 === 0] },
  }),
  'machine said': ({ lines }: OrderPage, { a, b }: Drawn) => ({
    ...{ kind: 'line', lineId: at(lines, a).id, outcome: at(OUTCOMES, b), text: 'as told' },
  }),
  found: ({ lines }: OrderPage, { a, b }: Drawn) => ({
    ...{ kind: 'found', lineId: at(lines, a).id, symptom: null, fault: b % 2 === 0 ? 'seal' : null },
    ...{ cause: 'wear', remedy: b % 3 === 0 ? null : 'replaced' },
  }),
  'one back in use': ({ lines }: OrderPage, { a }: Drawn) => ({ kind: 'restored', lineId: at(lines, a).id }),
  'all back in use': () => ({ kind: 'restored' }),
  signed: (_: OrderPage, { b }: Drawn) => ({
    ...{ kind: 'signed', by: b % 2 === 0 ? '' : 'Rosa Vidal', function: 'lab lead', text: 'as told' },
  }),
  done: () => ({ kind: 'done', text: '' }),
  'done with effort': (_: OrderPage, { b }: Drawn) => ({
    ...{ kind: 'done', text: 'x', anyway: 'agreed' },
    effort: { fault: 'seal', labourMinutes: b * 5, partsCost: b * 100, otherCost: null },
  }),
  'called off': (_: OrderPage, { a }: Drawn) => ({ kind: 'called off', text: a % 4 === 0 ? 'sold' : '' }),
  note: () => ({ kind: 'note', text: 'as told' }),
} as const;
const DESK = {
  'another cause': ({ lines }: OrderPage, { a, b }: Drawn) => [
    'changes',
    { text: 'found', lines: [{ lineId: at(lines, a).id, cause: b % 2 === 0 ? 'misuse' : 'wear' }] },
  ],
  'another priority': (_: OrderPage, { a }: Drawn) => ['changes', { text: 'worse', priority: 1 + (a % 2), lines: [] }],
  'another machine': ({ lines }: OrderPage, { a, b }: Drawn) => [
    'changes',
    { text: 'beside it', lines: [{ lineId: at(lines, a).id, assetId: at(world.assetIds, b) }] },
  ],
  'machine added': (_: OrderPage, { b }: Drawn) => ['lines', { assetId: at(world.assetIds, b), cause: 'wear' }],
  'followed up': ({ lines }: OrderPage, { a }: Drawn) => [
    'follow-up',
    { lineIds: [at(lines, a).id], reason: 'part on order', parts: 'relay' },
  ],
} as const;
const KINDS = [...Object.keys(ACTS), ...Object.keys(DESK)] as (keyof typeof ACTS | keyof typeof DESK)[];

const START = () => instant(house.now - 97 * HOUR);
const page = async (id: number): Promise<OrderPage> => must(await call<OrderPage>('GET', `/api/orders/${id}`));

async function tell(id: number, drawn: Drawn): Promise<Answer> {
  const order = await page(id);
  const requestKey = randomUUID();
  if (drawn.kind in DESK) {
    const [path, body] = DESK[drawn.kind as keyof typeof DESK](order, drawn);
    return call('POST', `/api/orders/${id}/${path as string}`, { requestKey, ...(body as object) });
  }
  const time = new Date(START() + drawn.hour * HOUR).toISOString();
  return manager('POST', `/api/orders/${id}/events`, {
    ...{ requestKey, at: time, act: ACTS[drawn.kind as keyof typeof ACTS](order, drawn) },
  });
}

/** What an order has behind it before the rest is drawn. */
const BEGINNINGS: readonly (readonly Drawn['kind'][])[] = [
  [],
  ['planned', 'sent'],
  ['arrived'],
  ['arrived', 'paused', 'resumed'],
  ['planned', 'sent', 'told', 'arrived'],
];

/** Settles what is missing, as the done check names it, and ends the order; says whether it was still open. */
async function finish(id: number): Promise<boolean> {
  const act = (of: object) =>
    call('POST', `/api/orders/${id}/events`, {
      ...{ requestKey: randomUUID(), at: new Date(START() + 96.5 * HOUR).toISOString(), act: of },
    });
  const { stage, missing, lines } = await page(id);
  if (stage === 'done' || stage === 'called off') return false;
  if (stage !== 'on site') must(await act({ kind: 'arrived' }));
  for (const m of missing) {
    const found = { symptom: null, fault: 'seal', cause: 'wear', remedy: 'replaced' };
    if (m.what === 'task') must(await act({ kind: 'task', taskId: m.id, outcome: 'done', text: '' }));
    if (m.what === 'form') must(await act({ kind: 'form', formId: m.id, answers: [true] }));
    if (m.what === 'findings') must(await act({ kind: 'found', lineId: m.lineId, ...found }));
    if (m.what === 'sign-off') must(await act({ kind: 'signed', by: 'Rosa', function: 'lead', text: '' }));
  }
  expect((await page(id)).missing).toEqual([]);
  if (lines.every((l) => l.handedOn !== null)) return false;
  must(await act({ kind: 'done', text: '' }));
  return true;
}

const differing = async (hours: number): Promise<string[]> =>
  (await rebuild(house.database, DERIVED, instant(house.now + hours * HOUR), false)).flatMap((r) => r.differing);

it(
  'follows from the events, whatever was told and refused of orders of several machines',
  { timeout: 240_000 },
  async () => {
    const taken = new Map<string, number>();
    const refused = new Map<string, number>();
    const count = (of: Map<string, number>, kind: string) => of.set(kind, (of.get(kind) ?? 0) + 1);
    const drawn = fc.record({
      kind: fc.constantFrom(...KINDS),
      // Late truth: told in any order of its own times.
      hour: fc.oneof(fc.integer({ min: 0, max: 96 }), fc.constantFrom(95, 96)),
      ...{ a: fc.nat(20), b: fc.nat(20) },
    });
    await fc.assert(
      fc.asyncProperty(
        fc.array(drawn, { minLength: 8, maxLength: 22 }),
        fc.constantFrom(...BEGINNINGS),
        fc.integer({ min: 1, max: 3 }),
        fc.integer({ min: 0, max: 2000 }),
        async (acts, begun, machines, later) => {
          const { id } = must(
            await call<{ id: number }>('POST', '/api/orders', {
              ...{ requestKey: randomUUID(), assetIds: world.assetIds.slice(0, machines), jobPlanId: plan },
              ...{ priority: 1, cause: 'wear', title: 'Warm', receivedAt: new Date(START()).toISOString() },
            }),
          );
          for (const [i, one] of [...begun.map((kind, n) => ({ kind, hour: n, a: 0, b: 0 })), ...acts].entries()) {
            // Looked at now and then: a refusal that writes would be seen in any of them.
            const before = i % 4 === 0 ? await kept(house) : null;
            const answer = await tell(id, one);
            expect(answer.status, `${one.kind}: ${JSON.stringify(answer.body)}`).toBeLessThan(500);
            count(answer.status === 200 ? taken : refused, one.kind);
            if (before && answer.status !== 200)
              expect([one.kind, changed(before, await kept(house))]).toEqual([one.kind, []]);
          }
          if (begun.length > 1 && (await finish(id))) count(taken, 'done');
          expect(await differing(later)).toEqual([]);
        },
      ),
      { numRuns: 25, seed: 11 },
    );
    // An act that never succeeded would have proved nothing; nor would one that was never refused where it may be.
    expect(KINDS.filter((kind) => !taken.has(kind))).toEqual([]);
    expect(refused.size).toBeGreaterThan(8);
  },
);
