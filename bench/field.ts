// Field on a slow phone: how long until it stands the first time and later, until an act is shown, and until a day without signal has
// been sent; and how much script it needs. The phone: Chromium at a quarter of this machine's speed, 1.6 Mb/s both ways, 150 ms a turn.
import { randomUUID } from 'node:crypto';
import { chromium, type BrowserContext, type CDPSession, type Page } from '@playwright/test';
import type { RowDataPacket } from 'mysql2/promise';
import { formatInstant, instant, MINUTE, sayTimeOfDay } from '#core/time/index.ts';
import { buildApp } from '#server/app.ts';
import { ROOMS } from '#server/rooms.ts';
import { buildWeb } from '../commands/house.ts';
import { percentile, serverConfig, signIn, spread, type Caller } from './calls.ts';
import { fieldScript } from './first-screen.ts';
import { sized } from './size.ts';
import { rounded } from './stopwatch.ts';
import { inWorld, NOW, type World } from './world.ts';

const ORDERS = sized(12, 2);
const PHOTOS = sized(40, 2);
const OPENED = sized(5, 1);
const SCRIPT_LIMIT = 200_000;
const SLOWER = 4;
const BYTES_A_SECOND = (1.6 * 1_000_000) / 8;
const TURN_MS = 150;
const PATIENCE_MS = 120_000;

type Told = { shown: number | null; opened: number | null };
declare global {
  interface Window {
    phone: Told;
  }
}
const DAY = '.field-line .field-box';
/** What stands once somebody may begin: who may sign in, or their day. */
const STANDS = `${DAY}, button.row`;

/** Orders of the technician's day, each with its appointment. */
async function planDay(call: Caller, { pool }: World['database']): Promise<{ ids: number[]; who: string }> {
  const [people] = await pool.query<RowDataPacket[]>(
    `SELECT p.id, p.name FROM person p LEFT JOIN appointment_person a ON a.person_id = p.id
     WHERE p.role = 'technician' AND p.active = 1 AND p.email LIKE '%@marisma.example'
     GROUP BY p.id, p.name ORDER BY COUNT(a.appointment_id), p.id LIMIT 1`,
  );
  const [who] = people as { id: number; name: string }[];
  if (!who) throw new Error('This world has no technician.');
  // At one place: nothing of the day is travel.
  const [assets] = await pool.query<RowDataPacket[]>(
    `SELECT id FROM asset WHERE state = 'in service' AND location_id =
       (SELECT location_id FROM asset WHERE state = 'in service' GROUP BY location_id ORDER BY COUNT(*) DESC LIMIT 1)
     ORDER BY id LIMIT ?`,
    [ORDERS],
  );
  const ids: number[] = [];
  for (let i = 0; i < ORDERS; i += 1) {
    const assetId = (assets as { id: number }[])[i % assets.length]?.id;
    const { id } = await call<{ id: number }>('POST', '/api/orders', {
      ...{ requestKey: randomUUID(), assetIds: [assetId], priority: 1, cause: 'wear', title: `Measured ${i + 1}` },
      receivedAt: formatInstant(instant(NOW - 30 * MINUTE)),
    });
    await call('POST', '/api/rota/appointments', {
      ...{ requestKey: randomUUID(), orders: [id], people: [who.id], minutes: 30 },
      ...{ from: formatInstant(instant(NOW + (130 + 30 * i) * MINUTE)), anyway: true, overlapReason: 'measured' },
    });
    ids.push(id);
  }
  return { ids, who: who.name };
}

type Slow = { readonly page: Page; readonly network: (isThere: boolean) => Promise<void> };

async function slowPage(context: BrowserContext): Promise<Slow> {
  const page = await context.newPage();
  page.setDefaultTimeout(PATIENCE_MS);
  const phone: CDPSession = await context.newCDPSession(page);
  await phone.send('Emulation.setCPUThrottlingRate', { rate: SLOWER });
  await phone.send('Network.enable');
  const network = (isThere: boolean) =>
    phone.send('Network.emulateNetworkConditions', {
      ...{ offline: !isThere, latency: TURN_MS },
      ...{ downloadThroughput: BYTES_A_SECOND, uploadThroughput: BYTES_A_SECOND },
    });
  await network(true);
  return { page, network: async (isThere) => void (await network(isThere)) };
}

