// Questions about agreements: over the whole register, of a place or a caller, the matrix, and what leaves the house.
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { LocalDate } from '#core/time/index.ts';
import { agreement } from '../src/tables.ts';
import {
  agreementInForce,
  buildWorld,
  endAgreement,
  openHouse,
  type Caller,
  type OwnTerms,
  type TestHouse,
  type World,
} from './house.ts';

let house: TestHouse;
let world: World;
let call: Caller;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

const inForce = (...own: OwnTerms): Promise<number> => agreementInForce(call, world, ...own);
const end = (id: number): Promise<void> => endAgreement(call, id);

describe('questions over the whole register', () => {
  const ask = (question: string, on: string, more = '') =>
    call<{ items: { id: number; answer: string }[]; total: number; asked: number }>(
      'GET',
      `/api/cover/all?question=${encodeURIComponent(question)}&on=${on}${more}`,
    );
  it('name the machines without cover on a day, and those covered twice', async () => {
    expect((await ask('no cover', '2026-11-24')).body.total).toBe(0);
    const later = await ask('no cover', '2027-04-01');
    expect([later.body.total, later.body.asked]).toEqual([world.assetIds.length, world.assetIds.length]);
    expect((await ask('covered twice', '2026-11-24')).body.total).toBe(0);
    const id = await inForce();
    const twice = await ask('covered twice', '2026-11-24', `&customer=${world.customerId}`);
    expect(twice.body.items).toMatchObject([
      { id: world.assetIds[0], answer: expect.stringContaining('Own terms') as string },
    ]);
    await end(id);
  });

  it('name the warranties that end with no agreement to follow', async () => {
    const [first] = world.assetIds;
    await house.database.pool.query('UPDATE asset SET warranty_until = ? WHERE id = ?', ['2027-04-10', first]);
    expect((await ask('warranty ends', '2027-03-20', '&days=30')).body.items).toMatchObject([
      { id: first, answer: 'warranty ends on 10 Apr 2027, no agreement follows' },
    ]);
    expect((await ask('warranty ends', '2027-03-20', '&days=20')).body.total).toBe(0);
    await house.database.pool.query('UPDATE asset SET warranty_until = NULL WHERE id = ?', [first]);
  });
});

describe('what a place or a caller is entitled to', () => {
  type Many = { asked: number; answers: { verdict: { sentence: string }; machines: { id: number; tag: string }[] }[] };
  const ask = (of: string, more = '') =>
    call<Many & { errors: { field: string }[] }>(
      'GET',
      `/api/cover/many?at=2026-11-24T09:00:00Z&kind=repair&cause=wear&${of}${more}`,
    );

  it('is said machine by machine, those with the same answer together, as each alone would be answered', async () => {
    const id = await inForce();
    const { asked, answers } = (await ask(`customer=${world.customerId}`)).body;
    expect(asked).toBe(world.assetIds.length);
    expect(answers.map((a) => a.machines.length)).toEqual([world.assetIds.length - 1, 1]);
    for (const { verdict, machines } of answers)
      for (const m of machines) {
        const alone = await call<{ sentence: string }>(
          'GET',
          `/api/cover?asset=${m.id}&at=2026-11-24T09:00:00Z&kind=repair&cause=wear`,
        );
        expect(alone.body.sentence).toBe(verdict.sentence);
      }
    await end(id);
    expect((await ask(`customer=${world.customerId}`)).body.answers).toHaveLength(1);
  });

  it('counts the machines below a place, at any depth; an unknown place or nobody is refused', async () => {
    const tree = (
      await call<{ nodes: { id: number; name: string }[] }>('GET', `/api/customers/${world.customerId}/tree`)
    ).body.nodes;
    const site = tree.find((l) => l.name === 'Norvela')?.id;
    const lab = tree.find((l) => l.name === 'Lab 1')?.id;
    expect((await ask(`location=${site}`)).body.asked).toBe(world.assetIds.length);
    expect((await ask(`location=${lab}`)).body.asked).toBe(1);
    expect((await ask('location=99999')).body.errors[0]?.field).toBe('location');
    expect((await ask('')).status).toBe(422);
  });
});

describe('the coverage matrix and what leaves the house', () => {
  it('shows each machine with what it is given, counts gaps and double cover, and looks at a draft as if it were in force', async () => {
    type Matrix = { items: { id: number; reach: string | null; others: string[] }[]; counts: Record<string, number> };
    const id = await inForce();
    const { body } = await call<Matrix>('GET', `/api/agreements/${id}/matrix`);
    expect(body.counts).toEqual({ all: 3, covered: 1, without: 0, twice: 1 });
    expect(body.items.filter((i) => i.reach !== null).map((i) => i.id)).toEqual([world.assetIds[0]]);
    const twice = await call<Matrix>('GET', `/api/agreements/${id}/matrix?show=${encodeURIComponent('covered twice')}`);
    expect(twice.body.items.map((i) => i.others.length)).toEqual([1]);
    await house.database.db
      .update(agreement)
      .set({ stage: 'draft' })
      .where(eq(agreement.id, id as never));
    expect((await call<Matrix>('GET', `/api/agreements/${id}/matrix`)).body.counts.covered).toBe(1);
    await house.database.db
      .update(agreement)
      .set({ stage: 'ended' })
      .where(eq(agreement.id, id as never));
  });

  it('the agreement prints as a PDF, and the coverage schedule is a CSV of every machine', async () => {
    const pdf = await call<{ text: string }>('GET', `/api/agreements/${world.agreementId}/agreement.pdf`);
    expect(pdf.body.text.startsWith('%PDF-')).toBe(true);
    const csv = await call<{ text: string }>(
      'GET',
      `/api/agreements/${world.agreementId}/coverage.csv?on=${'2026-11-24' as LocalDate}`,
    );
    const lines = csv.body.text.trim().split('\r\n');
    expect(lines[0]).toContain('tag,serial,class,model,place,covered as,labour %');
    expect(lines).toHaveLength(1 + world.assetIds.length);
  });
});
