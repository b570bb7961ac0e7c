// The register at load: finder, Today, asset page, a subtree of 5,000 assets in Chromium, an import of 100,000 rows; each with its reference of the same run.
import { Buffer } from 'node:buffer';
import { chromium } from '@playwright/test';
import { seeded } from '#demo/random.ts';
import { buildApp } from '#server/app.ts';
import { ASSET_SORTS } from '#api/register.ts';
import { asZone, localDateAt } from '#core/time/index.ts';
import { bulkInsert, type Database } from '#server/platform/database.ts';
import { ROOMS } from '#server/rooms.ts';
import { keepPlanned } from '#server/upkeep/index.ts';
import { buildWeb } from '../commands/house.ts';
import { freePort } from '../commands/mariadb.ts';
import { percentile, serverConfig, signIn, spread, spreadId, timed, type Caller } from './calls.ts';
import { sized } from './size.ts';
import { rounded, secondsOf } from './stopwatch.ts';
import { inWorld, NOW, type World } from './world.ts';

const ASKED = sized(400, 4);
const ORDERS_ASKED = sized(100, 4);
const IMPORTED = sized(100_000, 300);
const SUBTREE = sized(5000, 60);

/** What callers type: pieces of serials and tags, streets, names with classes, slips; drawn from assets of the world. */
async function questions(database: Database): Promise<string[]> {
  const random = seeded(11);
  const [rows] = await database.pool.query(
    `SELECT a.tag, a.serial, c.name AS class, k.name AS customer, COALESCE(l.address, r.address, '') AS street
     FROM asset a JOIN asset_class c ON c.id = a.class_id JOIN customer k ON k.id = a.customer_id
     LEFT JOIN location l ON l.id = a.location_id LEFT JOIN location r ON r.id = CAST(SUBSTRING_INDEX(SUBSTRING(l.path, 2), '/', 1) AS UNSIGNED)
     WHERE a.id % 97 = 3 LIMIT 1000`,
  );
  const assets = rows as { tag: string; serial: string; class: string; customer: string; street: string }[];
  const slip = (word: string): string => {
    const at = random.whole(1, word.length - 2);
    return `${word.slice(0, at)}${word[at + 1]}${word[at]}${word.slice(at + 2)}`;
  };
  return Array.from({ length: ASKED + 20 }, (_, i) => {
    const a = random.pick(assets);
    const word = (text: string): string => random.pick(text.split(/[\s,]+/).filter((w) => w.length > 3));
    switch (i % 8) {
      case 0:
        return a.serial.replaceAll('-', '');
      case 1:
        return a.serial.slice(3, 9);
      case 2:
        return a.tag.slice(0, 5);
      case 3:
        return word(a.street);
      case 4:
        return `${word(a.customer)} ${word(a.class)}`;
      case 5:
        return slip(word(a.customer));
      case 6:
        return `${word(a.street)} ${word(a.class)} ${word(a.customer)}`;
      default:
        return word(a.class).slice(0, 4);
    }
  });
}

async function reference(database: Database, assets: number): Promise<number[]> {
  return timed(ASKED, (i) => database.pool.execute('SELECT * FROM asset WHERE id = ?', [spreadId(i, assets)]));
}

const HEAD = 'customer,location_path,zone,class,maker,model,serial,tag,commissioned,warranty_until';

function csvOf(rows: number, customer: string, site: (i: number) => string, mark: string): Buffer {
  const lines = Array.from(
    { length: rows },
    (_, i) =>
      `${customer},${site(i)},Europe/Lisbon,Incubator,Vessmark,INC-240,${mark}-${String(i).padStart(6, '0')},${mark}${i},2024-05-22,2027-05-22`,
  );
  return Buffer.from([HEAD, ...lines].join('\n'));
}

async function load(call: Caller, file: Buffer): Promise<{ id: number; seconds: number }> {
  let id = 0;
  const seconds = await secondsOf(async () => {
    ({ id } = await call<{ id: number }>('POST', '/api/imports?kind=assets&name=load.csv', file));
    await call('POST', `/api/imports/${id}/run`);
    for (;;) {
      const { items } = await call<{ items: { id: number; state: string }[] }>('GET', '/api/imports');
      const state = items.find((i) => i.id === id)?.state;
      if (state === 'done') return;
      if (state !== 'running') throw new Error(`the import is ${state}`);
      await new Promise((r) => setTimeout(r, 50));
    }
  });
  return { id, seconds };
}

/** Machines, and the words they bring, that the import writes in one step. */
const STEP = 2500;