/** Milliseconds from asking for the page until the frame in which it stands, by the page’s own clock. */
async function opened(page: Page, address: string): Promise<number> {
  await page.goto(address, { waitUntil: 'commit' });
  // Asked seldom: each question would slow the phone down.
  await page.waitForFunction(() => window.phone.opened !== null, undefined, { polling: 500, timeout: PATIENCE_MS });
  return (await page.evaluate(() => window.phone.opened)) ?? Number.NaN;
}

/** Runs in the page: when it stands, and how long from a press of a wide button until it says something else. */
function tellShown(stands: string): void {
  window.phone = { shown: null, opened: null };
  const standing = new MutationObserver(() => {
    if (!document.querySelector(stands)) return;
    standing.disconnect();
    requestAnimationFrame(() => (window.phone.opened = performance.now()));
  });
  standing.observe(document, { childList: true, subtree: true });
  addEventListener(
    'click',
    ({ target }) => {
      if (!(target instanceof Element) || !target.closest('.wide')) return;
      const begun = performance.now();
      window.phone.shown = null;
      const before = document.querySelector('.wide')?.textContent;
      const seen = new MutationObserver(() => {
        if (document.querySelector('.wide')?.textContent === before) return;
        seen.disconnect();
        requestAnimationFrame(() => (window.phone.shown = performance.now() - begun));
      });
      seen.observe(document, { childList: true, subtree: true, characterData: true });
    },
    { capture: true },
  );
}

async function shownAfter(page: Page, button: string): Promise<number> {
  await page.getByRole('button', { name: button }).click();
  await page.waitForFunction(() => window.phone.shown !== null);
  return (await page.evaluate(() => window.phone.shown)) ?? Number.NaN;
}

/** A page of one line of the same phone: what opening anything takes it. */
async function barePage(page: Page, address: string): Promise<number[]> {
  await page.route('**/bare', (route) =>
    route.fulfill({ contentType: 'text/html', body: '<button class="row">bare</button>' }),
  );
  const took: number[] = [];
  for (let i = 0; i < OPENED; i += 1) took.push(await opened(page, `${address}/bare`));
  return took;
}

/** A photo as a camera makes it: large, with detail everywhere. */
const cameraPhoto = (page: Page): Promise<string> =>
  page.evaluate(async () => {
    const canvas = document.createElement('canvas');
    [canvas.width, canvas.height] = [3000, 2250];
    const drawn = canvas.getContext('2d');
    if (!drawn) throw new Error('This browser draws nothing.');
    for (let i = 0; i < 6000; i += 1) {
      drawn.fillStyle = `hsl(${Math.random() * 360} ${20 + Math.random() * 30}% ${30 + Math.random() * 40}%)`;
      drawn.fillRect(Math.random() * 3000, Math.random() * 2250, 10 + Math.random() * 160, 10 + Math.random() * 120);
    }
    return canvas.toDataURL('image/jpeg', 0.92).split(',')[1] ?? '';
  });

/** A day's work without signal, order by order; gives how long each act took to be shown. */
async function workOffline(page: Page, address: string, ids: readonly number[], photo: Buffer): Promise<number[]> {
  const acts: number[] = [];
  for (const [i, id] of ids.entries()) {
    await page.goto(`${address}/field/order/${id}`);
    // Nobody presses anything in the first second of a page.
    await page.waitForTimeout(sized(1000, 50));
    acts.push(await shownAfter(page, 'I am there'));
    const photos = Math.floor(((i + 1) * PHOTOS) / ids.length) - Math.floor((i * PHOTOS) / ids.length);
    for (let n = 1; n <= photos; n += 1) {
      const file = { name: 'photo.jpg', mimeType: 'image/jpeg', buffer: photo };
      await page.getByLabel('Take a photo: photo').setInputFiles(file);
      await page.getByRole('button', { name: `Take a photo · ${n} taken` }).waitFor({ timeout: PATIENCE_MS });
    }
    acts.push(await shownAfter(page, 'Back in use'));
    await page.getByRole('link', { name: 'Hours', exact: true }).click();
    // Each at times of its own: nobody is at two machines at once.
    await page.getByLabel('From').fill(sayTimeOfDay(300 + i * 20));
    await page.getByLabel('To', { exact: true }).fill(sayTimeOfDay(315 + i * 20));
    await page.getByRole('button', { name: 'Keep the hours' }).click();
    await page.getByRole('link', { name: 'Note', exact: true }).click();
    await page.getByLabel('For the office').fill('all of it works again');
    await page.getByRole('button', { name: 'Keep the note' }).click();
    await page.getByRole('button', { name: 'Finish' }).waitFor();
  }
  return acts;
}

