// The year of upkeep in the demo: a schedule written in words and changed from a visit on, a whole place scheduled, visits that join, the load evened out, a feed.
import { expect, test } from '@playwright/test';
import type { RunningHouse } from '../commands/house.ts';
import { choose, expectAccessible, openDemo } from './looking.ts';

let house: RunningHouse;
test.beforeAll(async () => {
  house = await openDemo('upkeep-year');
});
test.afterAll(() => house?.stop());
test.beforeEach(async ({ page }) => {
  await page.goto(house.address);
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
});

test('writes a schedule in words under an agreement in force, and changes it from one of its visits on', async ({
  page,
}) => {
  await page.goto(`${house.address}/agreements?stage=in+force`);
  await page.getByRole('link', { name: 'AG-2019' }).click();
  await page.getByRole('tab', { name: 'Upkeep' }).click();
  await page.getByRole('button', { name: 'Add a schedule…' }).click();
  // Whatever the first line reaches, now and later.
  await page.getByLabel('For', { exact: true }).selectOption({ index: 1 });
  await page.getByLabel('How often').fill('every blue moon');
  await expect(page.getByText('“blue” is not understood')).toBeVisible();
  await page.getByRole('button', { name: 'last working day of the quarter' }).click();
  await expect(page.getByText('FREQ=MONTHLY;BYMONTH=3,6,9,12;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1')).toBeVisible();
  await expect(page.getByRole('img', { name: /visits on the days of twelve months/ })).toBeVisible();
  await page.getByText('Wanted day and time').click();
  await page.getByLabel('The customer is asked before it is raised').check();
  await page.getByLabel('Wanted at').fill('7.30');
  await expectAccessible(page, 'editor of schedules');
  await page.getByRole('button', { name: 'Add the schedule' }).click();
  await page.getByRole('link', { name: 'On the last working day of the quarter' }).first().click();
  const row = page.getByRole('row', { name: /Wed 31 Mar 2027/ });
  await row.getByRole('button', { name: 'from here on…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('another rule').check();
  await dialog.getByLabel('How often').fill('15th of every month');
  await dialog.getByRole('button', { name: 'Change this and all later visits' }).click();
  await expect(page.getByText('From Wed 31 Mar 2027 on: Every month on day 15.')).toBeVisible();
  await expect(page.getByRole('row', { name: /Thu 15 Apr 2027/ })).toBeVisible();
  await page.getByRole('button', { name: 'Change the terms…' }).click();
  await page.getByLabel('Days late').fill('10');
  await page.getByRole('button', { name: 'Change the terms', exact: true }).click();
  await expect(page.getByRole('row', { name: /Thu 15 Apr 2027/ })).toContainText('25 Apr 2027');
});

test('evens out the load of the year: looked at, moved, and seen as moved', async ({ page }) => {
  await page.goto(`${house.address}/upkeep/load`);
  // A year of every visit is added up on a thread: beside whatever else a machine does, that takes its time.
  await expect(page.getByRole('img', { name: /^Everything: / })).toBeVisible({ timeout: 40_000 });
  await page.getByRole('button', { name: 'Even out' }).click();
  await expect(page.getByRole('heading', { name: 'Evened out' })).toBeVisible();
  const fullest = page.getByRole('row', { name: /^Fullest week/ });
  const lower = Number(/(\d+) % lower/.exec((await fullest.textContent()) ?? '')?.[1]);
  expect(lower).toBeGreaterThanOrEqual(25);
  const moves = page.getByRole('checkbox', { name: /^Tick Q/ });
  const count = await moves.count();
  await moves.first().uncheck();
  await expectAccessible(page, 'load');
  await page.getByRole('button', { name: `Move ${count - 1} visits` }).click();
  await expect(page.getByRole('status')).toContainText(`${count - 1} visits moved.`);
  // What was moved stays where it was put: little is left to even out.
  await page.getByRole('button', { name: 'Even out' }).click();
  await expect(
    page.getByRole('heading', { name: 'Evened out' }).or(page.getByText(/Nothing would get more even/)),
  ).toBeVisible();
  await expect.poll(() => moves.count()).toBeLessThan(count / 2);
});

test('gives a customer’s calendar an address, and takes it back', async ({ page }) => {
  await page.goto(`${house.address}/upkeep/year`);
  await choose(page, 'Customer', 'Nudo Genomics');
  await expect(page.getByRole('heading', { name: 'Nudo Genomics, 2026' })).toBeVisible();
  await page.getByLabel('Visits of', { exact: true }).selectOption('Nudo Genomics');
  await page.getByRole('button', { name: 'Make an address' }).click();
  const address = (await page.getByText(/\/api\/calendar\/.*\.ics$/).textContent()) ?? '';
  const calendar = await page.request.get(address);
  expect(await calendar.text()).toContain('BEGIN:VEVENT');
  await expectAccessible(page, 'year');
  await page.getByRole('button', { name: 'Revoke the address of Nudo Genomics' }).click();
  await expect(page.getByText('revoked', { exact: true })).toBeVisible();
  expect((await page.request.get(address)).status()).toBe(404);
});

test('schedules a whole place in one matrix, and raises visits of a place as one order, of which one machine is left', async ({
  page,
}) => {
  await page.goto(`${house.address}/upkeep`);
  await page.getByRole('link', { name: 'Place', exact: true }).click();
  // The run has a customer to choose as well.
  await expect(page.getByRole('heading', { name: 'A whole place' })).toBeVisible();
  await choose(page, 'Customer', 'Kelvara Biotech');
  await choose(page, 'Place', 'Molinho Incubator');
  const incubators = page.getByRole('region', { name: 'Incubator', exact: true });
  await incubators.getByRole('button', { name: 'tick all 4' }).click();
  await incubators.getByLabel('How often, Incubator gas calibration').fill('15th of every month');
  const outcome = page.getByRole('region', { name: 'What it comes to' });
  await expect(outcome).toContainText(/4 schedules with \d+ visits in the coming year, in \d+ orders/);
  await expectAccessible(page, 'matrix of a place');
  await outcome.getByRole('button', { name: 'Make 4 schedules' }).click();
  await expect(page.getByRole('status')).toContainText('4 schedules made.');
  await expect(incubators.getByRole('link', { name: 'Every month on day 15' })).toHaveCount(4);

  await page.goto(`${house.address}/upkeep?to=2026-12-15`);
  const joined = page.getByRole('row').filter({ hasText: 'one order with 5 other visits' });
  await expect(joined).toHaveCount(6);
  for (const row of await joined.all()) await row.getByRole('checkbox').check();
  await page.getByRole('button', { name: /^Raise 6/ }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Raise 6/ })
    .click();
  await expect(joined).toHaveCount(0);
  await page.goto(`${house.address}/orders?kind=preventive`);
  await page.getByRole('link', { name: /Washer-disinfector half-year, 6 machines/ }).click();
  await page
    .getByRole('button', { name: /^Leave Q/ })
    .first()
    .click();
  await page.getByLabel(/^Why the machine is left undone/).fill('The room is being painted');
  await page.getByRole('button', { name: 'Leave it' }).click();
  await expect(page.getByRole('cell', { name: /^left undone: The room is being painted/ })).toBeVisible();
  await expectAccessible(page, 'order of several machines');
  await page.getByRole('button', { name: /^Do Q\d+ after all/ }).click();
  await expect(page.getByRole('button', { name: /^Leave Q/ })).toHaveCount(6);
});
