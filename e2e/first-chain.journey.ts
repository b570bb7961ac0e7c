// The whole chain on an empty installation: from an imported register to a proven standing.
import { execFile } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { join } from 'node:path';
import { connect } from 'mqtt';
import { expect, test, type Page } from '@playwright/test';
import { openHouse, ROOT, type RunningHouse } from '../commands/house.ts';
import { freePort } from '../commands/mariadb.ts';
import { choose, expectAccessible, openRoom, watchForErrors } from './looking.ts';

const FILE = fileURLToPath(new URL('./register.csv', import.meta.url));
const PASSWORD = 'a first long password';
let house: RunningHouse;

test.beforeAll(async () => {
  const folder = join(process.env.STAVOK_JOURNEY_FOLDER ?? '/tmp/stv-journey', 'empty');
  process.env.STAVOK_CHECK_ANSWERS = '1';
  house = await openHouse({
    folder,
    port: await freePort(),
    demo: false,
    durability: 'throw-away',
    now: undefined,
    log: 'silent',
  });
  await promisify(execFile)(
    join(ROOT, 'stavok'),
    ['admin', '--email', 'first@example.org', '--name', 'First Administrator'],
    { env: { ...process.env, STAVOK_DATABASE_URL: house.databaseUrl, STAVOK_PASSWORD: PASSWORD } },
  );
});
test.afterAll(() => house?.stop());

async function signIn(page: Page): Promise<void> {
  await page.goto(house.address);
  await expect(page.getByText('Demo: enter as')).toHaveCount(0);
  await page.getByLabel('E-mail').fill('first@example.org');
  await page.getByLabel('Password').fill('wrong password here');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByText('E-mail address or password is wrong.')).toBeVisible();
  await page.getByLabel('Password').fill(PASSWORD);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
}

async function importRegister(page: Page): Promise<void> {
  await openRoom(page, 'Register');
  await expect(page.getByText('The register is empty.')).toBeVisible();
  await page.getByRole('link', { name: 'Import a register file' }).first().click();
  await page.getByLabel('File', { exact: true }).setInputFiles(FILE);
  await expect(page.getByRole('heading', { name: /Dry run of register.csv: 120 rows/ })).toBeVisible();
  const bad = page.getByRole('table').first();
  for (const [line, column, said] of [
    ['22', 'serial', 'stands on line 21'],
    ['35', 'zone', 'Europe/Lisbon'],
    ['49', 'commissioned', '2023-02-28'],
    ['62', 'parent_tag', 'Q9999'],
    ['73', 'latitude', '-90 to 90'],
  ] as const) {
    await expect(bad.getByRole('row').filter({ hasText: new RegExp(`^${line}${column}.*${said}`) })).toBeVisible();
  }
  await expectAccessible(page, 'import');
  await page.getByRole('button', { name: 'Load 115 assets' }).click();
  await expect(page.getByText('115 rows loaded.')).toBeVisible();
  // The same file again creates nothing.
  await page.getByLabel('File', { exact: true }).setInputFiles([]);
  await page.getByLabel('File', { exact: true }).setInputFiles(FILE);
  await expect(page.getByText('There is nothing new to load from this file.')).toBeVisible();
}

