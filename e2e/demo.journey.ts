// A look round the demo: every room, the traps of the scenario, the keys, both themes.
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { startDemo } from '../commands/demo.ts';
import type { RunningHouse } from '../commands/house.ts';
import { freePort } from '../commands/mariadb.ts';
import { expectAccessible, openRoom, watchForErrors } from './looking.ts';

let house: RunningHouse;
test.beforeAll(async () => {
  process.env.STAVOK_CHECK_ANSWERS = '1';
  house = await startDemo({
    folder: join(process.env.STAVOK_JOURNEY_FOLDER ?? '/tmp/stv-journey', 'demo'),
    port: await freePort(),
    now: '2026-11-24T09:20:00Z',
    durability: 'throw-away',
    log: 'silent',
  });
});
test.afterAll(() => house?.stop());

test.beforeEach(async ({ page }) => {
  await page.goto(house.address);
  await expect(page.getByRole('button', { name: /Inês Teixeira/ })).toBeVisible();
});

test('a coordinator finds every room in order', async ({ page }) => {
  const errors = watchForErrors(page);
  await expectAccessible(page, 'sign-in');
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await expect(page.getByText('Promises, nearest first')).toBeVisible();
  await expect(page.getByText(/promise missed/).first()).toBeVisible();
  await expectAccessible(page, 'today');
  await page.keyboard.press('j');
  await expect(page.getByRole('row', { selected: true })).toContainText('Door does not close');
  await page.keyboard.press('g');
  await page.keyboard.press('r');
  await page.getByRole('button', { name: /Serra Veterinary Institute/ }).click();
  await expect(page.getByText(/no cover: AG-2010 Full care is suspended/).first()).toBeVisible();
  await expectAccessible(page, 'register');
  await openRoom(page, 'Agreements');
  await expect(page.getByText('24 agreements')).toBeVisible();
  await expectAccessible(page, 'agreements');
  await openRoom(page, 'Upkeep');
  await expect(
    page.getByRole('cell', { name: 'The estimated duration is zero; give the job plan or the schedule a duration.' }),
  ).toBeVisible();
  await expect(
    page.getByRole('cell', { name: 'The agreement is still in draft; put it in force.' }).first(),
  ).toBeVisible();
  await openRoom(page, 'Signals');
  await expect(page.getByText(/silent for 5 h/)).toBeVisible();
  await openRoom(page, 'Orders');
  await page
    .getByRole('link', { name: /Imbalance error/ })
    .first()
    .click();
  await expect(page.getByRole('region', { name: 'Clocks' })).toBeVisible();
  await expectAccessible(page, 'order');
  await openRoom(page, 'Standing');
  await page.getByRole('button', { name: 'last 12 months' }).click();
  await expect(page.getByText(/promises met, \d+ of \d+/)).toBeVisible();
  await page.getByLabel('For each').selectOption('asset');
  await expect(page.getByRole('columnheader', { name: 'Asset' })).toBeVisible();
  expect(errors).toEqual([]);
});

test('the dark look keeps its contrast', async ({ page }) => {
  await page.getByRole('button', { name: /Mateo Larrazabal/ }).click();
  await page.getByLabel('Look').selectOption('night');
  await expect(page.getByText('Promises, nearest first')).toBeVisible();
  await expectAccessible(page, 'today, dark');
  await openRoom(page, 'Standing');
  await expect(page.getByText(/promises met/).first()).toBeVisible();
  await expectAccessible(page, 'standing, dark');
});

test('two people on one asset: the second to save sees what changed and both changes stay', async ({
  page,
  browser,
}) => {
  const other = await browser.newPage();
  await other.goto(house.address);
  await other.getByRole('button', { name: /Carmen Rioboo/ }).click();
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  for (const p of [page, other]) {
    await expect(p.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
    await p.goto(`${house.address}/assets/5`);
    await p.getByRole('button', { name: 'Change…' }).click();
  }
  await other.getByLabel('Model').fill('PLF-411');
  await other.getByRole('button', { name: 'Save the asset' }).click();
  await expect(other.getByRole('dialog')).toHaveCount(0);
  await page.getByLabel('Serial').fill('PLF411-NEW');
  await page.getByRole('button', { name: 'Save the asset' }).click();
  await expect(page.getByText(/Their changes and yours are joined/)).toBeVisible();
  await expect(page.getByLabel('Model')).toHaveValue('PLF-411');
  await page.getByRole('button', { name: 'Save the asset' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Plasma freezer PLF-411' })).toBeVisible();
  await expect(page.getByText('PLF411-NEW').first()).toBeVisible();
  await other.close();
});

test('a technician sees orders but no upkeep run, and the server agrees', async ({ page }) => {
  await page.getByRole('button', { name: /Renata Valdês/ }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'Upkeep' })).toHaveCount(0);
  await page.goto(`${house.address}/upkeep`);
  await expect(page.getByRole('alert')).toContainText('You are signed in as technician');
});

test('a call about a machine without any agreement becomes a chargeable order', async ({ page }) => {
  await page.getByRole('button', { name: /Núria Falcó/ }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
  await page.keyboard.press('/');
  await page.getByRole('textbox', { name: 'Find' }).fill('Porto do Pontal');
  await page
    .getByRole('button', { name: /Pontal Marine Station/ })
    .first()
    .waitFor();
  await page.keyboard.press('Shift+Enter');
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText(/Not covered: chargeable at list rates, no promise|Covered by Warranty/);
  await dialog.getByRole('button', { name: 'Raise the order' }).click();
  await expect(dialog).toContainText('This is needed.');
  await dialog.getByLabel('What is wrong').fill('Beeps and is warm');
  await dialog.getByRole('button', { name: 'Raise the order' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Beeps and is warm' })).toBeVisible();
});
