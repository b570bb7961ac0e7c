// A dispatcher's day on the demo: a morning planned by keys, by drag and by the house, somebody sick replaced, an urgent order put in,
// and a promise kept that the forecast saw break.
import { expect, test, type Page } from '@playwright/test';
import type { RunningHouse } from '../commands/house.ts';
import { choose, expectAccessible, openDemo, openRoom, watchForErrors } from './looking.ts';

let house: RunningHouse;
let errors: string[];
test.beforeAll(async () => {
  house = await openDemo('rota');
});
test.afterAll(() => house?.stop());

test.beforeEach(async ({ page }) => {
  errors = watchForErrors(page);
  await page.goto(house.address);
  await page.getByRole('button', { name: /Núria Falcó/ }).click();
  await openRoom(page, 'Rota');
  await expect(page.getByText('Loose work, hung at its latest start')).toBeVisible();
});
test.afterEach(() => expect(errors).toEqual([]));

const toPlan = (page: Page) => page.getByRole('region', { name: 'Work to be planned' });
const boxes = (page: Page, name: RegExp) => page.locator('[data-appointment]').and(page.getByRole('button', { name }));

test('a morning is planned by keys alone: walked, opened, given by a number; another carried to where it goes', async ({
  page,
}) => {
  await expect(toPlan(page).getByRole('listitem').first()).toContainText('Chamber too warm');
  await expectAccessible(page, 'the rota of a day');
  // The list is walked and the first who can is given it.
  await page.keyboard.press('j');
  await page.keyboard.press('j');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Door does not close' })).toBeVisible();
  await expect(page.getByRole('button', { name: /^1 Give to/ })).toBeVisible();
  await page.keyboard.press('1');
  await expect(page.getByRole('status').filter({ hasText: 'goes' })).toBeVisible();
  await expect(boxes(page, /^Door does not close/)).toHaveCount(1);

  // Another is carried: to the next person, to the next time that goes.
  await toPlan(page)
    .getByRole('button', { name: /^Conductivity too high/ })
    .click();
  await expect(page.getByRole('button', { name: /Move by keys/ })).toBeVisible();
  await page.keyboard.press('m');
  await expect(page.getByText(/Leire Goikoetxea/).first()).toBeVisible();
  // Down to the first who has the whole day.
  for (let i = 0; i < 7; i += 1) await page.keyboard.press('ArrowDown');
  await page.keyboard.press('n');
  await expect(page.getByText('nothing speaks against it').first()).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(boxes(page, /^Conductivity too high.*Mikael Okonjo/)).toHaveCount(1);
  // And taken back.
  await page.keyboard.press('u');
  await expect(page.getByText(/^Taken back: Conductivity/)).toBeVisible();
  await expect(boxes(page, /^Conductivity too high/)).toHaveCount(0);
});

test('loose work is dragged to who goes; where it cannot go it says why and stays loose', async ({ page }) => {
  const loose = page.getByRole('button', { name: /^Conductivity too high, .*leave by/ });
  const from = await loose.boundingBox();
  const box = page
    .locator('[data-appointment]')
    .and(page.getByRole('button', { name: /^Steriliser care.*Samir Haddou/ }));
  const taken = await box.boundingBox();
  if (!from || !taken) throw new Error('nothing to drag, or nowhere to drag it to');
  const drag = async (x: number, y: number): Promise<void> => {
    await page.mouse.move(from.x + 8, from.y + 8);
    await page.mouse.down();
    await page.mouse.move(from.x + 30, from.y + 30, { steps: 4 });
    await page.mouse.move(x, y, { steps: 12 });
  };
  // Onto an appointment of Samir's: said before it is let go, and asked after.
  await drag(taken.x + 20, taken.y + 12);
  await expect(page.getByText(/they are elsewhere then/).first()).toBeVisible();
  await page.mouse.up();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Plan it anyway' }).click();
  await expect(dialog.getByText('Say why, or choose another time.')).toBeVisible();
  await dialog.getByRole('button', { name: 'Leave it as it was' }).click();
  await expect(loose).toBeVisible();

  // Further down somebody has the whole day.
  const free = await page.getByText('Mikael Okonjo').first().boundingBox();
  await drag(taken.x + 60, (free?.y ?? 0) + 20);
  await expect(page.getByText(/Mikael Okonjo/).nth(1)).toBeVisible();
  await page.mouse.up();
  await expect(
    page.locator('[data-appointment]').and(page.getByRole('button', { name: /^Conductivity too high/ })),
  ).toHaveCount(1);
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(loose).toBeVisible();
});

