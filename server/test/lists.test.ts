// Lists in any order, page by page: every row once, in the order asked for, whatever ties and empty values there are; and what each
// person keeps of a table.
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { AGREEMENT_SORTS, type AgreementRow } from '#api/agreements/index.ts';
import { agreement, tableLook } from '../src/tables.ts';
import { buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
  const [like] = await house.database.db.select().from(agreement);
  if (!like) throw new Error('the world has no agreement');
  const { id: _, ...row } = like;
  await house.database.db.insert(agreement).values(
    Array.from({ length: 23 }, (_, i) => ({
      ...row,
      number: `T-${i % 2 === 0 ? i : 100 - i}`,
      requestKey: null,
      name: `Name ${'zyx'.charAt(i % 3)}`,
      termFrom: `2026-0${1 + (i % 3)}-01` as never,
      termTo: (i % 4 === 0 ? null : `2027-1${i % 3}-01`) as never,
      noticeBy: (i % 5 === 0 ? `2026-1${i % 2}-15` : null) as never,
      stage: (['draft', 'in force', 'ended'] as const)[i % 3] as never,
    })),
  );
});
afterAll(() => house.close());

const valueOf = (row: AgreementRow, sort: (typeof AGREEMENT_SORTS)[number]): string | null =>
  ({
    number: row.number,
    name: row.name,
    customer: row.customer.name,
    stage: row.stage,
    from: row.from,
    ends: row.to,
    notice: row.noticeBy,
  })[sort];

async function pages(query: string, limit: number): Promise<AgreementRow[]> {
  const rows: AgreementRow[] = [];
  for (let after: string | null = ''; after !== null;) {
    const url: string = `/api/agreements?limit=${limit}${query}${after === '' ? '' : `&after=${after}`}`;
    const { status, body } = await call<{ items: AgreementRow[]; next: string | null }>('GET', url);
    expect(status).toBe(200);
    rows.push(...body.items);
    after = body.next;
  }
  return rows;
}

describe('agreements', () => {
  it('come page by page in any order, each once, those without a value last both ways', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...AGREEMENT_SORTS),
        fc.boolean(),
        fc.integer({ min: 1, max: 26 }),
        async (sort, down, limit) => {
          const rows = await pages(`&sort=${sort}${down ? '&down=1' : ''}`, limit);
          expect(new Set(rows.map((r) => r.id)).size).toBe(24);
          expect(rows).toHaveLength(24);
          const values = rows.map((r) => valueOf(r, sort));
          const said = values.filter((x) => x !== null);
          expect(values.slice(0, said.length)).toEqual(said);
          const ordered = [...said].sort((a, b) => (a < b ? -1 : a > b ? 1 : 0));
          expect(said).toEqual(down ? ordered.reverse() : ordered);
        },
      ),
      { numRuns: 30, seed: 3 },
    );
  });
  it('come with the newest first when nobody asks for an order, and so does the file', async () => {
    const rows = await pages('', 7);
    const starts = rows.map((r) => r.from);
    expect(starts).toEqual([...starts].sort().reverse());
    const sorted = await pages('&sort=number&down=1', 5);
    const file = (await call<{ text: string }>('GET', '/api/agreements.csv?sort=number&down=1')).body.text;
    expect(
      file
        .trim()
        .split('\r\n')
        .slice(1)
        .map((line) => line.split(',')[0]),
    ).toEqual(sorted.map((r) => r.number));
  });
  it.each(['x', 'bm9uZQ', Buffer.from('["a"]').toString('base64url'), Buffer.from('[1,"x"]').toString('base64url')])(
    'a mark that is not one of ours (%s) is refused at its field',
    async (after) => {
      const answer = await call('GET', `/api/agreements?after=${after}`);
      expect([answer.status, answer.body.errors[0]?.field]).toEqual([422, 'after']);
    },
  );
});

describe('how one likes a table', () => {
  const look = { hidden: ['note'], order: ['b', 'a'], pinned: [], widths: { a: 120 }, sort: { by: 'a', down: true } };
  it('is kept for each person by itself, the last word holds', async () => {
    const technician = await house.as('technician');
    expect((await call('PUT', '/api/me/tables/orders', { ...look, hidden: [] })).status).toBe(200);
    expect((await call('PUT', '/api/me/tables/orders', look)).status).toBe(200);
    expect((await call('GET', '/api/me/tables')).body).toEqual({ orders: look });
    expect((await technician('GET', '/api/me/tables')).body).toEqual({});
  });
  it.each([
    ['a name nobody has', '/api/me/tables/Or%20ders', look],
    ['a width beyond reason', '/api/me/tables/orders', { ...look, widths: { a: 1e9 } }],
    ['endless columns', '/api/me/tables/orders', { ...look, order: Array.from({ length: 61 }, (_, i) => `c${i}`) }],
  ])('%s is refused and changes nothing', async (_, url, body) => {
    const before = await house.database.db.select().from(tableLook);
    expect((await call('PUT', url, body)).status).toBeGreaterThanOrEqual(400);
    expect(await house.database.db.select().from(tableLook)).toEqual(before);
  });
});

describe('files of whole lists', () => {
  it('past work and questions about cover come as files with all their rows', async () => {
    const cover = (await call<{ text: string }>('GET', '/api/cover/all.csv?question=no%20cover&on=2020-01-01')).body
      .text;
    expect(cover.trim().split('\r\n')).toHaveLength(1 + world.assetIds.length);
    expect((await call<{ text: string }>('GET', '/api/history.csv')).body.text).toContain('order,title,fault');
  });
});
