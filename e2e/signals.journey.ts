// Signals in the demo: a rule is tried on the past before it is kept; one machine is watched otherwise than its class.
import { expect, test } from '@playwright/test';
import type { RunningHouse } from '../commands/house.ts';
import { choose, expectAccessible, openDemo } from './looking.ts';

let house: RunningHouse;
test.beforeAll(async () => {
  house = await openDemo('signals');
});
test.afterAll(() => house?.stop());

test('a rule is tried on the past beside the kept one; a machine of its own is watched for silence', async ({
  page,
}) => {
  await page.goto(house.address);
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
  await page.goto(`${house.address}/setup/alert-rules`);
  await page
    .getByRole('row', { name: /Chamber too warm Ultra-low freezer/ })
    .getByRole('button', { name: 'change' })
    .click();
  const tried = page.getByRole('region', { name: 'Try it on the past' });
  await tried.getByRole('button', { name: 'Try it on the past' }).click();
  await expect(tried).toContainText(/It would have raised .*\. As it is kept: /);
  // Colder than any freezer is: each of them is abnormal from its first reading on.
  await page.getByLabel('Limit', { exact: true }).fill('-120');
  await expect(tried).not.toContainText('It would have raised');
  await tried.getByRole('button', { name: 'Try it on the past' }).click();
  const said = (await tried.getByText(/It would have raised/).textContent()) ?? '';
  const [alerts, machines] = [/(\d+) alerts/.exec(said)?.[1], /readings of (\d+) machines/.exec(said)?.[1]];
  expect([Number(alerts) > 5, alerts]).toEqual([true, machines]);
  await expectAccessible(page, 'a rule tried on the past');
  await page.getByRole('button', { name: 'Cancel' }).click();

  await page.getByRole('button', { name: 'Add an alert rule' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Logger lost');
  await page.getByLabel('Asset class').selectOption('Ultra-low freezer');
  await page.getByLabel('Watches', { exact: true }).selectOption('one machine');
  await choose(page, 'Machine', 'Q0143');
  await page.getByLabel('Abnormal when').selectOption('nothing is said');
  await page.getByLabel('For longer than, seconds').fill('7200');
  await page.getByRole('button', { name: 'Save the alert rule' }).click();
  await expect(page.getByRole('cell', { name: 'chamber says nothing for 2 h' })).toBeVisible();
  await expect(page.getByRole('cell', { name: 'Ultra-low freezer, Q0143' })).toBeVisible();
});
