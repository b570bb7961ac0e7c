// Stores in the demo: a part that is missing is bought, comes, ends the waiting, is picked and used; the rest of a visit takes its part
// along; a store is counted; what stands in is taken, a unit becomes a machine, what is wrong goes back, and a list is loaded.
import { expect, test, type Page } from '@playwright/test';
import type { RunningHouse } from '../commands/house.ts';
import { expectAccessible, openDemo } from './looking.ts';

let house: RunningHouse;
test.beforeAll(async () => {
  house = await openDemo('stores');
});
test.afterAll(() => house?.stop());
test.beforeEach(async ({ page }) => {
  await page.goto(house.address);
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
});

const open = (page: Page, path: string) => page.goto(`${house.address}${path}`);
const needs = (page: Page) => page.locator('#parts');
/** Chooses a part by its number, in the dialog that is open. */
async function choosePart(page: Page, number: string): Promise<void> {
  await page.getByRole('combobox', { name: 'Part' }).fill(number);
  await expect(page.getByRole('option', { name: new RegExp(number) }).first()).toBeVisible();
  await page.keyboard.press('Enter');
}

test('a part nobody has is needed, bought, comes, ends the waiting, is picked and used', async ({ page }) => {
  await open(page, '/orders/1455');
  await page.getByRole('button', { name: 'part needed…' }).click();
  await choosePart(page, 'WD-SA-01');
  await page.getByLabel('Quantity, piece').fill('2');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(needs(page)).toContainText('▲ 2 open');
  await expect(page.getByText('sent, paused')).toBeVisible();

  await open(page, '/stores/buy');
  const row = page.getByRole('row', { name: /WD-SA-01.*WO-11455/ });
  await expect(row).toContainText('Quarvo Parts');
  await row.getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Make 1 purchase order of 1 part' }).click();
  await expectAccessible(page, 'stores');
  await page.getByRole('status').getByRole('link').click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('to Quarvo Parts');
  await expect(page.getByRole('row', { name: /WD-SA-01/ })).toContainText('2 for WO-11455');
  await page.getByRole('button', { name: 'Handed over on paper' }).click();
  await page.getByRole('button', { name: 'Something came…' }).click();
  await page.getByLabel('Delivery note').fill('QP 2207');
  await page.getByRole('button', { name: 'Take it in' }).click();
  await expect(page.getByRole('dialog')).toContainText('WO-11455');
  await page.getByRole('button', { name: 'Done' }).click();
  await expectAccessible(page, 'stores');

  await open(page, '/orders/1455');
  await expect(needs(page).getByRole('row', { name: /WD-SA-01/ })).toContainText('held in Ribeira');
  await expect(page.getByText('sent, paused')).toHaveCount(0);

  await open(page, '/stores/all/1/picking?day=2026-11-24');
  await page.getByRole('checkbox', { name: 'Tick WD-SA-01 for WO-11455' }).check();
  await page.getByRole('button', { name: '1 line picked' }).click();
  await expect(page.getByRole('row', { name: /WD-SA-01/ })).toHaveCount(0);

  await open(page, '/orders/1455');
  await expect(needs(page).getByRole('row', { name: /WD-SA-01/ })).toContainText('2 held in Van 3');
  await page.getByRole('button', { name: 'part used…' }).click();
  await choosePart(page, 'WD-SA-01');
  await expect(page.getByLabel('Taken from')).toContainText('Van 3: 2 held for it');
  await page.getByLabel('Quantity, piece').fill('2');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(needs(page).getByRole('row', { name: /WD-SA-01/ })).toContainText('used');
  await expect(page.getByText('from Van 3')).toBeVisible();
});

