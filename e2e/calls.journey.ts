// From the ringing telephone to done work in the demo: a call by keys alone, two machines with their parts and costs, the done check and
// a follow-up, and an order decided again.
import { expect, test, type Page } from '@playwright/test';
import { createTransport } from 'nodemailer';
import type { RunningHouse } from '../commands/house.ts';
import { choose, expectAccessible, openDemo, openRoom, watchForErrors } from './looking.ts';

let house: RunningHouse;
test.beforeAll(async () => {
  house = await openDemo('calls');
});
test.afterAll(() => house?.stop());

async function signIn(page: Page, name: string): Promise<void> {
  await page.goto(house.address);
  await page.getByRole('button', { name: new RegExp(name) }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
}

/** Opens the dialog of an act and records it as of now. */
async function record(page: Page, opens: RegExp, saves: string): Promise<void> {
  await page.getByRole('button', { name: opens }).first().click();
  await page.getByRole('dialog').getByRole('button', { name: saves, exact: true }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
}

const figure = async (page: Page, row: string, column: number): Promise<number> =>
  Number(
    (
      await page
        .getByRole('row', { name: new RegExp(`^${row}`) })
        .first()
        .getByRole('cell')
        .nth(column)
        .textContent()
    )?.replace(/,/g, ''),
  );

test('a known serial becomes a raised order by keys alone, within half a minute', async ({ page }) => {
  const errors = watchForErrors(page);
  await signIn(page, 'Inês Teixeira');
  const begun = Date.now();
  await page.keyboard.press('c');
  await expect(page.getByRole('combobox', { name: 'What it is about' })).toBeFocused();
  await page.keyboard.type('PLF410-Q1104');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('What is wrong')).toBeFocused();
  const beside = page.getByRole('region', { name: 'What is known' });
  await expect(beside).toContainText('Covered by');
  await expect(beside).toContainText('Last here');
  await expectAccessible(page, 'call');
  await page.keyboard.type('Beeps and is warm');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { level: 1, name: 'Beeps and is warm' })).toBeVisible();
  expect(Date.now() - begun).toBeLessThan(30_000);
  expect(errors).toEqual([]);
});