test('somebody sick is replaced in all of the day at one go', async ({ page }) => {
  await page.getByRole('button', { name: /^sick: give 3 to/ }).click();
  const dialog = page.getByRole('dialog');
  await choose(dialog, 'Goes in their place', 'Mikael Okonjo');
  await expect(dialog.getByRole('listitem')).toHaveCount(3);
  const give = dialog.getByRole('button', { name: /^Give \d appointments? to Mikael Okonjo/ });
  await expectAccessible(page, 'somebody else for a day');
  await give.click();
  await expect(page.getByRole('status').filter({ hasText: 'given to Mikael Okonjo' })).toBeVisible();
});

test('an urgent order from an alert is put in with the least damage, and a promise the forecast saw break is kept', async ({
  page,
}) => {
  await toPlan(page)
    .getByRole('button', { name: /^Chamber too warm/ })
    .click();
  await expect(page.getByRole('heading', { name: 'Chamber too warm' })).toBeVisible();
  await page.getByRole('button', { name: 'Plan for me…' }).click();
  await expect(page.getByRole('checkbox', { name: /^Put in “Chamber too warm” only/ })).toBeChecked();
  await page.getByRole('button', { name: 'Propose a rota' }).click();
  await page.getByRole('button', { name: /^Accept \d+ proposals?/ }).click({ timeout: 60_000 });
  await expect(page.getByRole('status').filter({ hasText: /accepted/ })).toBeVisible();

  await page.goto(`${house.address}/rota/forecast`);
  await expect(page.getByRole('heading', { name: /at risk/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /^Chamber too warm/ })).toHaveCount(0);
  await expectAccessible(page, 'the forecast');
  const remedy = page.getByRole('row', { name: /^Conductivity too high/ }).getByRole('button', { name: /^Give to/ });
  await remedy.click();
  await expect(page.getByRole('status').filter({ hasText: /^Conductivity too high: .* goes/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /^Conductivity too high/ })).toHaveCount(0);
});

test('the house plans a day: looked at before and after, accepted, and the day is sent', async ({ page }) => {
  await page.getByRole('button', { name: 'Later' }).click();
  await page.getByRole('button', { name: 'Plan for me…' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Propose a rota' }).click();
  await expect(page.getByRole('button', { name: /^Accept \d+ proposals/ })).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole('columnheader', { name: 'Proposed' }).first()).toBeVisible();
  await expectAccessible(page, 'a proposed rota');
  await page
    .getByRole('checkbox', { name: /^Accept/ })
    .first()
    .uncheck();
  await page.getByRole('button', { name: /^Accept \d+ proposals?/ }).click();
  await expect(page.getByRole('status').filter({ hasText: /\d+ accepted/ })).toBeVisible();
  await expect(
    page
      .getByRole('button', { name: 'Accept 1 proposal' })
      .or(page.getByRole('button', { name: 'Accept 0 proposals' })),
  ).toBeVisible();
  await page.getByRole('link', { name: '‹ Rota' }).click();
  // Only what is ticked is looked at: what could go that day is planned by now, so both are left out, each with why.
  const ticks = page.getByRole('checkbox', { name: /^Tick / });
  await ticks.nth(0).check();
  await ticks.nth(1).check();
  await page.getByRole('button', { name: 'Plan the 2 ticked for me…' }).click();
  await expect(page.getByRole('checkbox', { name: /^Put in the 2 ticked orders only/ })).toBeChecked();
  await page.getByRole('checkbox', { name: 'What is planned already may move' }).uncheck();
  await page.getByRole('dialog').getByRole('button', { name: 'Propose a rota' }).click();
  await expect(page.getByRole('heading', { name: 'Left out' })).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole('main').getByRole('listitem')).toHaveCount(2);
  await page.getByRole('link', { name: '‹ Rota' }).click();
  await page.getByRole('button', { name: /^Send \d+ appointments?/ }).click();
  await expect(page.getByRole('status').filter({ hasText: /sent, \d+ customers? told/ })).toBeVisible();
});

