// Agreements in depth on the demo: written from a type to in force, amended in mid-term, renewed, and asked about.
import { expect, test, type Page } from '@playwright/test';
import type { RunningHouse } from '../commands/house.ts';
import { choose, expectAccessible, openDemo, openRoom, watchForErrors } from './looking.ts';

let house: RunningHouse;
let errors: string[];
test.beforeAll(async () => {
  house = await openDemo('agreements');
});
test.afterAll(() => house?.stop());

test.beforeEach(async ({ page }) => {
  errors = watchForErrors(page);
  await page.goto(house.address);
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
});
test.afterEach(() => expect(errors).toEqual([]));

const part = (page: Page, name: string) =>
  page.getByRole('tablist', { name: 'Parts of the agreement' }).getByRole('tab', { name });

test('an agreement is written from a type, its gaps are seen, and it is put in force', async ({ page }) => {
  await openRoom(page, 'Agreements');
  await page.getByRole('button', { name: 'Write an agreement…' }).click();
  const dialog = page.getByRole('dialog');
  await choose(dialog, 'Customer', 'Pontal Marine Station');
  await dialog.getByLabel('Begin with').selectOption('the type Parts shared');
  await expect(dialog.getByLabel('Name', { exact: true })).toHaveValue('Parts shared');
  await dialog.getByLabel(/^Price of the whole per quarter/).fill('1.250,50');
  await expect(dialog.getByText('EUR 1,250.50')).toBeVisible();
  await expectAccessible(page, 'write an agreement');
  await dialog.getByRole('button', { name: 'Write the draft' }).click();
  await expect(page.getByText(/keeps? it from being in force/)).toBeVisible();

  await page.getByRole('button', { name: 'Add coverage…' }).click();
  await expect(page.getByLabel('Parts we bear, %')).toHaveValue('50');
  await page.getByLabel('Labour we bear, %').fill('120');
  await page.getByLabel('Service level').selectOption({ index: 1 });
  await page.getByRole('button', { name: 'Add the coverage' }).click();
  await expect(page.getByText('From 0 to 100 %.')).toBeVisible();
  await page.getByLabel('Labour we bear, %').fill('100');
  await page.getByRole('button', { name: 'Add the coverage' }).click();
  await expect(page.getByRole('cell', { name: /^Everything below/ })).toBeVisible();
  await expect(page.getByText(/covered by this agreement, 0 without any cover/)).toBeVisible();
  await expectAccessible(page, 'coverage matrix');

  await part(page, 'Rights and price').click();
  await page.getByRole('button', { name: 'Set counted rights…' }).click();
  await page.getByRole('button', { name: 'Add a counted right' }).click();
  await page.getByRole('button', { name: 'Save the counted rights' }).click();
  await expect(page.getByText('5 visits', { exact: true })).toBeVisible();
  await expect(page.getByText('falls due in that time')).toBeVisible();
  await page.getByRole('button', { name: 'Put in force' }).click();
  await expect(page.getByText('in force', { exact: true })).toBeVisible();
});

test('an agreement in force is amended from a day on, after a look at what changes; before it all is as it was', async ({
  page,
}) => {
  await page.goto(`${house.address}/agreements/3`);
  await page.getByRole('button', { name: 'Amend…' }).click();
  await page.getByLabel('Holds from').fill('1 jan 2027');
  await page.getByLabel('What is amended and why').fill('Parts shared from the new year');
  await page
    .getByRole('checkbox', { name: /^Tick Every/ })
    .first()
    .check();
  await page.getByRole('button', { name: 'Change ticked…' }).click();
  await page.getByLabel('Parts we bear, %').fill('75');
  await page.getByRole('button', { name: 'Change 1 line' }).click();
  const effect = page.getByLabel('What changes', { exact: true });
  await expect(effect.getByRole('row', { name: /parts 100 % 75 %/ })).toBeVisible();
  await expect(effect).toContainText(/The cover of \d+ machines? changes:/);
  await expectAccessible(page, 'amendment');
  await page.getByRole('button', { name: 'Amend from Fri 1 Jan 2027' }).click();
  await expect(page.getByRole('button', { name: 'Amend…' })).toBeVisible();
  await part(page, 'Versions and files').click();
  await expect(page.getByRole('cell', { name: 'Parts shared from the new year', exact: true })).toBeVisible();
  await page
    .getByRole('row', { name: /Fri 1 Jan 2027/ })
    .getByRole('button', { name: 'as it held then' })
    .click();
  await expect(page.getByText('Coverage as it held on Fri 1 Jan 2027.')).toBeVisible();
  await expect(page.getByRole('row', { name: /75/ }).first()).toBeVisible();
  await page.goto(`${house.address}/agreements/3?on=2026-12-31`);
  await expect(page.getByText('Coverage as it held on Thu 31 Dec 2026.')).toBeVisible();
  await expect(page.getByRole('cell', { name: '75', exact: true })).toHaveCount(0);
});

test('a renewal is accepted with its new price', async ({ page }) => {
  await openRoom(page, 'Agreements');
  await page.getByRole('link', { name: 'Renewals' }).click();
  const row = page.getByRole('row', { name: /Horta Nova Biobank/ });
  await row.getByRole('button', { name: 'renew' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Every price changes by, %').fill('3.5');
  await expect(dialog).toContainText('5,920.00 becomes EUR 6,127.20');
  await expectAccessible(page, 'renew');
  await dialog.getByRole('button', { name: 'Renew for 12 months' }).click();
  await expect(page.getByRole('row', { name: /Horta Nova Biobank/ })).toHaveCount(0);
});

test('what a machine is entitled to is asked for another day and part, and the traps of the register are named', async ({
  page,
}) => {
  await page.goto(`${house.address}/assets/tag/Q0187`);
  await page.getByRole('button', { name: 'Ask for another day, cause or part…' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('parts 60 %');
  await dialog.getByLabel('Date').fill('2 mar 2026');
  await expect(dialog).toContainText('parts 50 %');
  await dialog.getByLabel('Cause').selectOption('misuse');
  await expect(dialog).toContainText('Not covered: chargeable at list rates');
  await expectAccessible(page, 'ask');
  await dialog.getByRole('button', { name: 'Close' }).click();
  await page.goto(`${house.address}/agreements/cover`);
  await expect(page.getByText('AG-2006 Parts shared is a draft').first()).toBeVisible();
  await expect(page.getByText('AG-2010 Full care is suspended').first()).toBeVisible();
  await page.getByLabel('Which machines').selectOption('lose their warranty with no agreement to follow');
  await page.getByLabel('Within, days').fill('365');
  await expect(page.getByText(/warranty ends on .*, no agreement follows/).first()).toBeVisible();
  await expectAccessible(page, 'questions about cover');
});