/** Each table's rows in the order in which the import wrote them: step by step, within a step as its statements were sorted. */
const IN_ORDER: Record<string, { own: (id: number) => string; order: string }> = {
  customer: { own: (id) => `import_id = ${id}`, order: 'id' },
  location: { own: (id) => `import_id = ${id}`, order: 'id' },
  asset: { own: (id) => `import_id = ${id}`, order: 'id' },
  find_word: { own: () => "word LIKE 'load%'", order: 'id' },
  find_gram: {
    own: () => "word_id IN (SELECT id FROM find_word WHERE word LIKE 'load%')",
    order: `FLOOR(word_id / ${2 * STEP}), gram, word_id`,
  },
  find_posting: {
    own: (id) => `kind = 'asset' AND subject_id IN (SELECT id FROM asset WHERE import_id = ${id})`,
    order: `FLOOR(subject_id / ${STEP}), word_id, subject_id`,
  },
  asset_event: { own: (id) => `asset_id IN (SELECT id FROM asset WHERE import_id = ${id})`, order: 'id' },
};

const isPlain = (cell: unknown): boolean =>
  typeof cell === 'object' && cell !== null && !(cell instanceof Date) && !Buffer.isBuffer(cell);

/** The rows the import made, inserted again in the same order into empty tables with the same indexes. */
async function bareInserts(database: Database, importId: number): Promise<{ rows: number; seconds: number }> {
  const copies: { table: string; columns: string[]; rows: unknown[][] }[] = [];
  for (const [table, { own, order }] of Object.entries(IN_ORDER)) {
    const [found] = await database.pool.query({
      sql: `SELECT * FROM ${table} WHERE ${own(importId)} ORDER BY ${order}`,
      rowsAsArray: true,
    });
    const [fields] = await database.pool.query(`SHOW COLUMNS FROM ${table}`);
    await database.pool.query(`CREATE TABLE ref_${table} LIKE ${table}`);
    copies.push({
      table: `ref_${table}`,
      columns: (fields as { Field: string }[]).map((f) => f.Field),
      // JSON comes back read; it is written as text.
      rows: (found as unknown[][]).map((row) => row.map((cell) => (isPlain(cell) ? JSON.stringify(cell) : cell))),
    });
  }
  const seconds = await secondsOf(() =>
    database.transact(async ({ connection }) => {
      for (const copy of copies)
        if (copy.rows.length > 0) await bulkInsert(connection, copy.table, copy.columns, copy.rows);
    }),
  );
  return { rows: copies.reduce((n, c) => n + c.rows.length, 0), seconds };
}

/** Scrolls the list to its end and looks at each stop whether a row that should be seen is blank. Text, as it runs in the page. */
const SCROLL = `(async () => {
  const box = document.querySelector('[role=table] [role=rowgroup]');
  const seen = new Set();
  let blank = 0, looks = 0;
  for (let top = 0; top < box.scrollHeight; top += 400) {
    box.scrollTop = top;
    await new Promise((done) => requestAnimationFrame(done));
    await new Promise((done) => setTimeout(done, 60));
    const outer = box.getBoundingClientRect();
    for (const row of box.querySelectorAll('[role=row]')) {
      const { top: y, bottom } = row.getBoundingClientRect();
      const filled = row.querySelector('a') !== null;
      if (filled) seen.add(row.getAttribute('aria-rowindex'));
      if (bottom <= outer.top || y >= outer.bottom) continue;
      looks += 1;
      if (!filled) blank += 1;
    }
  }
  return { rowsSeen: seen.size, looks, blank };
})()`;

/** A place with 5,000 assets opened and scrolled in Chromium: time to the first rows, and rows seen while scrolling. */
async function inChromium(address: string, customerId: number, siteId: number) {
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking'],
  });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(address);
    await page.getByRole('button', { name: /Inês Teixeira/ }).click();
    await page.getByRole('navigation', { name: 'Rooms' }).waitFor();
    await page.goto(`${address}/register?customer=${customerId}`);
    const site = page.getByRole('treegrid').getByRole('row').first();
    await page.getByRole('table', { name: 'Assets' }).getByRole('row').nth(3).waitFor();
    const opened: number[] = [];
    for (let i = 0; i < 7; i += 1) {
      await page.getByRole('button', { name: /^All of/ }).click();
      await page.getByRole('table', { name: 'Assets' }).getByRole('row').nth(3).waitFor();
      const began = await page.evaluate(() => performance.now());
      await site.click();
      await page.waitForURL(`**location=${siteId}`);
      await page.locator('[role=table] [role=row] a.serial').nth(5).waitFor();
      opened.push((await page.evaluate(() => performance.now())) - began);
    }
    const scrolled = await page.evaluate<{ rowsSeen: number; looks: number; blank: number }>(SCROLL);
    return { openMs: rounded(percentile(opened, 0.5)), openWorstMs: rounded(Math.max(...opened)), ...scrolled };
  } finally {
    await browser.close();
  }
}

