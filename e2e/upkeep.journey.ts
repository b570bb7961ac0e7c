// The upkeep run in the demo: visits ticked, held, decided on and raised.
import { expect, test } from '@playwright/test';
import type { RunningHouse } from '../commands/house.ts';
import { expectAccessible, openDemo } from './looking.ts';

let house: RunningHouse;
test.beforeAll(async () => {
  house = await openDemo('upkeep');
});
test.afterAll(() => house?.stop());
test.beforeEach(async ({ page }) => {
  await page.goto(house.address);
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
});

test('ticks two visits, raises only those, and lets a held one go on', async ({ page }) => {
  await page.goto(`${house.address}/upkeep?to=2026-11-24`);
  const ticks = page.getByRole('checkbox', { name: /^Tick Q/ });
  // What is due is worked out beside requests, once a world stands.
  await expect(ticks.first()).toBeVisible({ timeout: 90_000 });
  const before = await ticks.count();
  await ticks.nth(0).check();
  await ticks.nth(1).check();
  await page.getByRole('button', { name: 'Raise 2 ticked visits…' }).click();
  await expect(page.getByRole('dialog')).toContainText('2 preventive work orders, for 2 assets');
  await page.getByRole('dialog').getByRole('button', { name: 'Raise 2 visits' }).click();
  await expect(page.getByRole('status')).toContainText('2 visits raised as work orders');
  await expect(ticks).toHaveCount(before - 2);
  await ticks.nth(0).check();
  await page.getByRole('button', { name: 'Hold back…' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Hold 1 visit' }).click();
  await expect(page.getByRole('dialog')).toContainText('Say why the visit is held back.');
  await page.getByRole('dialog').getByLabel('Why').fill('Part has not come in');
  await page.getByRole('dialog').getByRole('button', { name: 'Hold 1 visit' }).click();
  await expect(page.getByText('held until Tue 1 Dec 2026: Part has not come in')).toBeVisible();
  await ticks.nth(0).check();
  await page.getByRole('button', { name: 'Take back' }).click();
  await expect(page.getByText(/Part has not come in/)).toHaveCount(0);
});

test('decides on visits of a customer who is over their credit terms, and reads what came of the run', async ({
  page,
}) => {
  await page.goto(`${house.address}/upkeep?to=2026-12-24`);
  const toDecide = page.getByRole('button', { name: /^\d+\s*to decide$/ });
  await toDecide.click();
  const before = Number.parseInt((await toDecide.textContent()) ?? '', 10);
  const ticks = page.getByRole('checkbox', { name: /^Tick Q/ });
  await expect(ticks).toHaveCount(before);
  await expect(page.getByText(/over their credit terms since/).first()).toBeVisible();
  await ticks.nth(0).check();
  await page.getByRole('button', { name: 'Let go on…' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('the customer is over their credit terms');
  await dialog.getByLabel('Why').fill('Paid by telephone');
  await dialog.getByRole('button', { name: 'Let 1 visit go on' }).click();
  await expect(ticks).toHaveCount(before - 1);
  await page.getByRole('button', { name: /^\d+\s*in all$/ }).click();
  await expect(page.getByText('let go on: Paid by telephone')).toBeVisible();
  await page.getByRole('button', { name: /^Raise \d+ visits…/ }).click();
  await expect(dialog).toContainText('wait for a decision and are left');
  await dialog.getByRole('button', { name: /^Raise \d+ visits/ }).click();
  await page.getByRole('link', { name: 'What came of it' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Upkeep run to Thu 24 Dec 2026' })).toBeVisible();
  await expect(page.getByText(/\d+ visits raised as work orders/)).toBeVisible();
  await expectAccessible(page, 'what came of a run');
});
