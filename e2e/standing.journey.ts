// Standing in the demo: what needs explaining first is followed down to its order; a month is closed; what is corrected in it is told
// beside it and its figures stay.
import { expect, test } from '@playwright/test';
import type { RunningHouse } from '../commands/house.ts';
import { expectAccessible, openDemo } from './looking.ts';

let house: RunningHouse;
test.beforeAll(async () => {
  house = await openDemo('standing');
});
test.afterAll(() => house?.stop());

test('misses are followed from the house down to a machine, and explained line by line', async ({ page }) => {
  await page.goto(house.address);
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await page.getByRole('link', { name: 'Standing' }).click();
  await page.getByRole('button', { name: 'last 12 months' }).click();
  const why = page.getByRole('region', { name: 'Why promises were missed' }).first();
  await expect(why).toContainText('came late');
  await expect(page.getByRole('region', { name: 'Month by month' }).first()).toContainText('Sep');
  await page.getByLabel('For each').selectOption('depot');
  await expect(page.getByRole('row', { name: /Ribeira/ })).toBeVisible();
  await page.getByLabel('For each').selectOption('site');
  await page.getByRole('button', { name: 'Unfold Molinho Incubator' }).click();
  await page.getByRole('link', { name: 'Each place of it' }).click();
  await page.getByRole('table', { name: 'Places of Molinho Incubator' }).getByRole('link', { name: 'Room N1' }).click();
  await expect(page.getByRole('heading', { name: 'Room N1' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'WO-11421' }).first()).toBeVisible();
  await expectAccessible(page, 'standing of a place');
  await page.getByRole('link', { name: 'Every site' }).click();
  await page.getByLabel('For each').selectOption('customer');
  await page.getByRole('button', { name: 'Unfold Nudo Genomics' }).click();
  await expect(page.getByRole('heading', { name: /^Promises missed, / })).toBeVisible();
  await expectAccessible(page, 'standing by customer');
  await page.getByRole('link', { name: 'Each of its machines' }).click();
  await expect(page.getByLabel('For each')).toHaveValue('asset');
  await expect(page.getByRole('row', { name: /Q0318/ })).toBeVisible();
  await page.getByRole('button', { name: 'Unfold Q0318' }).click();
  await page.getByRole('link', { name: 'WO-11421' }).first().click();
  await expect(page.getByRole('region', { name: 'Act by act' })).toContainText('the gate’s list shows when he came in');
});

test('a month is closed; an arrival of it is corrected, and what that makes is told beside it', async ({ page }) => {
  await page.goto(house.address);
  await page.getByRole('button', { name: /Carmen Rioboo/ }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
  await page.goto(`${house.address}/standing/months?from=2026-11-01&to=2026-11-24`);
  const september = page.getByRole('row', { name: /^Sep 2026/ });
  await expect(september).toBeVisible();
  const before = await september.getByRole('cell').allTextContents();
  await page.getByRole('button', { name: 'Close Oct 2026…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Close Oct 2026' });
  const reason = dialog.getByLabel('Why it is closed in spite of that');
  if (await reason.isVisible()) await reason.fill('the customers know of them');
  await dialog.getByRole('button', { name: 'Close Oct 2026' }).click();
  await expect(page.getByRole('row', { name: /^Oct 2026/ })).toContainText('Carmen Rioboo');
  await expect(page.getByRole('button', { name: 'Close Nov 2026…' })).toBeDisabled();
  await expectAccessible(page, 'months of standing');

  // The correction of the demo is itself corrected: he came when it was told first.
  await page.goto(`${house.address}/orders/1421/clocks`);
  const acts = page.getByRole('region', { name: 'Act by act' });
  await acts.getByRole('button', { name: 'Correct: on site' }).click();
  const correcting = page.getByRole('dialog', { name: 'Correct' });
  await correcting.getByLabel(/^Time/).fill('14:00');
  await correcting.getByLabel('Why').fill('the list was of another day');
  await expect(correcting).toContainText('Sep 2026 is closed: its figures stay, and what differs is told beside them.');
  await expectAccessible(page, 'a correction');
  await correcting.getByRole('button', { name: 'Correct it' }).click();
  await expect(acts).toContainText('the arrival corrected: the list was of another day');
  await page.goto(`${house.address}/standing/months?from=2026-11-01&to=2026-11-24`);
  await expect(page.getByRole('region', { name: 'Found since months were closed' }).getByRole('row')).toHaveCount(3);
  await expect(september).toBeVisible();
  const after = await september.getByRole('cell').allTextContents();
  expect(after.slice(0, -1)).toEqual(before.slice(0, -1));
});

test('who was warned of a promise sees to it, hands it over, and finds it again in the order', async ({ page }) => {
  await page.goto(house.address);
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await page.getByRole('link', { name: /^Orders/ }).click();
  await page.getByRole('link', { name: 'clocks at work' }).click();
  const clocks = page.getByRole('table', { name: 'Clocks at work' });
  await expect(clocks).toBeVisible();
  await page.getByLabel('warned of, and unanswered').check();
  const warned = clocks.getByRole('row', { name: /WO-11460/ }).filter({ hasText: 'respond' });
  await expect(warned).toContainText('at 25 %: Inês Teixeira');
  await expectAccessible(page, 'clocks at work');
  await warned.getByRole('button', { name: 'I see to it' }).click();
  await expect(warned).toHaveCount(0);
  await page.getByLabel('warned of, and unanswered').uncheck();
  await expect(warned).toContainText('Inês Teixeira sees to it');
  await warned.getByRole('button', { name: 'Hand over…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Hand over' });
  await dialog.getByRole('combobox', { name: 'Hand it to' }).fill('mateo');
  await page.getByRole('option', { name: 'Mateo Larrazabal' }).click();
  await dialog.getByLabel(/^What they need to know/).fill('ring the biobank first');
  await expectAccessible(page, 'handing an order over');
  await dialog.getByRole('button', { name: 'Hand it over' }).click();
  await expect(warned).toContainText('Mateo Larrazabal');
  await page.getByLabel('Put together').selectOption('in hand');
  await expect(page.getByRole('table', { name: 'Groups' })).toContainText('Mateo Larrazabal');
  await warned.getByRole('link', { name: 'WO-11460' }).click();
  await expect(page.getByText('in the hands of Mateo Larrazabal: ring the biobank first')).toBeVisible();
});

test('an agreement is reviewed, and what a calendar would change is looked at before it is saved', async ({ page }) => {
  await page.goto(house.address);
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
  await page.goto(`${house.address}/agreements/21`);
  await page.getByRole('link', { name: 'Review' }).click();
  const proposals = page.getByRole('region', { name: 'Proposals' });
  await expect(proposals).toContainText('Renew it: it ends on Thu 31 Dec 2026');
  await expect(proposals).toContainText('More upkeep for Q0329');
  // What it cost is for managers.
  await expect(page.getByRole('region', { name: 'Cost' })).toHaveCount(0);
  await expectAccessible(page, 'the review of an agreement');

  await page.goto(`${house.address}/setup/calendars`);
  await page
    .getByRole('row', { name: /Ribeira service hours/ })
    .getByRole('button', { name: 'change' })
    .click();
  await page.getByLabel('So from').fill('24 Nov 2026');
  await page.getByLabel('Tuesday').fill('');
  await page.getByRole('button', { name: 'See what it would change' }).click();
  const effect = page.getByRole('region', { name: 'What it would change' });
  await expect(effect).toContainText(/\d+ due later/);
  await expect(effect).toContainText(/visits? would move/);
  await expectAccessible(page, 'what a calendar would change');
});
