// Lists in any order, page by page: every row once, in the order asked for, whatever ties and empty values there are; and what each
// person keeps of a table.
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { eq } from 'drizzle-orm';
import fc from 'fast-check';
import { AGREEMENT_SORTS, type AgreementRow } from '#api/agreements/index.ts';
import { ASSET_SORTS, type AssetRow } from '#api/register.ts';
import { agreement, asset, location, tableLook } from '../src/tables.ts';
import { buildWorld, openHouse, type Caller, type TestHouse } from './house.ts';

let house: TestHouse;
let call: Caller;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  await buildWorld(call);
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

async function pages<Row>(list: string, query: string, limit: number): Promise<Row[]> {
  const rows: Row[] = [];
  for (let after: string | null = ''; after !== null;) {
    const url: string = `${list}?limit=${limit}${query}${after === '' ? '' : `&after=${after}`}`;
    const { status, body } = await call<{ items: Row[]; next: string | null }>('GET', url);
    expect(status).toBe(200);
    rows.push(...body.items);
    after = body.next;
  }
  return rows;
}

/** Every row once; what says something in order, what says nothing behind it. */
function expectInOrder(values: readonly (string | null)[], down: boolean): void {
  const said = values.filter((x) => x !== null);
  expect(values.slice(0, said.length)).toEqual(said);
  const ordered = [...said].sort((a, b) => (a < b ? -1 : a > b ? 1 : 0));
  expect(said).toEqual(down ? ordered.reverse() : ordered);
}
const asked = (sort: string, down: boolean): string => `&sort=${sort}${down ? '&down=1' : ''}`;
const firstCells = (file: string): string[] =>
  file
    .trim()
    .split('\r\n')
    .slice(1)
    .map((line) => line.split(',')[0] as string);

describe('agreements', () => {
  it('come page by page in any order, each once, those without a value last both ways', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...AGREEMENT_SORTS),
        fc.boolean(),
        fc.integer({ min: 1, max: 26 }),
        async (sort, down, limit) => {
          const rows = await pages<AgreementRow>('/api/agreements', asked(sort, down), limit);
          expect(new Set(rows.map((r) => r.id)).size).toBe(24);
          expect(rows).toHaveLength(24);
          expectInOrder(
            rows.map((r) => valueOf(r, sort)),
            down,
          );
        },
      ),
      { numRuns: 30, seed: 3 },
    );
  });
  it('come with the newest first when nobody asks for an order, and so does the file', async () => {
    const rows = await pages<AgreementRow>('/api/agreements', '', 7);
    const starts = rows.map((r) => r.from);
    expect(starts).toEqual([...starts].sort().reverse());
    const sorted = await pages<AgreementRow>('/api/agreements', '&sort=number&down=1', 5);
    const file = (await call<{ text: string }>('GET', '/api/agreements.csv?sort=number&down=1')).body.text;
    expect(firstCells(file)).toEqual(sorted.map((r) => r.number));
  });
});

