// The register in depth on the demo: finding a caller's machine, moving a place by hand and by drag, swapping a machine, changing many at once.
import { readFile } from 'node:fs/promises';
import { expect, test, type Page } from '@playwright/test';
import type { RunningHouse } from '../commands/house.ts';
import { choose, expectAccessible, openDemo, openRoom, watchForErrors } from './looking.ts';

let house: RunningHouse;
let errors: string[];
test.beforeAll(async () => {
  house = await openDemo('register');
});
test.afterAll(() => house?.stop());

test.beforeEach(async ({ page }) => {
  errors = watchForErrors(page);
  await page.goto(house.address);
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
});
test.afterEach(() => expect(errors).toEqual([]));

async function find(page: Page, typed: string): Promise<void> {
  // A dialog that was just left is gone before keys mean the page again.
  await expect(page.locator('dialog[open]')).toHaveCount(0);
  await page.keyboard.press('/');
  await page.getByRole('textbox', { name: 'Find' }).fill(typed);
}

async function chooseCustomer(page: Page, name: string): Promise<void> {
  await openRoom(page, 'Register');
  await page.getByLabel('Customer', { exact: true }).fill(name);
  // The list follows what is typed; it is pressed once it stands still.
  const found = page.getByRole('region', { name: 'Customers and places' }).getByRole('listitem');
  await expect(found).toHaveCount(1);
  await found.getByRole('button', { name: new RegExp(`^${name}`) }).click();
}

test('a caller’s machine is found by fragments, slips and words in any order, and an order raised from there', async ({
  page,
}) => {
  const dialog = page.getByRole('dialog');
  for (const [typed, expected] of [
    ['ulf720q', 'Ultra-low freezer'],
    ['camelias', 'Fontelo Clinic'],
    ['fertilty clnic', 'Fontelo Fertility Clinic'],
    ['incubator fontelo', 'Incubator'],
  ] as const) {
    await find(page, typed);
    await expect(dialog.getByRole('button').filter({ hasText: expected }).first()).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(dialog).toHaveCount(0);
  }
  // A contact's name leads to the customer.
  await chooseCustomer(page, 'Fontelo Fertility Clinic');
  await page.getByRole('tab', { name: 'Contacts and terms' }).click();
  await page.getByRole('button', { name: 'Add a contact…' }).click();
  await dialog.getByLabel('Name', { exact: true }).fill('Zulmira Outeiral');
  await dialog.getByLabel('Phone').fill('+351 900 777 888');
  await dialog.getByLabel('E-mail').fill('zulmira(at)fontelo');
  await page.getByRole('button', { name: 'Add the contact' }).click();
  await expect(dialog).toContainText('Write an e-mail address');
  await dialog.getByLabel('E-mail').fill('zulmira@fontelo.example');
  await page.getByRole('button', { name: 'Add the contact' }).click();
  await expect(page.getByRole('cell', { name: /^Zulmira Outeiral/ })).toBeVisible();
  await expectAccessible(page, 'customer');
  await find(page, '900777888');
  await expect(dialog.getByRole('button', { name: 'Fontelo Fertility Clinic' })).toBeVisible();
  await page.keyboard.press('Escape');
  // The first machine answers to its tag; one key raises an order on it.
  await find(page, 'Q0102');
  await expect(dialog.getByRole('button').filter({ hasText: 'Q0102' })).toBeVisible();
  await page.keyboard.press('Shift+Enter');
  await expect(page.getByRole('list', { name: 'Machines of the call' })).toContainText('Q0102');
});

test('a known tag becomes a raised order by keys alone, typed as fast as a scanner types', async ({ page }) => {
  await page.keyboard.press('/');
  await page.keyboard.type('Q0103');
  await page.keyboard.press('Shift+Enter');
  await expect(page.getByLabel('What is wrong')).toBeFocused({ timeout: 30_000 });
  await page.keyboard.type('Door seal torn');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Door seal torn' })).toBeVisible();
});

test('the register is sorted by its columns, over all pages, and the rows below come as one scrolls', async ({
  page,
}) => {
  await openRoom(page, 'Register');
  const table = page.getByRole('table', { name: 'Assets' });
  const first = table.getByRole('link', { name: /^Q\d+$/ }).first();
  await expect(first).toHaveText('Q0100');
  const byAsset = table.getByRole('columnheader', { name: 'Asset' });
  await byAsset.getByRole('button').click();
  await byAsset.getByRole('button').click();
  await expect(byAsset).toHaveAttribute('aria-sort', 'descending');
  await expect(first).not.toHaveText('Q0100');
  const highest = await first.textContent();
  // Scrolled to its end, the other end of the register.
  await table.getByRole('rowgroup').evaluate((rows) => rows.scrollTo(0, rows.scrollHeight));
  await expect(table.getByRole('link', { name: 'Q0100' })).toBeVisible();
  // In another order one sees its first rows again, and the address keeps it.
  await table.getByRole('columnheader', { name: 'Place' }).getByRole('button').click();
  await expect(table.getByRole('link', { name: 'Q0100' })).toHaveCount(0);
  await page.goto(`${house.address}/register?sort=asset+down`);
  await expect(first).toHaveText(highest ?? '');
});