test('two machines of one call: parts and a toll come to what they are by hand, one is finished before the other', async ({
  page,
}) => {
  await signIn(page, 'Inês Teixeira');
  await page.keyboard.press('c');
  for (const tag of ['Q0102', 'Q0103']) {
    await page.getByRole('combobox', { name: /What it is about|Another machine/ }).fill(tag);
    await page.keyboard.press('Enter');
    await expect(page.getByRole('list', { name: 'Machines of the call' })).toContainText(tag);
  }
  await page.getByLabel('What is wrong').fill('Both warm after a power cut');
  await page.getByRole('button', { name: 'Raise the order' }).click();
  await expect(page.getByRole('heading', { level: 2, name: '2 machines' })).toBeVisible();
  // Two fans at 143.00, five metres of hose clamps are none of theirs: 4 pieces at 2.80; a toll of 4.50.
  for (const [part, quantity] of [
    ['PL-FN', '2'],
    ['GE-CL', '4'],
  ] as const) {
    await page.getByRole('button', { name: 'part used…' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByRole('combobox', { name: 'Part' }).fill(part);
    await dialog
      .getByRole('listbox', { name: 'Part' })
      .getByRole('option', { name: new RegExp(part) })
      .first()
      .click();
    await dialog.getByLabel(/^Quantity/).fill(quantity);
    await dialog.getByRole('button', { name: 'Keep it' }).click();
    await expect(dialog).toHaveCount(0);
  }
  await page.getByRole('button', { name: 'other cost…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('What for').fill('Toll');
  await dialog.getByLabel(/^Cost us/).fill('4.50');
  await dialog.getByLabel(/^Sold for/).fill('4.50');
  await dialog.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByRole('row', { name: /^Toll/ })).toBeVisible();
  expect(await figure(page, 'PL-FN', 5)).toBe(286);
  expect(await figure(page, 'GE-CL', 5)).toBe(11.2);
  const list = (await figure(page, 'In all', 4)) - 0;
  expect(list).toBeCloseTo(286 + 11.2 + 4.5, 2);
  await expectAccessible(page, 'order with parts');
  await record(page, /^On site/, 'Record: on site');
  // What is missing now stands above: before it does, everything below is about to move.
  await expect(page.getByRole('button', { name: 'Follow up…' })).toBeVisible();
  await page.getByRole('button', { name: 'Q0102 is back in use' }).click();
  await expect(page.getByRole('button', { name: 'Q0102 is back in use' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Done…' }).click();
  await expect(page.getByRole('dialog')).toContainText('Back in use with it: Q0103.');
});

test('the done check leads to what is missing; what is left goes on with a follow-up that has the promise', async ({
  page,
}) => {
  await signIn(page, 'Inês Teixeira');
  await page.goto(`${house.address}/call?asset=5`);
  await expect(page.getByLabel('What is wrong')).toBeFocused();
  await page.getByLabel('What is wrong').fill('Compressor dead');
  await page.getByRole('button', { name: 'Raise the order' }).click();
  await record(page, /^On site/, 'Record: on site');
  const missing = page.getByRole('region', { name: 'Missing before it is done' });
  await expect(missing).toContainText('cause and remedy');
  await missing.getByRole('link', { name: 'cause and remedy' }).click();
  await page.getByRole('button', { name: 'say what was found…' }).click();
  await page.getByLabel('Fault').fill('compressor seized');
  await page.getByRole('button', { name: 'Keep it' }).click();
  const dialog = page.getByRole('dialog');
  await page.getByRole('button', { name: 'Signed for…' }).click();
  await dialog.getByRole('button', { name: 'Record: signed for' }).click();
  await expect(dialog).toContainText('Write who signed for the work, or say why nobody did.');
  await dialog.getByLabel('Who signed').fill('Marta Silva');
  await dialog.getByLabel('As what').fill('shift lead');
  await dialog.getByRole('button', { name: 'Record: signed for' }).click();
  await expect(page.getByText('signed for by Marta Silva, shift lead.')).toBeVisible();
  await page.getByRole('button', { name: 'Follow up…' }).click();
  await dialog.getByLabel('What is left, and why').fill('the compressor is on order');
  await dialog.getByLabel('Parts needed').fill('compressor, second stage');
  await dialog.getByRole('button', { name: 'Raise the follow-up' }).click();
  await expect(page.getByText('Does the rest of')).toBeVisible();
  await expect(page.getByRole('region', { name: 'Clocks' })).toContainText(/restoration/i);
  await expect(page.getByRole('region', { name: 'Clocks' })).not.toContainText(/arrival/i);
  await page.getByText('Does the rest of').getByRole('link').click();
  await expect(page.getByText('Goes on with', { exact: false }).first()).toBeVisible();
  await expectAccessible(page, 'order followed up');
});

test('another cause is shown before it is decided, and the list finds what waits', async ({ page }) => {
  await signIn(page, 'Inês Teixeira');
  await openRoom(page, 'Orders');
  await page
    .getByRole('link', { name: /Gas alarm/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Priority, machine, cause…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Cause').selectOption('misuse');
  await expect(dialog).toContainText('Not covered');
  await expect(dialog).toContainText('No promise.');
  await dialog.getByLabel('Why').fill('the hose was kinked by the users');
  await dialog.getByRole('button', { name: 'Decide it so' }).click();
  await expect(page.getByRole('heading', { name: 'Cover, as decided again' })).toBeVisible();
  await page.getByRole('button', { name: 'more filters' }).click();
  await page.getByLabel('Waiting for').selectOption('no access');
  await expect(page).toHaveURL(/waiting=no/);
  await expect(page.getByText(/1 order,/)).toBeVisible();
  await expectAccessible(page, 'orders filtered');
});

test('a message sent to us appears by itself, becomes an order with its words, and is answered in its thread', async ({
  page,
}) => {
  const errors = watchForErrors(page);
  await signIn(page, 'Inês Teixeira');
  await openRoom(page, 'Mail');
  await expect(page.getByRole('article', { name: 'Message' })).toBeVisible();
  const mailbox = createTransport(house.mailbox ?? '');
  await mailbox.sendMail({
    ...{ from: 'Brites Lemos <brites@lemos.example>', to: 'service@stavok.example' },
    ...{
      subject: 'Cabinet Q0210 hums',
      text: 'Cabinet Q0210 hums since noon.\n-- \nBrites Lemos\nTel. +351 900 555 012',
    },
  });
  mailbox.close();
  await page.getByRole('link', { name: /Cabinet Q0210 hums/ }).click();
  const message = page.getByRole('article', { name: 'Message' });
  await expect(message).toContainText('Nobody we know writes from this address.');
  await message.getByRole('button', { name: 'Make a contact of them…' }).click();
  await choose(message, 'Customer', 'Serra Veterinary');
  await message.getByRole('button', { name: 'Add the contact' }).click();
  await expect(message).toContainText('of Serra Veterinary Institute');
  await expectAccessible(page, 'mail');
  await message.getByRole('button', { name: 'Answer…' }).click();
  await message.getByLabel('To Brites Lemos').fill('We come tomorrow.');
  await message.getByRole('button', { name: 'Send the answer' }).click();
  await expect(message.getByRole('region', { name: 'Answered' })).toContainText('We come tomorrow.');
  await message.getByRole('link', { name: 'Take it as a call' }).click();
  await expect(page.getByLabel('What is wrong, or wanted')).toHaveValue('Cabinet Q0210 hums');
  await expect(page.getByLabel('Machines of the call')).toContainText('Q0210');
  await page.getByRole('button', { name: 'Raise the order' }).click();
  await expect(page.getByText('mail of Brites Lemos: Cabinet Q0210 hums since noon.')).toBeVisible();
  await openRoom(page, 'Mail');
  // Its order is among those that another message of the customer may belong to; the message itself waits no more.
  const waiting = page.getByRole('region', { name: 'Mail', exact: true });
  await expect(waiting.getByRole('link', { name: /is getting warm/ })).toBeVisible();
  await expect(waiting.getByRole('link', { name: /Cabinet Q0210 hums/ })).toHaveCount(0);
  expect(errors).toEqual([]);
});

test('an offer is begun from a machine, sent, accepted, and becomes an order with its parts', async ({ page }) => {
  const errors = watchForErrors(page);
  await signIn(page, 'Inês Teixeira');
  await openRoom(page, 'Offers');
  await expect(page.getByText('sent 8 days ago')).toBeVisible();
  await expectAccessible(page, 'offers');
  await page.getByRole('link', { name: 'Write an offer…' }).click();
  await choose(page, 'Customer', 'Serra Veterinary');
  await choose(page, 'For the machine', 'Q0203');
  await page.getByLabel('Begin with the lines of a job plan').selectOption({ index: 1 });
  await expect(page.getByRole('listitem', { name: 'Line 1' }).getByLabel('Hours')).not.toHaveValue('');
  await expect(page.getByText(/Like work on/)).toBeVisible();
  await choose(page, 'Add a part of the list', 'TN-');
  await page.getByLabel('What is offered, in short').fill('Fan and relay, changed together');
  await expectAccessible(page, 'an offer that is written');
  const total = await page.getByLabel('What it comes to').textContent();
  await page.getByRole('button', { name: 'Write the draft' }).click();
  await expect(page.getByRole('heading', { name: 'Fan and relay, changed together' })).toBeVisible();
  // What was shown while it was written is what is kept.
  await expect(page.getByLabel('What it comes to')).toHaveText(total ?? '');
  await page.getByRole('button', { name: 'Send…' }).click();
  await page.getByRole('dialog').getByLabel('By mail to').selectOption({ index: 1 });
  await page.getByRole('dialog').getByRole('button', { name: 'Send the offer' }).click();
  await expect(page.getByText(/sent to \S+@\S+/)).toBeVisible();
  await expect(page.getByRole('link', { name: /OF-\d+\.pdf/ }).first()).toBeVisible();
  await page.getByRole('button', { name: 'The customer accepts…' }).click();
  await page
    .getByRole('dialog')
    .getByLabel('Who accepted it, and how')
    .fill('the head of the laboratory, by telephone');
  await page.getByRole('dialog').getByRole('button', { name: 'Raise the order' }).click();
  await expect(page.getByText('became this order')).toBeVisible();
  await expect(page.getByText(/accepted by the head of the laboratory, by telephone: EUR/)).toBeVisible();
  await expectAccessible(page, 'order of an offer');
  expect(errors).toEqual([]);
});