test('the week, the month, time down and by place are drawn; absences are decided, technicians kept', async ({
  page,
}) => {
  for (const view of ['Week', 'Month', 'Hours', 'Day']) {
    await page.getByRole('group', { name: 'How long' }).getByRole('button', { name: view, exact: true }).click();
    await expect(page.locator('[data-appointment]').first()).toBeVisible();
  }
  const tick = async (name: string, on: boolean): Promise<void> => {
    // What is ticked stands in the address first.
    await page.getByRole('checkbox', { name }).click();
    await expect(page.getByRole('checkbox', { name })).toBeChecked({ checked: on });
  };
  await tick('Time down', true);
  await expect(page.locator('[data-appointment]').first()).toBeVisible();
  await expectAccessible(page, 'the rota with time down');
  await tick('Time down', false);
  await tick('By place', true);
  await expect(page.getByText('Hospital do Miño').first()).toBeVisible();
  await page.getByRole('link', { name: 'Absences' }).click();
  const asked = page.getByRole('row', { name: /^Mikael Okonjo/ });
  await expectAccessible(page, 'absences');
  await asked.getByRole('button', { name: 'Agree' }).click();
  await expect(asked).toContainText('agreed by Núria Falcó');

  await page.goto(`${house.address}/setup/technicians`);
  await page
    .getByRole('row', { name: /^Duarte Moura/ })
    .getByRole('button', { name: 'change' })
    .click();
  await page.getByLabel('Van', { exact: true }).fill('Van 12');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByRole('row', { name: /^Duarte Moura/ })).toContainText('Van 12');
  await expectAccessible(page, 'technicians');
});

test('today is followed: what is said by phone is typed, loose work stands on the map, and figures tell how it went', async ({
  page,
}) => {
  await page
    .locator('[data-appointment]')
    .and(page.getByRole('button', { name: /^Dosing alarm/ }))
    .click();
  const pane = page.getByRole('complementary', { name: 'Chosen' });
  await pane.getByRole('button', { name: 'Back in use…' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Back in use' }).click();
  await expect(pane.getByRole('button', { name: 'Done…' })).toBeVisible();
  await pane.getByRole('button', { name: /^Hours of/ }).click();
  const hours = page.getByRole('dialog');
  await expect(hours.getByText(/Dosing alarm/)).toBeVisible();
  await page.keyboard.press('Escape');

  await page.getByRole('button', { name: '‹ To be planned' }).click();
  await page.getByLabel('In which order').selectOption('by skill');
  await expect(page).toHaveURL(/order-by=skill/);
  await page.getByRole('link', { name: 'Map' }).click();
  await expect(page.getByRole('group', { name: 'Loose work by position' })).toBeVisible();
  await expectAccessible(page, 'the map of loose work');
  await page.getByRole('button', { name: /^Horta Nova: / }).click();
  await expect(page.getByRole('region', { name: 'Horta Nova' }).getByRole('link').first()).toBeVisible();

  await page.getByRole('link', { name: '‹ Rota' }).click();
  await page.getByRole('link', { name: 'Figures' }).click();
  await expect(page.getByRole('heading', { name: 'Everybody, over a year' })).toBeVisible();
  await page.getByRole('button', { name: 'Ewa Zielonka' }).click();
  await expect(page.getByRole('heading', { name: 'Ewa Zielonka, over a year' })).toBeVisible();
  await expectAccessible(page, 'the figures of dispatch');
});