test('what a visit left undone goes on with its part, which is picked for the return', async ({ page }) => {
  await open(page, '/orders/1450');
  await expect(needs(page).getByRole('row', { name: /ST-VP-20/ })).toContainText('held in Ribeira');
  await page.getByRole('button', { name: 'Follow up…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('What is left, and why').fill('the pump goes in with a second person');
  await dialog.getByRole('button', { name: 'Raise the follow-up' }).click();
  await expect(page.getByText('Does the rest of')).toBeVisible();
  await expect(needs(page).getByRole('row', { name: /ST-VP-20/ })).toContainText('1 held in Ribeira');
  await page.getByRole('button', { name: 'Plan…' }).click();
  await dialog.getByRole('combobox', { name: 'Technician' }).fill('Ewa');
  await page.getByRole('option', { name: /Ewa Zielonka/ }).click();
  await dialog.getByLabel('Goes on').fill('25 Nov 2026');
  await dialog.getByRole('button', { name: 'Plan the order' }).click();
  await expect(page.getByText('planned for Wed 25 Nov 2026').first()).toBeVisible();

  await open(page, '/stores/all/1/picking?day=2026-11-25');
  const row = page.getByRole('row', { name: /ST-VP-20/ }).first();
  await expect(row).toContainText('Ewa Zielonka');
  await row.getByRole('checkbox').check();
  await page.getByRole('button', { name: '1 line picked' }).click();
  await expect(row).toContainText('is kept by serial: give one for each');
  await row.getByLabel(/^Serials of/).fill('ST-VP-20-1000');
  await page.getByRole('button', { name: '1 line picked' }).click();
  await expect(page.getByRole('row', { name: /ST-VP-20/ })).toHaveCount(0);
});

test('a store is counted while work goes on, and the difference is let stand', async ({ page }) => {
  await open(page, '/stores/all/1');
  await page.getByRole('button', { name: 'count…' }).click();
  await page.getByLabel('How many parts').fill('3');
  await page.getByRole('button', { name: 'Begin the count' }).click();
  await expect(page.getByRole('heading', { name: /Count of Ribeira/ })).toBeVisible();
  const found = page.getByLabel(/^Found of/).first();
  await found.fill('1');
  await found.press('Enter');
  await expect(page.getByText('1 of 3 counted')).toBeVisible();
  await expectAccessible(page, 'stores');
  await page.getByRole('button', { name: 'Let 1 difference stand' }).click();
  await expect(page.getByText('approved, 1 of 3 counted')).toBeVisible();
});

test('what stands in for a part is taken where it is open, and the part’s own page shows how it goes', async ({
  page,
}) => {
  await open(page, '/orders/1460');
  await page.getByRole('button', { name: 'part needed…' }).click();
  await choosePart(page, 'WD-SA-01');
  // More than there are, whatever was counted and bought before.
  await page.getByLabel('Quantity, piece').fill('99');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await page.getByRole('button', { name: 'Take WD-SA-02 instead' }).click();
  await expect(needs(page).getByRole('row', { name: /WD-SA-02/ })).toContainText('held in Ribeira');

  await page.getByRole('link', { name: 'WD-SA-02' }).first().click();
  await expect(page.getByRole('img', { name: /free on/ })).toBeVisible();
  await expect(page.getByText('It stands in for')).toBeVisible();
  await expectAccessible(page, 'a part');
  await page.keyboard.press('/');
  await page.getByRole('textbox', { name: 'Find' }).fill('vacuum pump');
  await expect(page.getByRole('button', { name: /ST-VP-20/ }).first()).toBeVisible();
});

test('a unit becomes a machine of its own; a wrong part goes back and is credited', async ({ page }) => {
  await open(page, '/stores/parts/5/unit?serial=TN-CM-K2-1000');
  await expect(page.getByText(/warranted until/)).toBeVisible();
  await page.getByRole('button', { name: 'Make it a machine of its own…' }).click();
  await page.getByLabel('Class').selectOption({ label: 'Ultra-low freezer' });
  await page.getByLabel('Maker').fill('Tindrel');
  await page.getByLabel('Tag').fill('Q0990');
  await page.getByRole('button', { name: 'Register it' }).click();
  await expect(page.getByText(/in the register/)).toContainText('Q0990');
  await expectAccessible(page, 'a unit');

  await open(page, '/stores/returns');
  await page.getByRole('button', { name: /^Say what came of/ }).click();
  await page.getByLabel('They give').fill('100');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByRole('row', { name: /ST-LM-08/ })).toContainText('100.00 credited');
  await page.getByRole('button', { name: 'Send back…' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByRole('combobox', { name: 'From' })).toHaveValue(/quarantine/);
  await dialog.getByRole('combobox', { name: 'From' }).fill('Ribeira, qua');
  await page.getByRole('option', { name: /Ribeira, quarantine/ }).click();
  await dialog.getByRole('combobox', { name: 'Supplier' }).fill('Ondrel');
  await page.getByRole('option', { name: /Ondrel/ }).click();
  await dialog.getByLabel('Why').selectOption({ label: 'under warranty' });
  await choosePart(page, 'TN-CM-K2');
  await dialog.getByLabel('Serials').fill('TN-CM-K2-0871');
  await dialog.getByRole('button', { name: 'Send back' }).click();
  await expect(page.getByRole('row', { name: /TN-CM-K2-0871/ })).toContainText('no answer yet');
  await expectAccessible(page, 'returns');
});

test('a list of a store is loaded without the row that is wrong; figures tell how stores do', async ({ page }) => {
  await open(page, '/stores/all/1');
  await page.getByRole('button', { name: 'Load a list…' }).click();
  const text = 'number,bin,counted\r\nBS-LP-02,Z-77,3\r\nno-such,Z-78,\r\n';
  await page.getByLabel('File').setInputFiles({ name: 'list.csv', mimeType: 'text/csv', buffer: Buffer.from(text) });
  await expect(page.getByText('✕ Line 3, number')).toBeVisible();
  await expectAccessible(page, 'a list that is loaded');
  await page.getByRole('button', { name: 'Load without the 1 that are wrong' }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await expect(page.getByRole('row', { name: /BS-LP-02/ })).toContainText('Z-77');

  await page.getByRole('link', { name: 'Figures' }).click();
  await expect(page.getByRole('heading', { name: 'Nothing taken in a year' })).toBeVisible();
  await expect(page.getByRole('row', { name: /CR-DH-15/ }).first()).toBeVisible();
  await expectAccessible(page, 'figures of stores');
});