describe('assets', () => {
  const ALL = 31;
  beforeAll(async () => {
    const { db } = house.database;
    const [like] = await db.select().from(asset);
    if (!like) throw new Error('the world has no asset');
    const other = await call<{ id: number }>('POST', '/api/customers', {
      ...{ name: 'Aldea Diagnostics', serviceAddress: null, creditDays: 30, creditLimit: null, overSince: null },
    });
    const { id: _, ...row } = like;
    const held = await db.$count(asset);
    await db.insert(asset).values(
      Array.from({ length: ALL - held }, (_, i) => ({
        ...row,
        serial: `${'QZB'.charAt(i % 3)}-${(i * 7) % 30}`,
        serialPlain: `${'qzb'.charAt(i % 3)}${(i * 7) % 30}`,
        tag: `L${(i * 11) % 30}`,
        maker: `Maker ${'ab'.charAt(i % 2)}`,
        // Some in the store: no place, and last by it.
        ...(i % 4 === 0 && { locationId: null }),
        ...(i % 5 === 0 && { locationId: null, customerId: other.body.id as never }),
      })),
    );
  });

  it('come page by page in any order, each once, machines without a place last', { timeout: 120_000 }, async () => {
    const placeOf = new Map((await house.database.db.select().from(location)).map((l) => [l.id, l.fullName]));
    const rowOf = new Map((await house.database.db.select().from(asset)).map((a) => [a.id as number, a]));
    const sortedBy = (row: AssetRow, sort: (typeof ASSET_SORTS)[number]): string | null => {
      const { locationId, serialPlain } = rowOf.get(row.id) ?? { locationId: null, serialPlain: null };
      return {
        asset: row.tag,
        place: locationId === null ? null : (placeOf.get(locationId) ?? null),
        serial: serialPlain,
        maker: row.maker,
        customer: row.customerName,
      }[sort];
    };
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...ASSET_SORTS),
        fc.boolean(),
        fc.integer({ min: 1, max: ALL + 2 }),
        async (sort, down, limit) => {
          const rows = await pages<AssetRow>('/api/assets', asked(sort, down), limit);
          expect(rows.map((r) => r.id).sort((a, b) => a - b)).toEqual([...rowOf.keys()].sort((a, b) => a - b));
          expectInOrder(
            rows.map((r) => sortedBy(r, sort)),
            down,
          );
        },
      ),
      { numRuns: 40, seed: 5 },
    );
  });

  it.each(ASSET_SORTS)('by %s are the same in pieces, in pages and in the file', async (sort) => {
    for (const down of [false, true]) {
      const paged = (await pages<AssetRow>('/api/assets', asked(sort, down), 9)).map((r) => r.tag);
      const pieces: string[] = [];
      for (let offset = 0; offset < ALL; offset += 8) {
        const url = `/api/assets?limit=8&offset=${offset}${asked(sort, down)}`;
        pieces.push(...(await call<{ items: AssetRow[] }>('GET', url)).body.items.map((r) => r.tag));
      }
      expect(pieces).toEqual(paged);
      const file = (await call<{ text: string }>('GET', `/api/assets.csv?${asked(sort, down)}`)).body.text;
      expect(firstCells(file)).toEqual(paged);
    }
  });

  it('in an order nobody knows are refused at its field', async () => {
    const answer = await call('GET', '/api/assets?sort=colour');
    expect([answer.status, answer.body.errors[0]?.field]).toEqual([422, 'sort']);
  });

  it('that come meanwhile shift nothing: a page goes on behind the row it ended with', async () => {
    const first = await call<{ items: AssetRow[]; next: string }>('GET', '/api/assets?limit=10');
    const [like] = await house.database.db.select().from(asset);
    const { id: _, ...row } = like as NonNullable<typeof like>;
    const before = { ...row, tag: 'A-BEFORE', serial: 'A-BEFORE', serialPlain: 'abefore' };
    const [{ insertId }] = await house.database.db.insert(asset).values(before);
    const second = await call<{ items: AssetRow[] }>('GET', `/api/assets?limit=10&after=${first.body.next}`);
    await house.database.db.delete(asset).where(eq(asset.id, insertId as never));
    const whole = await call<{ items: AssetRow[] }>('GET', '/api/assets?limit=20');
    expect([...first.body.items, ...second.body.items].map((r) => r.tag)).toEqual(whole.body.items.map((r) => r.tag));
  });
});

describe('a mark that is not one of ours', () => {
  const encoded = (text: string): string => Buffer.from(text).toString('base64url');
  it.each([
    ...['x', 'bm9uZQ', encoded('["a"]'), encoded('[1,"x"]')].map((mark) => ['/api/agreements', mark]),
    ...['Q100', encoded('[true,1]')].map((mark) => ['/api/assets', mark]),
  ])('of %s (%s) is refused at its field', async (list, after) => {
    const answer = await call('GET', `${list}?after=${after}`);
    expect([answer.status, answer.body.errors[0]?.field]).toEqual([422, 'after']);
  });
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
    expect(cover.trim().split('\r\n')).toHaveLength(1 + (await house.database.db.$count(asset)));
    expect((await call<{ text: string }>('GET', '/api/history.csv')).body.text).toContain('order,title,fault');
  });
});
