// The rota's screen under a full week: how long after its data it stands, and the frames while an appointment is carried over it.
import { chromium, type Page } from '@playwright/test';
import { buildApp } from '#server/app.ts';
import { ROOMS } from '#server/rooms.ts';
import { buildWeb } from '../commands/house.ts';
import { serverConfig, spread } from './calls.ts';
import { addPeople, fill } from './full-rota.ts';
import { sized } from './size.ts';
import { rounded } from './stopwatch.ts';
import { inWorld, type World } from './world.ts';

const OPENED = sized(8, 2);
const MOVES = sized(240, 12);
const COORDINATOR = /Inês Teixeira/;
const WEEK = '/rota?from=2026-11-23&view=week';

type Told = { painted: number | null; frames: number[] };
declare global {
  interface Window {
    told: Told;
  }
}

/** Runs in the page: the instant at which boxes stand on the screen, two frames after they are there. */
function tellPaint(): void {
  window.told = { painted: null, frames: [] };
  const seen = new MutationObserver(() => {
    if (!document.querySelector('[data-appointment]')) return;
    seen.disconnect();
    requestAnimationFrame(() => requestAnimationFrame(() => (window.told.painted = performance.now())));
  });
  seen.observe(document, { childList: true, subtree: true });
}

/** Milliseconds from the last byte of the rota's data to the frame in which it stands. */
async function open(page: Page, address: string): Promise<number> {
  await page.goto(address);
  await page.waitForFunction(() => window.told.painted !== null);
  return page.evaluate(() => {
    const data = performance
      .getEntriesByType('resource')
      .filter((e) => /\/api\/rota(\?|\/travel)/.test(e.name)) as PerformanceResourceTiming[];
    return (window.told.painted ?? 0) - Math.max(...data.map((e) => e.responseEnd));
  });
}

const countFrames = (page: Page): Promise<void> =>
  page.evaluate(() => {
    const counted: number[] = [];
    window.told.frames = counted;
    const frame = (at: number): void => {
      // Counted anew, the count before ends.
      if (window.told.frames !== counted) return;
      counted.push(at);
      requestAnimationFrame(frame);
    };
    requestAnimationFrame(frame);
  });

/** Lengths of the frames since they were counted. */
const frames = async (page: Page): Promise<number[]> => {
  const at = await page.evaluate(() => window.told.frames);
  return at.slice(1).map((t, i) => t - (at[i] ?? t));
};

async function carry(page: Page): Promise<void> {
  const box = await page.locator('[data-appointment]').nth(5).boundingBox();
  if (!box) throw new Error('There is no appointment to carry.');
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  for (let i = 1; i <= MOVES; i += 1) {
    const round = (i / MOVES) * Math.PI * 2;
    await page.mouse.move(box.x + 10 + 180 * (1 - Math.cos(round)), box.y + 120 + 110 * Math.sin(round));
  }
}

async function measureIn({ database, url, figures }: World): Promise<unknown> {
  const people = await addPeople(database);
  const appointments = await fill(database, people);
  const app = await buildApp({ ...serverConfig(url), production: false }, database, ROOMS);
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
  });
  try {
    const address = await app.listen({ port: 0, host: '127.0.0.1' });
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(address);
    await page.getByRole('button', { name: COORDINATOR }).first().click();
    await page.getByRole('navigation').first().waitFor();
    // Functions are given to the page as text, in which their compiler names them by a function that the page lacks.
    await page.addInitScript({ content: 'window.__name = (named) => named;' });
    await page.addInitScript(tellPaint);
    const painted: number[] = [];
    for (let i = 0; i < OPENED; i += 1) painted.push(await open(page, address + WEEK));
    const boxes = await page.locator('[data-appointment]').count();
    await countFrames(page);
    await page.waitForTimeout(sized(2000, 200));
    const idle = await frames(page);
    await countFrames(page);
    await carry(page);
    const carried = await frames(page);
    await page.keyboard.press('Escape');
    return {
      bench: 'rota-screen',
      world: { ...figures, peopleAdded: people.length, appointments, boxes },
      firstPaintAfterData: { ...spread(painted), wanted: '≤ 400 ms' },
      carried: {
        ...spread(carried),
        framesPerSecond: rounded(1000 / (carried.reduce((sum, f) => sum + f, 0) / carried.length)),
        wanted: '60 frames a second',
      },
      reference: { what: 'frames of the same screen while nothing is carried', ...spread(idle) },
    };
  } finally {
    await browser.close();
    await app.close();
  }
}

export async function measure(): Promise<unknown> {
  await buildWeb();
  return inWorld(measureIn);
}
