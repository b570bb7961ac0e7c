// Signals in the demo: a rule is tried on the past before it is kept; one machine is watched otherwise than its class.
import { expect, test, type Page } from '@playwright/test';
import { connectAsync } from 'mqtt';
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

type Devices = {
  now: number;
  items: { key: string; tag: string; customer: string; channels: { channel: string }[] }[];
};
const devicesOf = async (page: Page): Promise<Devices> =>
  (await page.evaluate(async (): Promise<unknown> => (await fetch('/api/devices?limit=100')).json())) as Devices;

test('a rule made of others is refused in a circle, tried, kept, and says what it is made of', async ({ page }) => {
  await page.goto(house.address);
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
  await page.goto(`${house.address}/setup/alert-rules`);
  await page.getByRole('button', { name: 'Add an alert rule' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Either of them');
  await page.getByLabel('Asset class').selectOption('Vaccine refrigerator');
  await page.getByLabel('Abnormal when').selectOption('other rules are active');
  await page.getByLabel('Active are').selectOption('any of them');
  const parts = page.getByRole('group', { name: 'Of these rules, at one machine' });
  await parts.getByLabel('Door open', { exact: true }).check();
  await page.getByRole('button', { name: 'Save the alert rule' }).click();
  await expect(page.getByText('Two rules at least.')).toBeVisible();
  await parts.getByLabel('Warming').check();
  await expectAccessible(page, 'a rule made of others');
  await page.getByRole('button', { name: 'Try it on the past' }).click();
  await expect(page.getByText(/It would have raised .* from [\d,]+ readings of 11 machines/)).toBeVisible();
  await page.getByRole('button', { name: 'Save the alert rule' }).click();
  await expect(page.getByRole('cell', { name: 'any of “Door open”, “Warming”' })).toBeVisible();
  // What it is made of may not be made of it.
  await page
    .getByRole('row', { name: /^Door open/ })
    .getByRole('button', { name: 'change' })
    .click();
  await page.getByLabel('Abnormal when').selectOption('other rules are active');
  await parts.getByLabel('Either of them').check();
  await parts.getByLabel('Warming').check();
  await page.getByRole('button', { name: 'Save the alert rule' }).click();
  await expect(page.getByText(/These rules would be made of each other/)).toBeVisible();
  await expect(parts.getByLabel('Either of them')).toBeChecked();
});

test('a freezer that warms makes one order with its evidence; back to normal is said on it and closes nothing', async ({
  page,
}) => {
  await page.goto(house.address);
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
  const { now, items } = await devicesOf(page);
  const own = items.find((d) => d.tag === 'Q0219') as Devices['items'][number];
  const client = await connectAsync(house.brokerUrl ?? '');
  const say = (...points: [seconds: number, value: number][]) =>
    client.publishAsync(
      `readings/${own.key}`,
      JSON.stringify(points.map(([t, v]) => ({ n: `${own.key}:chamber`, u: 'Cel', v, t: now / 1000 + t }))),
      { qos: 1 },
    );
  await say([0, -60], [120, -58], [310, -55]);
  await page.goto(`${house.address}/signals`);
  const row = page.getByRole('table', { name: 'Alerts' }).getByRole('row', { name: /Q0219/ });
  await expect(row).toHaveCount(1, { timeout: 15_000 });
  await row.getByRole('link', { name: /^WO-/ }).click();
  const behind = page.getByRole('region', { name: 'Alerts' });
  await expect(behind.getByText('Rule then: chamber above −65 °C, for 5 min.')).toBeVisible();
  await expect(behind.getByText(/still active/)).toBeVisible();
  await say([400, -70]);
  await client.endAsync();
  await expect(behind.getByText(/: gone 09:2/)).toBeVisible({ timeout: 15_000 });
  await expect(page.getByText('alert ended: Chamber too warm: normal again')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Plan…' })).toBeVisible();
});

/** Every cooled machine of a place is warm from now on, by clocks that go ahead: the demo's own stands still. */
async function cutThePower(page: Page, customer: string): Promise<number> {
  const { now, items } = await devicesOf(page);
  const own = items.filter((d) => d.customer === customer && d.channels.some((c) => c.channel === 'door'));
  const client = await connectAsync(house.brokerUrl ?? '');
  await Promise.all(
    own.map(({ key }) => {
      const records = [-5, 120, 300, 480, 598].map((t) => ({
        ...{ n: `${key}:chamber`, u: 'Cel' },
        ...{ v: 21, t: now / 1000 + t },
      }));
      return client.publishAsync(`readings/${key}`, JSON.stringify(records), { qos: 1 });
    }),
  );
  await client.endAsync();
  return own.length;
}

test('a power cut makes one order of the whole place; alerts are answered, shelved and taken off the shelf', async ({
  page,
}) => {
  await page.goto(house.address);
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
  const machines = await cutThePower(page, 'Encosta Vaccine Depot');
  expect(machines).toBeGreaterThan(10);
  await page.goto(`${house.address}/signals`);
  const alerts = page.getByRole('table', { name: 'Alerts' });
  await expect(alerts.getByText('of the whole place')).toHaveCount(machines, { timeout: 30_000 });
  await expectAccessible(page, 'alerts of a power cut');
  const first = alerts.getByRole('row', { name: /Encosta/ }).first();
  await first.getByRole('link', { name: /^WO-/ }).click();
  await expect(
    page.getByRole('heading', { level: 1, name: new RegExp(`Alerts of \\d+ machines at Encosta`) }),
  ).toBeVisible();
  const behind = page.getByRole('region', { name: 'Alerts' });
  await expect(behind.getByRole('heading', { name: `${machines} alerts` })).toBeVisible();
  await expect(behind.getByText(/Rule then: chamber above .* for \d+ min/)).toHaveCount(1);
  await expect(behind.getByRole('img', { name: /^chamber of .* around/ })).toBeVisible();
  await expectAccessible(page, 'an order with its alerts');
  await page.goto(`${house.address}/signals`);
  await page.getByRole('button', { name: /^Acknowledge the \d+ shown$/ }).click();
  await expect(page.getByText('Nothing to answer: every alert that was told has been acknowledged.')).toBeVisible();
  await page.getByRole('button', { name: /^Active \d+/ }).click();
  await first.getByRole('button', { name: 'shelve' }).click();
  const dialog = page.getByRole('dialog', { name: 'Shelve the alert' });
  await dialog.getByRole('button', { name: 'Shelve' }).click();
  await expect(dialog.getByText('Say why, for whoever asks later.')).toBeVisible();
  await dialog.getByLabel('Why').fill('the grid is being worked on until noon');
  await expectAccessible(page, 'shelving an alert');
  await dialog.getByRole('button', { name: 'Shelve' }).click();
  await expect(dialog).toHaveCount(0);
  await first.getByRole('button', { name: 'off the shelf' }).click();
  await expect(alerts.getByRole('button', { name: 'off the shelf' })).toHaveCount(0);
  await page.goto(`${house.address}/signals/watch`);
  await expect(page.getByRole('navigation', { name: 'Places' }).getByRole('button', { name: /Encosta/ })).toContainText(
    `${machines} with an alert`,
  );
  await expectAccessible(page, 'the watch');
  await page.goto(`${house.address}/signals/figures`);
  await expect(page.getByRole('table', { name: 'The ten that come most' })).toBeVisible();
  await expectAccessible(page, 'figures of alerts');
});

test('a device nobody knows waits in the list and is tied to its machine', async ({ page }) => {
  await page.goto(house.address);
  await page.getByRole('button', { name: /Inês Teixeira/ }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
  const client = await connectAsync(house.brokerUrl ?? '');
  await client.publishAsync('readings/x', JSON.stringify([{ n: 'urn:dev:os:newcomer:chamber', u: 'Cel', v: -79 }]), {
    qos: 1,
  });
  await client.endAsync();
  await page.goto(`${house.address}/signals/devices`);
  const unknown = page.getByRole('region', { name: 'Devices nobody knows' });
  await expect(async () => {
    await page.reload();
    await expect(unknown.getByText('urn:dev:os:newcomer')).toBeVisible({ timeout: 2000 });
  }).toPass({ timeout: 20_000 });
  await expectAccessible(page, 'devices nobody knows');
  await unknown.getByRole('button', { name: 'tie to its machine' }).click();
  await choose(page, 'Machine', 'Q0144');
  await page.getByRole('dialog').getByRole('button', { name: 'Tie' }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await expect(
    page.getByRole('table', { name: 'Devices', exact: true }).getByText('urn:dev:os:newcomer'),
  ).toBeVisible();
});
