// A look round the demo: every room, the traps of the scenario, the keys, both themes.
import { expect, test, type Page } from '@playwright/test';
import type { RunningHouse } from '../commands/house.ts';
import { expectAccessible, openDemo, openRoom, watchForErrors } from './looking.ts';

let house: RunningHouse;
test.beforeAll(async () => {
  house = await openDemo('demo');
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
  await expect(page.getByRole('row', { selected: true })).toContainText('Chamber too warm');
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
  await page.getByRole('link', { name: 'Devices' }).click();
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

test('eight tabs at once all work: they share one live connection, and a change in one shows in the others', async ({
  page,
  context,
}) => {
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await expect(page.getByText('Promises, nearest first')).toBeVisible();
  const tabs = await Promise.all(Array.from({ length: 7 }, () => context.newPage()));
  for (const tab of tabs) {
    await tab.goto(`${house.address}/orders`);
    await expect(tab.getByRole('region', { name: 'Work orders' }).getByRole('listitem').first()).toBeVisible();
  }
  const [first, last] = [tabs[0], tabs.at(-1)] as [typeof page, typeof page];
  await first.getByRole('button', { name: 'Note…' }).click();
  await first.getByLabel('Note', { exact: true }).fill('Told in another tab');
  await first.getByRole('button', { name: 'Add the note' }).click();
  await expect(last.getByText('Told in another tab')).toBeVisible();
});

/** Nothing makes the page scroll sideways; what reaches beyond the edge is named, in case something does. */
async function expectNothingBeyond(page: Page, where: string): Promise<void> {
  const found = await page.evaluate(() => {
    const { scrollWidth, clientWidth } = document.documentElement;
    const reaching = [...document.querySelectorAll('body *')].filter(
      (e) => e.getBoundingClientRect().right > clientWidth + 1,
    );
    return {
      beyond: scrollWidth - clientWidth,
      by: reaching.map((e) => `${e.tagName} ${e.className.toString().slice(0, 60)}`).slice(0, 5),
    };
  });
  expect({ where, ...found }).toMatchObject({ where, beyond: 0, ...(found.beyond !== 0 && { by: [] }) });
}

test('at 200 % zoom no room scrolls sideways', async ({ page }) => {
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await expect(page.getByText('Promises, nearest first')).toBeVisible();
  // 1280 × 800 at 200 %: half of each, as a browser lays it out.
  await page.setViewportSize({ width: 640, height: 400 });
  for (const path of [
    '/',
    '/register?customer=1',
    '/register/map',
    '/register/import',
    '/assets/10',
    '/agreements',
    '/agreements/1',
    '/agreements/1?part=upkeep',
    '/agreements/1?part=price',
    '/agreements/1?part=versions',
    '/agreements/cover',
    '/agreements/renewals',
    '/upkeep',
    '/signals',
    '/signals/watch',
    '/signals/figures',
    '/signals/devices',
    '/orders',
    '/standing',
    '/setup',
  ]) {
    await page.goto(house.address + path);
    await expect(page.locator('main').getByRole('heading').first()).toBeVisible();
    await page.waitForTimeout(700);
    await expectNothingBeyond(page, path);
  }
});

test('on a phone the rooms lie behind one button, and nothing reaches beyond the edge', async ({ page }) => {
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await expect(page.getByText('Promises, nearest first')).toBeVisible();
  await page.setViewportSize({ width: 390, height: 844 });
  await expectNothingBeyond(page, 'today');
  await expectAccessible(page, 'today on a phone');
  const rooms = page.getByRole('navigation', { name: 'Rooms' });
  await expect(rooms.getByRole('link', { name: /^Orders/ })).toBeHidden();
  await page.getByRole('button', { name: 'Rooms' }).click();
  await rooms.getByRole('link', { name: /^Orders/ }).click();
  const list = page.getByRole('region', { name: 'Work orders' });
  await list.getByRole('listitem').first().getByRole('link').first().click();
  // The record stands instead of its list, and leads back to it.
  await expect(page.getByRole('heading', { name: 'What happened' })).toBeVisible();
  await expect(list).toBeHidden();
  await expectNothingBeyond(page, 'an order');
  await page.getByRole('link', { name: 'All orders' }).click();
  await expect(list).toBeVisible();
  await page.getByRole('button', { name: 'find' }).click();
  await page.getByRole('dialog').getByRole('textbox').fill('Q0119');
  await expect(page.getByRole('dialog').getByRole('listitem').first()).toBeVisible();
  await expectNothingBeyond(page, 'the finder');
  await page.getByRole('dialog').getByRole('listitem').first().getByRole('button').click();
  await expect(page.getByRole('heading', { name: 'Who was here, and what they did' })).toBeVisible();
  await expectNothingBeyond(page, 'an asset');
  await expectAccessible(page, 'an asset on a phone');
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

test('a technician is shown an agreement without what is for the desk', async ({ page }) => {
  await page.getByRole('button', { name: /Renata Valdês/ }).click();
  await page.getByRole('link', { name: 'Agreements' }).click();
  await expect(page.getByRole('link', { name: 'Renewals' })).toHaveCount(0);
  await page.getByRole('link', { name: /^AG-/ }).first().click();
  const parts = page.getByRole('tablist', { name: 'Parts of the agreement' });
  await expect(parts.getByRole('tab')).toHaveText(['Coverage', 'Upkeep']);
  await expect(page.getByRole('link', { name: 'Print' })).toHaveCount(0);
  await page.goto(`${page.url()}?part=versions`);
  await expect(parts.getByRole('tab', { name: 'Coverage' })).toHaveAttribute('aria-selected', 'true');
  await expect(page.getByRole('alert')).toHaveCount(0);
});

test('what left the house is read, its words are changed, and a job that begins by itself is begun now', async ({
  page,
}) => {
  await page.getByRole('button', { name: /Oksana Lytvyn/ }).click();
  await page.getByRole('link', { name: 'Setup' }).click();
  await page.getByRole('link', { name: 'Outbox' }).click();
  const message = page.getByRole('article', { name: 'Message' });
  await expect(message).toContainText('WO-11460');
  await page
    .getByRole('button', { name: /decide about its renewal/ })
    .first()
    .click();
  await expect(message).toContainText('decide about its renewal');
  await expect(message).toContainText(/^By mail to .*Sent .* The gateway said: 250 taken/s);
  await expectAccessible(page, 'outbox');
  await page.getByRole('tab', { name: 'Words of messages' }).click();
  await page.getByRole('button', { name: 'change' }).first().click();
  await page.getByLabel('Subject').fill('Decide by then: {when}');
  await page.getByRole('button', { name: 'Save the words' }).click();
  await expect(page.getByText(/\{when\} is nothing this message knows; use \{name\}/)).toBeVisible();
  // Not saved yet: leaving asks first.
  await page.getByRole('link', { name: 'Jobs' }).click();
  await page.getByRole('button', { name: 'Stay here' }).click();
  await page.getByLabel('Subject').fill('Decide about {number}');
  await page.getByRole('button', { name: 'Save the words' }).click();
  await expect(page.getByText('own words')).toBeVisible();
  await page.getByRole('link', { name: 'Jobs' }).click();
  await page.getByRole('tab', { name: 'Done' }).click();
  // The hour may strike meanwhile and begin one by itself: so one more than before, or two.
  const cleared = page.getByRole('row', { name: /Clear away ended sessions .* done .* cleared/ });
  await expect(page.getByRole('row', { name: / done / }).first()).toBeVisible();
  const before = await cleared.count();
  await page
    .getByRole('row', { name: /Clear away ended sessions/ })
    .getByRole('button', { name: 'begin now' })
    .click();
  await expect.poll(() => cleared.count()).toBeGreaterThan(before);
  await expectAccessible(page, 'jobs');
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
  await expect(page.getByRole('region', { name: 'What is known' })).toContainText(
    /Not covered: chargeable at list rates, no promise|Covered by Warranty/,
  );
  await page.getByRole('button', { name: 'Raise the order' }).click();
  await expect(page.getByRole('form', { name: 'A call' })).toContainText('This is needed.');
  await page.getByLabel('What is wrong').fill('Beeps and is warm');
  await page.getByRole('button', { name: 'Raise the order' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Beeps and is warm' })).toBeVisible();
});

test.describe('a coordinator’s day', () => {
  test.beforeEach(async ({ page }) => {
    await page.getByRole('button', { name: /Inês Teixeira/ }).click();
    await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
  });

  test('is told plainly what is wrong with a file, and nothing is written', async ({ page }) => {
    await page.goto(`${house.address}/register/import`);
    const choose = (name: string, content: string | Buffer) =>
      page
        .getByLabel('File', { exact: true })
        .setInputFiles({ name, mimeType: 'text/csv', buffer: Buffer.from(content as string) });
    await choose('wrong.csv', 'customer,serial\nA,B');
    await expect(page.getByRole('alert')).toContainText('Choose the column for: Tag, Maker');
    await choose('latin.csv', Buffer.from([0x63, 0x75, 0x73, 0xe9, 0x0a]));
    await expect(page.getByRole('alert').first()).toContainText('not text in UTF-8');
    await expect(page.getByRole('button', { name: /^Load/ })).toHaveCount(0);
  });

  test('walks the orders with j and Enter, records a task and leaves another with a reason', async ({ page }) => {
    await page.goto(`${house.address}/orders?kind=preventive`);
    await expect(page.getByText(/\d+ orders?,/)).toBeVisible();
    await page.keyboard.press('j');
    await expect(page).toHaveURL(/\/orders\/\d+\?kind=preventive/);
    const first = page.url();
    await expect(page.getByRole('article').getByRole('heading', { level: 1 })).toBeVisible();
    await page.keyboard.press('j');
    await expect(page).not.toHaveURL(first);
    const article = page.getByRole('article');
    await article.getByRole('checkbox').first().click();
    await expect(article.getByText(/^done: /).first()).toBeVisible();
    await article.getByRole('button', { name: 'leave…' }).first().click();
    await article.getByRole('button', { name: 'Leave it' }).click();
    await expect(article.getByText('Say why the task is left undone.').first()).toBeVisible();
    await article.getByLabel('Why it is left').fill('Panel locked, key with the customer');
    await article.getByRole('button', { name: 'Leave it' }).click();
    await expect(article.getByText('left undone')).toBeVisible();
  });

  test('asks a question more on a form, and fills in one that is not done without it', async ({ page }) => {
    await page.goto(`${house.address}/setup/forms`);
    await page
      .getByRole('row', { name: /Freezer handover/ })
      .getByRole('button', { name: 'change' })
      .click();
    const editor = page.getByRole('form', { name: 'Form of a class' });
    await editor.getByRole('button', { name: 'Add a question' }).click();
    await editor.getByRole('button', { name: 'Save the form' }).click();
    await expect(editor.getByText('✕ This is needed.')).toBeVisible();
    await editor.getByLabel('Question 6', { exact: true }).fill('Ice on the lid');
    await expectAccessible(page, 'form of a class');
    await editor.getByRole('button', { name: 'Save the form' }).click();
    await expect(page.getByRole('cell', { name: /Ice on the lid/ })).toBeVisible();

    await page.goto(`${house.address}/orders?kind=preventive`);
    await page
      .getByRole('link', { name: /Steriliser care, by cycles/ })
      .first()
      .click();
    await page.getByRole('button', { name: 'Fill in Steriliser record' }).click();
    const form = page.getByRole('form', { name: 'Steriliser record' });
    await form.getByLabel('Sterilising cycles, cycles').fill('1');
    await form.getByLabel('Vacuum leak rate, mbar/min').fill('2.4');
    await expect(form.getByText('Outside what is expected: up to 1.3 mbar/min.')).toBeVisible();
    await form.getByRole('button', { name: 'Save the answers' }).click();
    await expect(form.getByText('✕ Answer yes or no.')).toBeVisible();
    await form.getByLabel('no', { exact: true }).check();
    await form.getByRole('button', { name: 'Save the answers' }).click();
    await expect(form.getByText(/1 is lower than the last reading, \d+\./)).toBeVisible();
    await expectAccessible(page, 'filling in a form');
    await form.getByLabel('Sterilising cycles, cycles').fill('99000');
    await form.getByRole('button', { name: 'Save the answers' }).click();
    await expect(page.getByText('2.4 mbar/min outside up to 1.3 mbar/min')).toBeVisible();
    await expect(page.getByRole('cell', { name: 'filled in: Steriliser record' })).toBeVisible();
  });

  test('sees a date in words while typing it, and an empty list offers to lift its filter', async ({ page }) => {
    await page.goto(`${house.address}/upkeep`);
    const field = page.getByLabel('Raise everything due to be raised by');
    await field.fill('8 dec');
    await expect(page.getByText('Tue 8 Dec 2026')).toBeVisible();
    await field.fill('31 feb');
    await field.blur();
    await expect(page.getByText('Write it as 17 Mar 2026 or 17/3/2026.')).toBeVisible();
    await expect(field).toHaveValue('31 feb');
    await page.goto(`${house.address}/orders?kind=installation`);
    await page.getByRole('button', { name: 'Lift the filter' }).click();
    await expect(page.getByText(/\d+ orders?,/)).toBeVisible();
  });

  test('puts the draft everybody believed in force really in force, and the machine is covered', async ({ page }) => {
    await page.goto(`${house.address}/agreements?stage=draft`);
    await page.getByRole('link', { name: 'AG-2006' }).click();
    await expect(page.getByRole('heading', { name: 'Ready to be put in force' })).toBeVisible();
    const machines = page.getByRole('region', { name: 'Machines and their cover' });
    const alike = machines.getByRole('button', { name: /machines alike$/ }).first();
    await expect(machines.getByRole('table')).toBeVisible();
    if (await alike.isVisible()) await alike.click();
    await machines.getByRole('link', { name: /^Q\d/ }).first().click();
    await expect(page.getByText(/refused/).first()).toBeAttached();
    await page.goBack();
    await page.getByRole('button', { name: 'Put in force' }).click();
    await expect(page.getByRole('button', { name: 'Suspend the agreement…' })).toBeVisible();
    await page.getByRole('tab', { name: 'Versions and files' }).click();
    await expect(page.getByRole('cell', { name: 'put in force', exact: true })).toBeVisible();
    await page.getByRole('button', { name: 'Suspend the agreement…' }).click();
    await page.getByRole('dialog').getByRole('button', { name: 'Suspend the agreement' }).click();
    await expect(page.getByRole('dialog')).toContainText('Say why.');
    await page.keyboard.press('Escape');
    await expect(page.getByRole('dialog')).toHaveCount(0);
  });

  test('gives a place another address and sees where an asset has it from', async ({ page }) => {
    await page.goto(`${house.address}/register`);
    await page.getByRole('button', { name: /Fontelo Fertility Clinic/ }).click();
    await page.getByRole('treegrid').getByRole('row', { name: 'Embryology' }).click();
    await page.getByRole('button', { name: 'Change the place…' }).click();
    await page.getByLabel('Time zone').fill('Europe/Atlantis');
    await page.getByRole('button', { name: 'Save the place' }).click();
    await expect(page.getByRole('dialog')).toContainText('is not a known time zone');
    await page.getByLabel('Time zone').fill('');
    await page.getByLabel('Address').fill('Side door, Rua das Camélias 19');
    await page.getByRole('button', { name: 'Save the place' }).click();
    await expect(page.getByRole('dialog')).toHaveCount(0);
    await page.getByRole('table', { name: 'Assets' }).getByRole('link').first().click();
    await expect(page.getByText('Side door, Rua das Camélias 19, from Embryology')).toBeVisible();
    await page.getByText('The same as a table').click();
    await expectAccessible(page, 'asset');
  });
});