const countOf = async ({ pool }: World['database'], text: string, ids: readonly number[]): Promise<number> => {
  const [rows] = await pool.query<RowDataPacket[]>(text, [ids]);
  return Number((rows as { n: number }[])[0]?.n);
};

async function measureIn({ database, url, figures }: World): Promise<unknown> {
  const app = await buildApp({ ...serverConfig(url), production: false }, database, ROOMS);
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
  try {
    const { ids, who } = await planDay(await signIn(app), database);
    const address = await app.listen({ port: 0, host: '127.0.0.1' });
    const context = await browser.newContext({ viewport: { width: 390, height: 844 } });
    // Functions are given to the page as text, in which their compiler names them by a function that the page lacks.
    await context.addInitScript({ content: 'window.__name = (named) => named;' });
    await context.addInitScript(tellShown, STANDS);
    const { page, network } = await slowPage(context);
    const first = await opened(page, `${address}/field/`);
    await page.evaluate(() => navigator.serviceWorker.ready.then(() => undefined));
    const signing = performance.now();
    await page.getByRole('button', { name: who }).click();
    await page.locator(DAY).first().waitFor({ timeout: PATIENCE_MS });
    const dayShown = performance.now() - signing;
    await page.waitForTimeout(sized(3000, 500));
    const later: number[] = [];
    for (let i = 0; i < OPENED; i += 1) later.push(await opened(page, `${address}/field/`));
    const bare = await barePage(page, address);
    const photo = Buffer.from(await cameraPhoto(page), 'base64');
    await network(false);
    const acts = await workOffline(page, address, ids, photo);
    await network(true);
    const sending = performance.now();
    await page.goto(`${address}/field/waiting`);
    await page
      .getByText('Everything is at the office.')
      .waitFor({ timeout: PATIENCE_MS })
      .catch(async () => {
        throw new Error(`Not everything was sent: ${await page.locator('main').innerText()}`);
      });
    const sent = (performance.now() - sending) / 1000;
    const photos = await countOf(
      database,
      "SELECT COUNT(*) AS n FROM attachment WHERE subject = 'order' AND subject_id IN (?)",
      ids,
    );
    const bytes = await countOf(
      database,
      "SELECT SUM(f.bytes) AS n FROM attachment a JOIN file_content f ON f.sha256 = a.sha256 WHERE a.subject = 'order' AND a.subject_id IN (?)",
      ids,
    );
    const script = await fieldScript();
    if (script > SCRIPT_LIMIT) throw new Error(`Field needs ${script} bytes of script, more than ${SCRIPT_LIMIT}.`);
    return {
      bench: 'field',
      world: figures,
      phone: { timesSlower: SLOWER, megabitsASecond: 1.6, turnMs: TURN_MS },
      firstOpenMs: { signInShown: rounded(first), dayAfterSigningIn: rounded(dayShown), wanted: '≤ 4,000' },
      laterOpenMs: { ...spread(later), wanted: '≤ 1,000' },
      actShownMs: { ...spread(acts), wanted: '≤ 100' },
      day: {
        ...{ orders: ids.length, photos, lostPhotos: PHOTOS - photos, photoBytes: bytes, seconds: rounded(sent) },
        wanted: '12 orders with 40 photos ≤ 30 s',
      },
      openReference: { what: 'a page of one line, without style or script, on the same phone', ...spread(bare) },
      laterToReference: rounded(percentile(later, 0.5) / percentile(bare, 0.5)),
      reference: {
        what: 'the bytes of the photos alone over the same network',
        seconds: rounded(bytes / BYTES_A_SECOND),
      },
      dayToReference: rounded(sent / (bytes / BYTES_A_SECOND), 2),
      script: { packedBytes: script, wanted: `≤ ${SCRIPT_LIMIT}` },
    };
  } finally {
    await browser.close();
    await app.close();
  }
}

export async function measure(): Promise<unknown> {
  await buildWeb();
  return inWorld(measureIn, sized(4, 1));
}