/** Fifty rows of the register in each order, from its beginning and from its middle: the median of a few tries each. */
async function sortedLists(call: Caller, assets: number): Promise<Record<string, { first: number; middle: number }>> {
  const of = async (url: string): Promise<number> => {
    const taken: number[] = [];
    for (let i = 0; i < 5; i += 1) taken.push(1000 * (await secondsOf(() => call('GET', url))));
    return rounded(percentile(taken, 0.5));
  };
  const found: Record<string, { first: number; middle: number }> = {};
  for (const sort of ASSET_SORTS) {
    const url = `/api/assets?limit=50&sort=${sort}`;
    found[sort] = { first: await of(url), middle: await of(`${url}&offset=${Math.floor(assets / 2)}`) };
  }
  return found;
}

async function measureIn({ database, url, figures, loadSeconds }: World): Promise<unknown> {
  await buildWeb();
  const app = await buildApp(serverConfig(url), database, ROOMS);
  const address = await app.listen({ host: '127.0.0.1', port: await freePort() });
  try {
    const call = await signIn(app);
    const asked = await questions(database);
    const assets = figures.assets as number;
    const bare = await reference(database, assets);
    let found = 0;
    const finder = await timed(ASKED, async (i) => {
      const answer = await call<{ hits: unknown[] }>('GET', `/api/find?q=${encodeURIComponent(asked[i] as string)}`);
      if (answer.hits.length > 0) found += 1;
    });
    await keepPlanned(database, { today: localDateAt(asZone('Europe/Lisbon'), NOW) });
    // As the browser asks: all cards at once.
    const today = await timed(ASKED, () =>
      Promise.all(['promises', 'notices', 'alerts', 'upkeep'].map((card) => call('GET', `/api/today/${card}`))),
    );
    const counts = await timed(ASKED, () => call('GET', '/api/counts'));
    const pages = await timed(ASKED, (i) => call('GET', `/api/assets/${spreadId(i, assets)}`));
    const orders = await timed(ORDERS_ASKED, (i) =>
      call('GET', `/api/orders?show=${i % 2 === 0 ? 'open' : 'finished'}`),
    );
    const sorted = await sortedLists(call, assets);
    const subtree = await load(
      call,
      csvOf(SUBTREE, 'Wide Hall', () => 'Wide Hall', 'WIDE'),
    );
    const [[site]] = (await database.pool.query(
      "SELECT l.id, c.id AS customer FROM location l JOIN customer c ON c.name = 'Wide Hall' WHERE l.full_name = 'Wide Hall'",
    )) as unknown as [{ id: number; customer: number }[]];
    const browser = site ? await inChromium(address, site.customer, site.id) : null;
    const imported = await load(
      call,
      csvOf(IMPORTED, 'Load Works', (i) => `Load site ${i % 50} > Room ${i % 1000}`, 'LOAD'),
    );
    const inserts = await bareInserts(database, imported.id);
    return {
      bench: 'register',
      world: figures,
      worldLoadSeconds: rounded(loadSeconds),
      worldWanted: '≥ 96,000 assets with their parts, ≥ 20,000 places, ≤ 360 s',
      finder: { asked: ASKED, answered: found, ...spread(finder), wanted: 'p95 ≤ 60 ms' },
      assetPage: { asked: ASKED, ...spread(pages), wanted: 'p95 ≤ 40 ms' },
      today: { asked: ASKED, ...spread(today), wanted: 'p95 ≤ 60 ms' },
      counts: { asked: ASKED, ...spread(counts), wanted: 'p95 ≤ 60 ms' },
      orders: { asked: ORDERS_ASKED, ...spread(orders) },
      sortedListMs: sorted,
      reference: { what: 'one asset by primary key, mysql2 execute', ...spread(bare) },
      finderToReference: rounded(percentile(finder, 0.95) / percentile(bare, 0.95)),
      assetPageToReference: rounded(percentile(pages, 0.95) / percentile(bare, 0.95)),
      subtree: {
        assets: SUBTREE,
        loadSeconds: rounded(subtree.seconds),
        ...browser,
        wanted: 'opens in ≤ 500 ms, no row dropped',
      },
      import: {
        rows: IMPORTED,
        seconds: rounded(imported.seconds),
        rowsWritten: inserts.rows,
        reference:
          'the rows it made, in the order it wrote them, by multi-row INSERT into empty tables with the same indexes, one transaction, same run',
        referenceSeconds: rounded(inserts.seconds),
        ratio: rounded(imported.seconds / inserts.seconds),
        wanted: '≤ 3',
      },
    };
  } finally {
    await app.close();
  }
}

export const measure = (): Promise<unknown> => inWorld(measureIn);
