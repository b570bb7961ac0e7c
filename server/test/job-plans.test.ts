// Job plans as orders keep them: people, skills, safety, parts and forms as they held when the order was raised.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ClassOut } from '#api/catalogue.ts';
import type { Reference } from '#api/setup.ts';
import { calling, refusedAt } from './calling.ts';
import { buildWorld, must, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 3 });
});
afterAll(() => house.close());

const { raised: raise, page } = calling(() => ({ call, world }));

describe('a job plan', () => {
  // Common practice: a job of 60 minutes with two parts, quantity 2 each: the order carries both.
  it('is kept by an order as it held when it was raised, with people, safety and parts', async () => {
    const part = async (number: string) =>
      must(
        await call<{ id: number }>('POST', '/api/parts', {
          ...{ number, name: `Part ${number}`, unit: 'piece', listPrice: 100, cost: 50, taxId: null },
          ...{ consumable: false, serialTracked: false, retired: false },
        }),
      ).id;
    const parts = [await part('A-1'), await part('A-2')].map((partId) => ({ partId, thousandths: 2000 }));
    const body = {
      ...{ name: 'Yearly inspection', minutes: 60, skillId: null, includes: [], crew: 2, safetyNote: 'Lock the mains' },
      ...{ parts, tasks: [{ text: 'Measure', mandatory: true }] },
    };
    const plan = must(await call<{ id: number }>('POST', '/api/job-plans', body)).id;
    const id = await raise({ kind: 'inspection', jobPlanId: plan, assetIds: world.assetIds.slice(0, 2) });
    must(await call('PUT', `/api/job-plans/${plan}`, { ...body, parts: [], minutes: 30, crew: 1, version: 1 }));
    const { lines: own, tasks, minutes } = await page(id);
    expect([minutes, tasks.map((t) => t.text)]).toEqual([120, ['Measure', 'Measure']]);
    for (const line of own)
      expect(line.plan).toMatchObject({
        ...{ name: 'Yearly inspection', version: 1, minutes: 60, crew: 2, safety: 'Lock the mains' },
        parts: [
          { number: 'A-1', thousandths: 2000 },
          { number: 'A-2', thousandths: 2000 },
        ],
      });
    const next = await page(await raise({ kind: 'inspection', jobPlanId: plan }));
    expect(next.lines[0]?.plan).toMatchObject({ version: 2, minutes: 30, parts: [] });
  });

  it('names parts that exist, each once, and at least one person', async () => {
    const body = { name: 'X', minutes: 10, tasks: [] };
    const add = (over: object) => call('POST', '/api/job-plans', { ...body, ...over });
    expect(refusedAt(await add({ parts: [{ partId: 987_654, thousandths: 1 }] }))).toEqual([
      404,
      'parts.0.partId',
      'not-found',
    ]);
    expect(refusedAt(await add({ crew: 0 }))).toEqual([422, 'crew', 'invalid']);
    const twice = [1, 1].map((partId) => ({ partId, thousandths: 1000 }));
    expect(refusedAt(await add({ parts: twice }))).toEqual([422, 'parts', 'invalid']);
    const none = { ...{ requestKey: randomUUID(), assetIds: [world.assetIds[0]], priority: 2, cause: 'wear' } };
    const raised = await call('POST', '/api/orders', {
      ...none,
      title: 'x',
      receivedAt: '2026-11-23T09:00:00Z',
      jobPlanId: 987_654,
    });
    expect(refusedAt(raised)).toEqual([404, 'jobPlanId', 'not-found']);
  });

  describe('with several skills and forms of its own', () => {
    const body = { name: 'Yearly mapping', minutes: 120, tasks: [] };
    const added = async (path: string, of: object): Promise<number> =>
      must(await call<{ id: number }>('POST', path, of)).id;
    const form = async (name: string, classId: number, kinds: string[] = []): Promise<number> =>
      added('/api/class-forms', {
        ...{ name, classId, kinds },
        questions: [{ text: name, kind: 'yes or no', mandatory: true, unit: null, from: null, to: null }],
      });
    const classId = async (): Promise<number> =>
      must(await call<{ classes: ClassOut[] }>('GET', '/api/catalogue')).classes.find((c) => c.assets > 0)
        ?.id as number;
    const planNow = async (id: number) =>
      must(await call<Reference>('GET', '/api/reference')).jobPlans.find((p) => p.id === id);

    it('an order names the skills and asks each form once, those of the kind of work and those of the plan', async () => {
      const skills = [
        await added('/api/skills', { name: 'Refrigerants' }),
        await added('/api/skills', { name: 'Mapping' }),
      ];
      const own = await classId();
      const other = await added('/api/asset-classes', { name: 'Autoclave', jobPlanIds: [], meters: [] });
      const [mapping, everywhere, strange] = [
        await form('Mapping record', own),
        await form('Handover', own, ['inspection']),
        await form('Leak rate', other),
      ];
      const formIds = [mapping, everywhere, strange, mapping];
      const plan = await added('/api/job-plans', {
        ...body,
        skillId: skills[0],
        alsoSkillIds: [skills[1], skills[0]],
        formIds,
      });
      expect(await planNow(plan)).toMatchObject({ alsoSkillIds: [skills[1]], formIds: [mapping, everywhere, strange] });
      const id = await raise({ kind: 'inspection', jobPlanId: plan, assetIds: world.assetIds.slice(0, 2) });
      const order = await page(id);
      expect(order.lines.map((l) => l.plan?.skills)).toEqual([1, 2].map(() => ['Refrigerants', 'Mapping']));
      expect(order.lines.map((l) => order.forms.filter((f) => f.lineId === l.id).map((f) => f.name))).toEqual(
        [1, 2].map(() => ['Handover', 'Mapping record']),
      );
      // By no job plan only the kind of work asks, and a repair by the plan asks what the plan names.
      expect((await page(await raise({ kind: 'inspection' }))).forms.map((f) => f.name)).toEqual(['Handover']);
      const repair = await page(await raise({ jobPlanId: plan }));
      expect(repair.forms.map((f) => f.name)).toEqual(['Handover', 'Mapping record']);
      // Another machine on the order is asked what the plan of its line asks for.
      const changed = await call('POST', `/api/orders/${repair.id}/changes`, {
        ...{ requestKey: randomUUID(), text: 'the one beside it' },
        lines: [{ lineId: repair.lines[0]?.id, assetId: world.assetIds[2] }],
      });
      must(changed);
      expect((await page(repair.id)).forms.map((f) => f.name)).toEqual(['Handover', 'Mapping record']);
      // A form that was taken away is no part of the plan any more; orders keep theirs.
      must(await call('DELETE', `/api/class-forms/${mapping}`));
      expect((await planNow(plan))?.formIds).toEqual([everywhere, strange]);
      expect((await page(id)).forms).toHaveLength(4);
      expect((await page(await raise({ jobPlanId: plan }))).forms.map((f) => f.name)).toEqual(['Handover']);
    });

    it('names only what there is, and a first skill before others', async () => {
      const skill = await added('/api/skills', { name: 'Pressure' });
      const before = must(await call<Reference>('GET', '/api/reference')).jobPlans;
      const add = (over: object) => call('POST', '/api/job-plans', { ...body, name: 'Strange', ...over });
      expect(refusedAt(await add({ alsoSkillIds: [skill] }))).toEqual([422, 'skillId', 'missing']);
      expect(refusedAt(await add({ skillId: 987_654 }))).toEqual([404, 'skillId', 'not-found']);
      expect(refusedAt(await add({ skillId: skill, alsoSkillIds: [987_654] }))).toEqual([
        404,
        'alsoSkillIds',
        'not-found',
      ]);
      expect(refusedAt(await add({ formIds: [987_654] }))).toEqual([404, 'formIds', 'not-found']);
      expect(must(await call<Reference>('GET', '/api/reference')).jobPlans).toEqual(before);
    });
  });
});