async function prepareReference(page: Page): Promise<void> {
  await openRoom(page, 'Setup');
  await page.getByRole('button', { name: 'Add a calendar' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Ribeira hours');
  await page.getByRole('button', { name: /Propose public holidays/ }).click();
  await page.getByRole('button', { name: /Add these \d+ days/ }).click();
  await expect(page.getByText('Christmas Day').first()).toBeVisible();
  await page.getByRole('button', { name: 'Save the calendar' }).click();
  await expect(page.getByRole('cell', { name: 'Ribeira hours' })).toBeVisible();
  await page.getByRole('link', { name: 'Service levels' }).click();
  await page.getByRole('button', { name: 'Add a service level' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Cold storage');
  for (const [field, length, measure] of [
    ['response, priority 1', '30 min', 'elapsed time'],
    ['arrival, priority 1', '4 h', 'working: Ribeira hours'],
    ['restoration, priority 1', '12 h', 'elapsed time'],
    ['response, priority 2', '8 h', 'working: Ribeira hours'],
  ] as const) {
    await page.getByLabel(field, { exact: true }).fill(length);
    await page.getByLabel(`${field}, counted in`).selectOption(measure);
  }
  await page.getByRole('button', { name: 'Save the service level' }).click();
  await expect(page.getByRole('heading', { name: /Cold storage/ })).toBeVisible();
  await page.getByRole('link', { name: 'Job plans' }).click();
  await page.getByRole('button', { name: 'Add a job plan' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Quarterly care');
  await page.getByLabel('Duration, minutes').fill('90');
  await page.getByLabel(/Tasks, one a line/).fill('Clean filter\nTest the alarm\n? Change gasket');
  await page.getByRole('button', { name: 'Save the job plan' }).click();
  await expect(page.getByText('Clean filter; Test the alarm; Change gasket (if needed)')).toBeVisible();
  await page.getByRole('link', { name: 'Alert rules' }).click();
  await page.getByRole('button', { name: 'Add an alert rule' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Chamber too warm');
  await page.getByLabel('Asset class').selectOption('Ultra-low freezer');
  await page.getByLabel('On-delay, seconds').fill('60');
  await page.getByRole('button', { name: 'Save the alert rule' }).click();
  await expect(page.getByRole('cell', { name: 'chamber above −65 °C' })).toBeVisible();
  await expectAccessible(page, 'setup');
}

async function writeAgreement(page: Page): Promise<void> {
  await openRoom(page, 'Agreements');
  await page.getByRole('button', { name: 'Write an agreement…' }).click();
  await choose(page, 'Customer', 'Norvela Diagnostics');
  await page.getByLabel('Name', { exact: true }).fill('Full care');
  const year = new Date().getFullYear();
  await page.getByLabel('Runs from').fill(`${year}-01-01`);
  await page.getByLabel('To (empty: open-ended)').fill(`${year - 1}-12-31`);
  await page.getByRole('button', { name: 'Write the draft' }).click();
  await expect(page.getByText(/The term ends .* before it starts/)).toBeVisible();
  await page.getByLabel('To (empty: open-ended)').fill(`${year + 1}-12-31`);
  await page.getByRole('button', { name: 'Write the draft' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Full care' })).toBeVisible();
  await page.getByRole('button', { name: 'Put in force' }).click();
  await expect(page.getByRole('alert')).toContainText('There is no coverage line');
  await page.getByRole('button', { name: 'Add coverage…' }).click();
  await choose(page, 'Location', 'Norvela');
  await page.getByLabel('parts we bear, %').fill('80');
  await page.getByLabel('Service level').selectOption('Cold storage');
  await page.getByRole('button', { name: 'Add the coverage' }).click();
  await expect(page.getByRole('cell', { name: 'Everything below Norvela', exact: true })).toBeVisible();
  await page.getByRole('tablist', { name: 'Parts of the agreement' }).getByRole('tab', { name: 'Upkeep' }).click();
  await page.getByRole('button', { name: 'Add a schedule…' }).click();
  await page.getByLabel('Site calendar').selectOption('Ribeira hours');
  await expect(page.getByText('Every 3 months on the first Tuesday.')).toBeVisible();
  await page.getByLabel('How often').fill('30th of February');
  await expect(page.getByText(/No month named has a day 30/)).toBeVisible();
  await page.getByLabel('How often').fill('FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30');
  await expect(page.getByText(/This rule never fires/)).toBeVisible();
  await page.getByLabel('How often').fill('first Tuesday of the quarter');
  await expect(page.getByText('FREQ=MONTHLY;BYMONTH=1,4,7,10;BYDAY=1TU')).toBeVisible();
  await page.getByLabel('How often').fill('every 3 months on the first Tuesday');
  await page.getByRole('button', { name: 'Add the schedule' }).click();
  await expect(page.getByRole('columnheader', { name: 'Next due' })).toBeVisible();
  await expectAccessible(page, 'agreement');
  await page.getByRole('button', { name: 'Put in force' }).click();
  await expect(page.getByText('in force', { exact: true })).toBeVisible();
}

async function runUpkeep(page: Page): Promise<void> {
  await openRoom(page, 'Upkeep');
  await page.getByRole('button', { name: 'in 2 weeks' }).click();
  const raise = page.getByRole('button', { name: /^Raise \d+ visits…/ });
  await expect(raise).toBeVisible();
  await page
    .getByRole('checkbox', { name: /^Tick Q/ })
    .first()
    .check();
  await page.getByRole('button', { name: 'Hold back…' }).click();
  await page.getByLabel('Why').fill('Site closed that week');
  await page.getByRole('button', { name: 'Hold 1 visit' }).click();
  await expect(page.getByText(/held until .*: Site closed that week/)).toBeVisible();
  await expectAccessible(page, 'upkeep');
  await raise.click();
  await expect(page.getByRole('dialog')).toContainText('1 visit held back, not raised');
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Raise \d+ visits/ })
    .click();
  await expect(page.getByRole('status')).toContainText(/\d+ visits raised as work orders/);
  await expect(page.getByRole('button', { name: 'Raise 0 visits…' })).toBeDisabled();
  await openRoom(page, 'Orders');
  await expect(page.getByText(/\d+ orders?,/)).toBeVisible();
}

async function sendSignals(page: Page): Promise<void> {
  await page.keyboard.press('/');
  await page.getByRole('textbox', { name: 'Find' }).fill('q0029');
  await page.getByRole('button', { name: /Ultra-low freezer Q0029/ }).waitFor();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { level: 1, name: /Ultra-low freezer/ })).toBeVisible();
  await expectAccessible(page, 'asset');
  await page.getByText('Connect its device').click();
  await page.getByRole('button', { name: 'Register the device' }).click();
  await expect(page.getByText('has sent nothing yet')).toBeVisible();
  const client = connect(house.brokerUrl ?? '');
  await new Promise<void>((ready) => client.once('connect', () => ready()));
  const now = Math.floor(Date.now() / 1000);
  const pack = [
    [-600, -79],
    [-400, -60],
    [-200, -58],
    [-100, -57],
  ].map(([t, v], i) => ({
    ...(i === 0 && { bn: 'urn:dev:os:stavok-q0029:', bu: 'Cel', bt: now }),
    n: 'chamber',
    t,
    v,
  }));
  await client.publishAsync('readings/q0029', 'this is no pack');
  await client.publishAsync('readings/q0029', JSON.stringify(pack), { qos: 1 });
  await client.endAsync();
  await openRoom(page, 'Signals');
  await expect(page.getByText('still active')).toBeVisible({ timeout: 20_000 });
  await expectAccessible(page, 'signals');
  await page.getByRole('cell', { name: /^WO-/ }).getByRole('link').click();
}

async function workTheOrder(page: Page): Promise<void> {
  await expect(page.getByRole('heading', { level: 1, name: 'Chamber too warm' })).toBeVisible();
  await expect(
    page.getByText(/Covered by AG-2001 Full care: labour 100 %, parts 80 %, travel 100 %/).first(),
  ).toBeVisible();
  const clocks = page.getByRole('region', { name: 'Clocks' });
  await expect(clocks).toContainText(/of 12 h left, until/);
  await expectAccessible(page, 'order');
  const record = async (name: RegExp, confirm: string, fill?: () => Promise<void>): Promise<void> => {
    await page.getByRole('button', { name }).click();
    await fill?.();
    await page.getByRole('dialog').getByRole('button', { name: confirm }).click();
    await expect(page.getByRole('dialog')).toHaveCount(0);
  };
  await record(/^Told the customer/, 'Record: customer told who comes', () =>
    choose(page, 'Who comes', 'Ewa Zielonka'),
  );
  await expect(clocks).toContainText(/response.*met,/i);
  await record(
    /^Pause/,
    'Pause the clocks',
    async () => void (await page.getByRole('combobox', { name: 'Reason' }).selectOption('no access')),
  );
  await expect(clocks).toContainText('paused: no access');
  await record(/^Resume/, 'Resume');
  await record(/^On site/, 'Record: on site');
  await expect(clocks).toContainText(/arrival.*met,.*restoration/i);
  await record(/^Back in use/, 'Record: back in use');
  await expect(clocks).toContainText(/restoration.*met,/i);
  await record(/^Done/, 'Record: done');
  await expect(page.getByRole('img', { name: 'Stage: done' }).first()).toBeVisible();
}

async function proveStanding(page: Page): Promise<void> {
  await openRoom(page, 'Standing');
  await page.getByRole('button', { name: 'this year' }).click();
  await page.getByLabel('To, this day included').fill(`${new Date().getFullYear() + 1}-06-30`);
  await expect(page.getByText('promises met, 3 of 3')).toBeVisible();
  await page.getByRole('button', { name: 'Unfold AG-2001' }).click();
  await expect(page.getByRole('heading', { name: 'Clocks, 3 met and 0 missed' })).toBeVisible();
  await expectAccessible(page, 'standing');
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'CSV' }).click();
  expect((await download).suggestedFilename()).toMatch(/^standing-agreement-.*\.csv$/);
  await openRoom(page, 'Today');
  await expect(page.getByText('Active alerts')).toBeVisible();
  await expectAccessible(page, 'today');
}

test('from an empty installation to a proven standing', async ({ page }) => {
  const errors = watchForErrors(page);
  await test.step('sign in', () => signIn(page));
  await test.step('import a register', () => importRegister(page));
  await test.step('write the reference data', () => prepareReference(page));
  await test.step('write an agreement and put it in force', () => writeAgreement(page));
  await test.step('raise the visits that fall due', () => runUpkeep(page));
  await test.step('a device reports trouble', () => sendSignals(page));
  await test.step('work the repair order', () => workTheOrder(page));
  await test.step('prove the standing', () => proveStanding(page));
  expect(errors).toEqual([]);
});
