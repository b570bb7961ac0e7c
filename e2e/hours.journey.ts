// A technician's week in the demo: time over four orders, handed in, sent back, put right and approved; and what it comes to.
import { expect, test, type Page } from '@playwright/test';
import type { RunningHouse } from '../commands/house.ts';
import { expectAccessible, openDemo, openRoom } from './looking.ts';

let house: RunningHouse;
test.beforeAll(async () => {
  house = await openDemo('hours');
});
test.afterAll(() => house?.stop());

async function signIn(page: Page, name: string): Promise<void> {
  await page.goto(house.address);
  await page.getByRole('button', { name: new RegExp(name) }).click();
  await openRoom(page, 'Hours');
}

/** Enters time from one hour to another for the next of the orders offered; gives the numbers of those it is for. */
async function enter(page: Page, from: string, to: string, orders: number, skip: number): Promise<string[]> {
  await page.getByRole('button', { name: 'Enter time…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('From', { exact: true }).fill(from);
  await dialog.getByLabel('To', { exact: true }).fill(to);
  const numbers: string[] = [];
  for (let i = 0; i < orders; i += 1) {
    await dialog.getByRole('combobox', { name: /or the order$/ }).click();
    const option = dialog
      .getByRole('listbox')
      .getByRole('option', { name: /WO-/ })
      .nth(skip + i);
    numbers.push(/WO-\d+/.exec((await option.textContent()) ?? '')?.[0] ?? '');
    await option.click();
  }
  await dialog.getByRole('button', { name: 'Enter time' }).click();
  return numbers;
}

test('a week’s sheet over four orders is handed in, sent back, put right and approved', async ({ page, browser }) => {
  await signIn(page, 'Renata Valdês');
  await expect(page.getByText('not handed in yet')).toBeVisible();
  const [one] = await enter(page, '8:00', '8:30', 1, 0);
  await expect(page.getByRole('row', { name: new RegExp(`^${one}`) })).toContainText('0:30');
  // Half an hour over three orders is ten minutes each.
  const three = await enter(page, '8:30', '9:00', 3, 1);
  for (const number of three)
    await expect(page.getByRole('row', { name: new RegExp(`^${number}`) })).toContainText('0:10');
  // The same time once more: refused with the reason, which is asked for.
  await enter(page, '8:45', '9:15', 1, 0);
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByText(/is entered already/)).toBeVisible();
  await dialog.getByLabel('Why both stand').fill('waited beside the other machine');
  await dialog.getByRole('button', { name: 'Enter time' }).click();
  await expect(page.getByText(/shares time with another/).first()).toBeVisible();
  await expect(page.getByRole('row', { name: /^Entered/ })).toContainText('1:30');
  await expectAccessible(page, 'hours');
  await page.getByRole('button', { name: 'Hand in' }).click();
  await expect(page.getByText('handed in, to be approved')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Approve' })).toHaveCount(0);

  const desk = await (await browser.newContext({ locale: 'en-GB' })).newPage();
  await signIn(desk, 'Rui Caldeira');
  await desk
    .getByRole('navigation', { name: 'Time sheets' })
    .getByRole('link', { name: /Renata Valdês/ })
    .click();
  await desk.getByRole('button', { name: 'Send back…' }).click();
  await desk.getByLabel('What is to be put right').fill('the last entry was for nothing');
  await desk.getByRole('button', { name: 'Send the week back' }).click();
  await expect(desk.getByText('sent back', { exact: true }).first()).toBeVisible();

  // Told to the open screen by itself.
  await expect(page.getByText(/the last entry was for nothing/)).toBeVisible();
  await page
    .getByRole('row', { name: /08:45–09:15/ })
    .getByRole('button', { name: 'remove' })
    .click();
  await expect(page.getByRole('row', { name: /^Entered/ })).toContainText('1:00');
  await page.getByRole('button', { name: 'Hand in' }).click();
  await desk.getByRole('button', { name: 'Approve' }).click();
  await expect(desk.getByText('approved', { exact: true }).first()).toBeVisible();

  // Thirty minutes before it opens are billed as an hour, at the senior technician’s 92.00 and a quarter more.
  await desk
    .getByRole('link', { name: one ?? '' })
    .first()
    .click();
  const row = desk.getByRole('row', { name: /Renata Valdês.*work/ }).first();
  await expect(row).toContainText('30 min');
  await expect(row).toContainText('115.00');
});