test('a place is given notes and a place below, moved with its effect shown first, and dragged back', async ({
  page,
}) => {
  await chooseCustomer(page, 'Alvorim Hospitals');
  const tree = page.getByRole('treegrid');
  await tree.getByRole('row', { name: 'Santa Eufémia Hospital' }).click();
  await page.getByRole('button', { name: 'Add a place in it…' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Floor 9');
  await page.getByLabel('Access notes').fill('Lift key at the desk.');
  await page.getByRole('button', { name: 'Add the place' }).click();
  const fresh = tree.getByRole('row', { name: 'Floor 9' });
  await fresh.click();
  await expect(page.getByText('Lift key at the desk.')).toBeVisible();
  await expect(page.getByText('Rua da Misericórdia 12, Eufémia from Santa Eufémia Hospital')).toBeVisible();
  await page.getByRole('button', { name: 'Move…' }).click();
  const dialog = page.getByRole('dialog');
  await choose(dialog, 'Under', 'Hospital do Miño');
  await expect(dialog.getByRole('row', { name: /time zone Europe\/Lisbon Europe\/Madrid/ })).toBeVisible();
  await expectAccessible(page, 'move');
  await dialog.getByRole('button', { name: 'Move to Hospital do Miño' }).click();
  await expect(dialog).toHaveCount(0);
  await expect(page.getByText('Avenida do Miño 7, Pedralonga from Hospital do Miño')).toBeVisible();
  // Dragged onto another hospital: the same dialog, nothing done yet.
  const [from, to] = [
    await fresh.boundingBox(),
    await tree.getByRole('row', { name: 'São Brás Hospital' }).boundingBox(),
  ];
  await page.mouse.move((from?.x ?? 0) + 20, (from?.y ?? 0) + 8);
  await page.mouse.down();
  await page.mouse.move((from?.x ?? 0) + 30, (from?.y ?? 0) - 30, { steps: 4 });
  await page.mouse.move((to?.x ?? 0) + 20, (to?.y ?? 0) + 8, { steps: 8 });
  await page.mouse.up();
  await dialog.getByRole('button', { name: 'Move to São Brás Hospital' }).click();
  await expect(page.getByText('Largo do Hospital 1, Alvorim from São Brás Hospital')).toBeVisible();
  await page.getByRole('button', { name: 'Retire' }).click();
  await expect(page.getByText(/^retired Tue 24 Nov 2026/)).toBeVisible();
  await page.getByRole('tab', { name: 'Map of sites' }).click();
  await expect(page.getByRole('group', { name: /^Sites around/ })).toBeVisible();
  await expectAccessible(page, 'map');
});

test('a machine is swapped: the new one has its place, cover and schedules, and both lives tell it', async ({
  page,
}) => {
  await find(page, 'Q0103');
  await page.getByRole('dialog').getByRole('button').filter({ hasText: 'Q0103' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Plasma freezer');
  // The sheet answers to the keyboard.
  const line = page.getByRole('group', { name: /^Time line from/ });
  await line.focus();
  await page.keyboard.press('+');
  await expect(page.getByRole('button', { name: 'all of it' })).toBeVisible();
  await page.keyboard.press('0');
  await page.getByRole('button', { name: 'Swap…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('radio', { name: /QX001/ }).check();
  await expect(dialog).toContainText('The new one stands at Costabela Centre');
  await dialog.getByLabel('More (may stay empty)').fill('compressor worn out');
  await expectAccessible(page, 'swap');
  await dialog.getByRole('button', { name: 'Swap them' }).click();
  await expect(page.getByText('in store', { exact: false }).first()).toBeVisible();
  await expect(page.getByText(/swapped out for QX001, to store: compressor worn out/)).toBeVisible();
  await find(page, 'QX001');
  await page.getByRole('dialog').getByRole('button').filter({ hasText: 'QX001' }).click();
  await expect(page.getByText(/swapped in for Q0103/)).toBeVisible();
  // Its meter takes a reading, and asks about a lower one.
  await page.getByRole('button', { name: 'Add a meter…' }).click();
  await page.getByRole('textbox', { name: 'Meter' }).fill('Run hours');
  await page.getByLabel('Unit').fill('h');
  await page.getByRole('button', { name: 'Add the meter' }).click();
  await page.getByText('Run hours').first().click();
  for (const [value, means] of [
    ['120', null],
    ['15', 'meter replaced'],
  ] as const) {
    await page.getByRole('button', { name: 'Read Run hours' }).click();
    await page.getByLabel('Reading, h').fill(value);
    await page.getByRole('button', { name: 'Record the reading' }).click();
    if (means) {
      await expect(page.getByRole('dialog')).toContainText('lower than the last reading, 120');
      await page.getByLabel(/^Lower than the last one/).selectOption(means);
      await page.getByRole('button', { name: 'Record the reading' }).click();
    }
    await expect(page.getByRole('dialog')).toHaveCount(0);
  }
  await expect(page.getByText('15 h since the first reading')).toBeVisible();
});

test('a file with other columns and dates is mapped, loaded, found, and undone as a whole', async ({ page }) => {
  await page.goto(`${house.address}/register/import`);
  const file = [
    'Kunde;Marke;Typ;Klasse;Nummer;Schild;Seit',
    'Outeiro Clinic;Tindrel;ULF-540;Ultra-low freezer;XX-77001;X7001;03/04/2024',
  ];
  await page.getByLabel('File', { exact: true }).setInputFiles({
    name: 'machines.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(file.join('\n')),
  });
  await expect(page.getByRole('alert')).toContainText('Choose the column for: Tag, Maker, Serial number');
  await expect(page.getByLabel('Delimiter')).toHaveValue(';');
  for (const [field, column] of [
    ['Customer', 'Kunde: Outeiro Clinic'],
    ['Maker', 'Marke: Tindrel'],
    ['Model', 'Typ: ULF-540'],
    ['Class', 'Klasse: Ultra-low freezer'],
    ['Serial number', 'Nummer: XX-77001'],
    ['Tag', 'Schild: X7001'],
    ['Commissioned', 'Seit: 03/04/2024'],
  ] as const)
    await page.getByLabel(field, { exact: true }).selectOption({ label: column });
  await expect(page.getByText('choose the order').first()).toBeVisible();
  await page.getByLabel('Dates are written').selectOption('dd/mm/yyyy');
  await expect(page.getByRole('button', { name: 'Load 1 asset' })).toBeVisible();
  await expectAccessible(page, 'mapping');
  await page.getByRole('button', { name: 'Load 1 asset' }).click();
  await expect(page.getByText('1 row loaded.')).toBeVisible();
  await find(page, 'x7001 outeiro');
  await page.getByRole('dialog').getByRole('button').filter({ hasText: 'X7001' }).click();
  await expect(page.getByText('Wed 3 Apr 2024')).toBeVisible();
  await page.goBack();
  await page.getByRole('button', { name: 'Undo this import…' }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Undo \d+ rows?$/ })
    .click();
  await expect(page.getByText('The register is as it was before.')).toBeVisible();
  await find(page, 'x7001');
  await expect(page.getByRole('dialog')).toContainText('Nothing answers to “x7001”');
});

test('many assets are changed at once after a look at what will happen, and twins are merged', async ({ page }) => {
  await chooseCustomer(page, 'Horta Nova Biobank');
  for (const tag of ['Q0226', 'Q0227']) await page.getByRole('checkbox', { name: `Tick ${tag}` }).check();
  await page.getByRole('button', { name: 'Change 2 ticked assets…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('What changes').selectOption('place');
  await choose(dialog, 'To', 'Horta Nova › Plant room');
  await expect(dialog).toContainText(/\d assets? will change/);
  await dialog.getByRole('button', { name: /^Change \d assets?$/ }).click();
  await expect(page.getByText(/\d assets? changed\./)).toBeVisible();
  await page.getByRole('tab', { name: 'Possible twins' }).click();
  await expect(page.getByText('near-same serial at one place')).toBeVisible();
  await expectAccessible(page, 'twins');
  await page.getByRole('button', { name: 'Q0219' }).click();
  await expect(page.getByText('QX100 is merged into Q0219; its past is there now.')).toBeVisible();
  await page.goto(`${house.address}/register/history`);
  await page.getByLabel('Words').fill('chamber warming');
  await expect(page.getByText(/finished repairs?$/)).toBeVisible();
  await expect(page.getByText('Labour, median')).toBeVisible();
  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByRole('checkbox', { name: 'Customer' }).uncheck();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('columnheader', { name: 'Customer' })).toBeHidden();
  await expectAccessible(page, 'history');
  const [file] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'CSV' }).click()]);
  expect(file.suggestedFilename()).toMatch(/^past-work-.*\.csv$/);
  const saved = (await readFile(await file.path(), 'utf8')).split('\r\n');
  expect(saved[0]).toContain('order,title,fault,tag,model,customer,done on');
  expect(saved.length).toBeGreaterThan(2);
  // Sorted by what it took, and kept with whoever sorted it, on whatever device.
  await page.getByRole('button', { name: 'Labour' }).click();
  await page.getByRole('separator', { name: 'Width of Fault' }).press('ArrowRight');
  await expect(page.getByRole('columnheader', { name: 'Labour' })).toHaveAttribute('aria-sort', 'ascending');
  await page.waitForResponse((answer) => answer.url().endsWith('/api/me/tables/past-work'));
  await page.reload();
  await expect(page.getByRole('button', { name: 'Columns (1 left out)' })).toBeVisible();
  await expect(page.getByRole('columnheader', { name: 'Labour' })).toHaveAttribute('aria-sort', 'ascending');
});
