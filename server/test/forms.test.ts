// Forms of classes: kept by the office, copied to orders when raised, filled in on site; what a meter showed becomes its reading.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

type Question = { text: string; kind: string; mandatory: boolean; unit: string | null; from: null; to: null };
type Page = {
  stage: string;
  tasks: { id: number }[];
  forms: { id: number; name: string; mandatory: boolean; questions: Question[]; answers: unknown[] | null }[];
  events: { kind: string; text: string }[];
};
type Refused = { errors: { field: string; code: string; message: string }[]; detail: string };
const ask = (text: string, kind: string, mandatory = true): Question => ({
  text,
  kind,
  mandatory,
  unit: null,
  from: null,
  to: null,
});
const QUESTIONS = [ask('Gasket tight', 'yes or no'), ask('Run hours', 'meter'), ask('Remarks', 'text', false)];

let house: TestHouse;
let call: Caller;
let technician: Caller;
let world: World;
let classId: number;
let formId: number;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  technician = await house.as('technician');
  world = await buildWorld(call);
  const { classes } = (
    await call<{ classes: { id: number; name: string; version: number }[] }>('GET', '/api/catalogue')
  ).body;
  const freezers = classes.find((c) => c.name === 'Ultra-low freezer');
  classId = freezers?.id as number;
  await call('PUT', `/api/asset-classes/${classId}`, {
    name: 'Ultra-low freezer',
    version: freezers?.version,
    jobPlanIds: [],
    meters: [{ name: 'Run hours', unit: 'h', channel: null }],
  });
});
afterAll(() => house.close());

const form = (over: Record<string, unknown> = {}) => ({
  classId,
  name: 'Freezer check',
  kinds: ['repair', 'preventive'],
  questions: QUESTIONS,
  ...over,
});
const raise = async (): Promise<number> =>
  (
    await call<{ id: number }>('POST', '/api/orders', {
      assetIds: [world.assetIds[0]],
      priority: 2,
      cause: 'wear',
      receivedAt: '2026-11-24T08:00:00Z',
      title: 'Noise',
      requestKey: randomUUID(),
    })
  ).body.id;
const page = async (id: number): Promise<Page> => (await call<Page>('GET', `/api/orders/${id}`)).body;
const record = (id: number, act: unknown, minute = 10) =>
  technician<Refused>('POST', `/api/orders/${id}/events`, {
    requestKey: randomUUID(),
    at: `2026-11-24T08:${minute}:00Z`,
    act,
  });
const readings = async () =>
  (
    await call<{ items: { name: string; last: { value: number; source: string } | null; readings: unknown[] }[] }>(
      'GET',
      `/api/assets/${world.assetIds[0]}/meters`,
    )
  ).body.items;

describe('forms of a class', () => {
  it('are written by the office, and refused where a question makes no sense', async () => {
    expect((await technician('POST', '/api/class-forms', form())).status).toBe(403);
    const wrong = await call<Refused>('POST', '/api/class-forms', form({ questions: [ask('Cycles', 'meter')] }));
    expect(wrong.body.errors[0]).toMatchObject({ field: 'questions.0', code: 'not-found' });
    expect((await call<Refused>('POST', '/api/class-forms', form({ kinds: ['washing'] }))).body.errors[0]?.field).toBe(
      'kinds.0',
    );
    const made = await call<{ id: number }>('POST', '/api/class-forms', form());
    expect(made.status).toBe(200);
    formId = made.body.id;
    expect((await call('POST', '/api/class-forms', form())).status).toBe(409);
    const { items } = (await call<{ items: { id: number; questions: Question[] }[] }>('GET', '/api/class-forms')).body;
    // The meter’s question takes its unit from the class.
    expect(items[0]?.questions[1]).toMatchObject({ text: 'Run hours', unit: 'h' });
  });

  it('a stale change is refused with what stands now', async () => {
    expect((await call('PUT', `/api/class-forms/${formId}`, { ...form(), version: 9 })).status).toBe(409);
    expect((await call('PUT', `/api/class-forms/${formId}`, { ...form(), version: 1 })).status).toBe(200);
  });
});

describe('an order', () => {
  let id: number;
  it('carries the forms of its class, and is not done before they are filled in', async () => {
    id = await raise();
    expect((await page(id)).forms).toMatchObject([{ name: 'Freezer check', mandatory: true, answers: null }]);
    await record(id, { kind: 'arrived' }, 10);
    await record(id, { kind: 'restored' }, 20);
    const refused = await record(id, { kind: 'done', text: '' }, 30);
    expect(refused.body.detail).toBe('Fill in first: Freezer check.');
  });

  it('takes answers as a whole: a missing one is refused at its question, and no reading is booked', async () => {
    const [asked] = (await page(id)).forms;
    const refused = await record(id, { kind: 'form', formId: asked?.id, answers: [null, 900, ''] }, 25);
    expect(refused.body.errors).toMatchObject([{ field: 'act.answers.0', code: 'missing' }]);
    expect((await readings()).flatMap((m) => m.readings)).toEqual([]);
    expect((await record(id, { kind: 'form', formId: asked?.id, answers: [true, 900, ''] }, 25)).status).toBe(200);
    expect((await page(id)).forms[0]?.answers).toEqual([true, 900, null]);
    expect((await page(id)).events.map((e) => e.text)).toContain('filled in: Freezer check');
    expect(await readings()).toMatchObject([{ name: 'Run hours', last: { value: 900, source: 'field' } }]);
  });

  it('filled again with the same count, nothing is read twice; a lower one is asked about at its question', async () => {
    const [asked] = (await page(id)).forms;
    expect((await record(id, { kind: 'form', formId: asked?.id, answers: [false, 900, 'x'] }, 26)).status).toBe(200);
    expect((await readings())[0]?.readings).toHaveLength(1);
    const lower = await record(id, { kind: 'form', formId: asked?.id, answers: [false, 90, 'x'] }, 27);
    expect(lower.body.errors[0]).toMatchObject({ field: 'act.answers.1', code: 'out-of-order' });
    expect((await page(id)).forms[0]?.answers).toEqual([false, 900, 'x']);
    expect((await record(id, { kind: 'done', text: '' }, 40)).body).toEqual({ stage: 'done' });
  });

  it('keeps the questions it was raised with, whatever the class asks later', async () => {
    const before = await raise();
    const changed = form({ questions: [ask('Door closes', 'yes or no')], version: 2 });
    expect((await call('PUT', `/api/class-forms/${formId}`, changed)).status).toBe(200);
    expect((await page(before)).forms[0]?.questions).toHaveLength(3);
    const after = await raise();
    expect((await page(after)).forms[0]?.questions.map((q) => q.text)).toEqual(['Door closes']);
  });

  it('of upkeep carries them too; a form taken away is asked no more', async () => {
    const run = { to: '2027-01-31', only: null };
    const raised = await call<{ raised: number; firstOrderId: number }>('POST', '/api/upkeep/commit', run);
    expect((await page(raised.body.firstOrderId)).forms.map((f) => f.name)).toEqual(['Freezer check']);
    expect((await call('DELETE', `/api/class-forms/${formId}`)).status).toBe(200);
    expect((await page(await raise())).forms).toEqual([]);
  });
});
