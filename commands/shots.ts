// ./stavok shots: one current picture of each main view, from a fresh demo with a fixed clock.
import { mkdir, rm } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { startDemo } from './demo.ts';
import { ROOT } from './house.ts';
import { freePort, throwAwayFolder } from './mariadb.ts';

const NOW = '2026-11-24T09:20:00Z';
const ARGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--lang=en-GB',
];

type Shot = {
  readonly name: string;
  readonly scheme?: 'dark';
  /** On the phone of a technician, instead of at Inês Teixeira’s desk. */
  readonly phone?: string;
  show(page: Page, address: string): Promise<void>;
};

async function signIn(page: Page, address: string, { phone }: Shot): Promise<void> {
  await page.goto(phone ? `${address}/field/` : address);
  await page.getByRole('button', { name: phone ?? /Inês Teixeira/ }).click();
  await page.getByRole('navigation', { name: phone ? 'Field' : 'Rooms' }).waitFor();
}

const visit =
  (path: string, ready: string) =>
  async (page: Page, address: string): Promise<void> => {
    await page.goto(address + path);
    await page.getByText(ready).first().waitFor();
  };

const SHOTS: readonly Shot[] = [
  {
    name: 'rota',
    async show(page, address) {
      await page.goto(`${address}/rota`);
      await page
        .getByRole('region', { name: 'Work to be planned' })
        .getByRole('button', { name: /^Chamber too warm/ })
        .click();
      await page.getByRole('button', { name: /^1 Give to/ }).waitFor();
    },
  },
  {
    name: 'year',
    async show(page, address) {
      await page.goto(`${address}/upkeep/year?year=2026&customer=1`);
      await page.getByRole('table', { name: /^Visits of/ }).waitFor();
    },
  },
  { name: 'mail', show: visit('/mail', 'What it answers') },
  {
    name: 'offer',
    async show(page, address) {
      await page.goto(`${address}/offers`);
      await page.getByRole('link', { name: 'OF-10005' }).click();
      await page.getByRole('button', { name: 'Change…' }).click();
      await page
        .getByText(/^Like work on/)
        .first()
        .waitFor();
    },
  },
  { name: 'today', show: visit('/', 'Promises, nearest first') },
  { name: 'clocks', scheme: 'dark', show: visit('/clocks', 'WO-11449') },
  {
    name: 'register',
    show: async (page, address) => {
      await page.goto(`${address}/register`);
      await page.getByRole('button', { name: /Horta Nova Biobank/ }).click();
      await page.getByText('Vault 1').first().waitFor();
    },
  },
  {
    name: 'asset',
    show: async (page, address) => {
      await page.goto(`${address}/orders`);
      await page
        .getByRole('link', { name: /Chamber too warm/ })
        .first()
        .click();
      await page.getByRole('article').getByRole('link', { name: /^Q\d+/ }).first().click();
      await page.getByText('Entitled to, today').waitFor();
    },
  },
  {
    name: 'field',
    phone: 'Duarte Moura',
    async show(page) {
      await page.getByRole('link', { name: 'Fan noisy' }).waitFor();
    },
  },
  {
    name: 'hours',
    async show(page, address) {
      await page.goto(`${address}/hours`);
      await page.getByRole('button', { name: 'the week before' }).click();
      await page.getByText('Week of Mon 16 Nov').first().waitFor();
      await page.getByRole('button', { name: 'the week before' }).click();
      await page.getByText('Week of Mon 9 Nov').first().waitFor();
      await page
        .getByRole('navigation', { name: 'Time sheets' })
        .getByRole('link', { name: /Tomás Quintela/ })
        .click();
      await page.getByRole('heading', { name: 'Entries' }).waitFor();
    },
  },
  { name: 'settle', show: visit('/settle/orders/1447', 'Who bears it') },
  { name: 'stores', show: visit('/stores/parts/1', 'Work took in the last twelve months') },
  {
    name: 'agreement',
    show: async (page, address) => {
      await page.goto(`${address}/agreements?stage=draft`);
      await page.getByRole('link', { name: /^AG-/ }).first().click();
      await page.getByText('Machines of the customer').waitFor();
    },
  },
  {
    name: 'call',
    async show(page, address) {
      await page.goto(`${address}/call?asset=5`);
      await page.getByLabel('What is wrong').fill('Beeps and is warm');
      await page.getByRole('heading', { name: 'Last here' }).waitFor();
    },
  },
  { name: 'agreements', show: visit('/agreements', 'Parts shared') },
  { name: 'upkeep', show: visit('/upkeep?to=2026-12-08', 'schedules looked at') },
  { name: 'signals', show: visit('/signals', 'still active') },
  {
    name: 'order',
    show: async (page, address) => {
      await page.goto(`${address}/orders?kind=repair`);
      await page
        .getByRole('link', { name: /Vacuum not reached/ })
        .first()
        .click();
      await page.getByRole('region', { name: 'Clocks' }).waitFor();
    },
  },
  {
    name: 'standing',
    show: async (page, address) => {
      await page.goto(`${address}/standing`);
      await page.getByRole('button', { name: 'Unfold AG-2001' }).click();
      await page.getByText(/^Visits, /).waitFor();
    },
  },
];

export async function run(args: string[]): Promise<void> {
  const wanted = args.filter((a) => !a.startsWith('-'));
  const out = resolve(ROOT, 'docs/screenshots');
  await mkdir(out, { recursive: true });
  const folder = await throwAwayFolder();
  const house = await startDemo({ folder, port: await freePort(), now: NOW, durability: 'throw-away', log: 'silent' });
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ARGS,
    env: { ...process.env, LANGUAGE: 'en_GB' },
  });
  try {
    for (const shot of SHOTS.filter((s) => wanted.length === 0 || wanted.includes(s.name))) {
      const page = await browser.newPage({
        viewport: shot.phone ? { width: 390, height: 844 } : { width: 1280, height: 800 },
        colorScheme: shot.scheme ?? 'light',
        locale: 'en-GB',
        timezoneId: 'Europe/Lisbon',
        reducedMotion: 'reduce',
      });
      await signIn(page, house.address, shot);
      await shot.show(page, house.address);
      await page.waitForTimeout(800);
      await page.screenshot({ path: join(out, `${shot.name}.png`) });
      await page.close();
      process.stderr.write(`${shot.name}.png\n`);
    }
  } finally {
    await browser.close();
    await house.stop();
    await rm(folder, { recursive: true, force: true });
  }
}
