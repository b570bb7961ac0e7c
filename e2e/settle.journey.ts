// Settle in the demo: an order with mixed cover is looked through, corrected, approved and billed; what it was billed wrongly is credited;
// agreements bill themselves.
import { expect, test, type Page } from '@playwright/test';
import type { RunningHouse } from '../commands/house.ts';
import { expectAccessible, openDemo } from './looking.ts';

let house: RunningHouse;
test.beforeAll(async () => {
  house = await openDemo('settle');
});
test.afterAll(() => house?.stop());

async function enter(page: Page, who: RegExp, path: string): Promise<void> {
  await page.goto(house.address);
  await page.getByRole('button', { name: who }).click();
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
  await page.goto(`${house.address}${path}`);
}

test('an order with mixed cover becomes an invoice by hand-checked figures, then a credit note, and is billed again', async ({
  page,
}) => {
  await enter(page, /Carmen Rioboo/, '/settle');
  await expectAccessible(page, 'settle');
  await page
    .getByRole('row', { name: /Brizal Enzymes/ })
    .getByRole('link')
    .click();
  const record = page.getByRole('article', { name: 'Lid lock fails' });
  // Labour 140.63 less a tenth (14.06), travel 84.38, call-out 45.00, the part 157.00: 412.95 to pay.
  await expect(record.getByRole('row', { name: /^In all/ })).toContainText('427.01412.95');
  await expect(record).toContainText('Not by');
  await record.getByRole('button', { name: 'Goodwill…' }).click();
  await page.getByRole('dialog').getByLabel('Of', { exact: true }).selectOption('travel');
  await page.getByRole('dialog').getByLabel('Percent off').fill('50');
  await page.getByRole('dialog').getByLabel('Why').fill('came a day late');
  await expectAccessible(page, 'goodwill');
  await page.getByRole('button', { name: 'Give it' }).click();
  // Half of 84.38 and of 45.00 is 42.19 and 22.50: 348.26 is left.
  await expect(record.getByRole('region', { name: 'Corrections' })).toContainText(
    'goodwill 50 % of travel: came a day late',
  );
  await record.getByRole('button', { name: 'Approve EUR 348.26' }).click();
  await record.getByRole('button', { name: 'Bill it…' }).click();
  await expect(page.getByRole('dialog')).toContainText('1 document');
  await page.getByRole('button', { name: 'Issue it' }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  const number = record.getByRole('link', { name: /^INV-/ });
  await expect(number).toBeVisible({ timeout: 20_000 });
  await expect(record).toContainText('settled');

  await number.click();
  // 23 % of 348.26 is 80.0998: 80.10.
  await expect(page.getByRole('row', { name: /^Tax S/ })).toContainText('80.10');
  await expect(page.getByRole('row', { name: /^With tax/ })).toContainText('428.36');
  await expectAccessible(page, 'an invoice');
  await page.getByRole('button', { name: 'Credit it…' }).click();
  await page.getByLabel('Why').fill('the wrong company of theirs');
  await page.getByRole('checkbox', { name: /billed again/ }).check();
  await page.getByRole('button', { name: /^Issue the credit note over EUR 348.26/ }).click();
  await expect(page.getByRole('heading', { name: /^Credit note CN-/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /^With tax/ })).toContainText('428.36');
  await page.goto(`${house.address}/settle?show=approved`);
  await expect(page.getByRole('row', { name: /Brizal Enzymes/ })).toContainText('348.26');
});

test('agreements and approved orders are billed as drafts; one is read, issued, the rest found by its run', async ({
  page,
}) => {
  await enter(page, /Inês Teixeira/, '/settle/bill');
  const due = page.getByRole('region', { name: 'What will be billed' });
  await expect(due).toContainText('document');
  const count = Number(/^\d+/.exec((await due.locator('strong').textContent()) ?? '')?.[0]);
  await expectAccessible(page, 'bill');
  await page.getByRole('button', { name: `Write ${count} drafts` }).click();
  await expect(due).toContainText('Nothing is to be billed up to that day.', { timeout: 20_000 });
  await page
    .getByRole('link', { name: `${count} documents`, exact: true })
    .first()
    .click();
  await expect(page.getByRole('row')).toHaveCount(count + 1);
  await page.getByRole('link', { name: 'draft' }).first().click();
  await page.getByRole('button', { name: 'Issue it, with its number' }).click();
  await expect(page.getByRole('heading', { name: /^Invoice INV-/ })).toBeVisible();
});

test('plain orders are approved at one go, after a look at what they come to', async ({ page }) => {
  await enter(page, /Inês Teixeira/, '/settle?show=plain');
  await page.getByRole('button', { name: /^Approve these \d+…/ }).click();
  await expect(page.getByRole('dialog')).toContainText('to pay, without tax');
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Approve \d+/ })
    .click();
  await expect(page.getByRole('dialog').getByRole('status')).toContainText('approved');
  await page.getByRole('button', { name: 'Close' }).click();
  await expect(page.getByText('No plain order waits to be approved.')).toBeVisible();
});

test('what the bank tells pays what it names; the rest is looked at; what is late is reminded of; the month is closed', async ({
  page,
}) => {
  await enter(page, /Carmen Rioboo/, '/settle/open');
  await expectAccessible(page, 'open items');
  await page.getByRole('link', { name: 'Costabela Blood Centre' }).click();
  const debtor = page.getByRole('article', { name: 'Costabela Blood Centre' });
  const late = debtor.getByRole('row', { name: /1–30 days/ });
  const number = (await late.getByRole('link').first().textContent()) ?? '';
  const open = /EUR ([\d,.]+)$/.exec((await late.textContent()) ?? '')?.[1] ?? '';
  await expectAccessible(page, 'a debtor');

  // A statement of the bank in which that invoice is paid, and something goes out.
  const entry = (amount: string, way: string, text: string) =>
    `<Ntry><Amt Ccy="EUR">${amount}</Amt><CdtDbtInd>${way}</CdtDbtInd><Sts><Cd>BOOK</Cd></Sts>
     <BookgDt><Dt>2026-11-23</Dt></BookgDt><NtryDtls><TxDtls><RmtInf><Ustrd>${text}</Ustrd></RmtInf></TxDtls></NtryDtls></Ntry>`;
  const statement = `<Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.053.001.08"><BkToCstmrStmt><Stmt>
    <Acct><Id><IBAN>PT50000000000000000000000</IBAN></Id></Acct>
    ${entry(open.replace(/,/g, ''), 'CRDT', `your ${number}`)}${entry('7.10', 'DBIT', 'charges')}</Stmt></BkToCstmrStmt></Document>`;
  await page.goto(`${house.address}/settle/payments`);
  await page.getByRole('button', { name: 'Load a file of the bank…' }).click();
  await page
    .getByLabel('File', { exact: true })
    .setInputFiles({ name: 'november.xml', mimeType: 'text/xml', buffer: Buffer.from(statement) });
  await expect(page.getByRole('dialog')).toContainText('1 new payment, together');
  await expect(page.getByRole('dialog')).toContainText(`allocated: names ${number}`);
  await expectAccessible(page, 'a statement of the bank');
  await page.getByRole('button', { name: 'Load', exact: true }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.goto(`${house.address}/settle/documents?number=${number}`);
  await page.getByRole('link', { name: number }).click();
  await expect(page.getByRole('region', { name: 'What is paid' })).toContainText('Nothing of it is open.');

  // One without a number is looked at, and allocated as it is proposed.
  await page.goto(`${house.address}/settle/payments?state=open`);
  await page
    .getByRole('row', { name: /Serra Veterinary/ })
    .getByRole('link')
    .click();
  await expect(page.getByText(/^Proposed: the oldest of that payer/)).toBeVisible();
  await expectAccessible(page, 'a payment');
  await page.getByRole('button', { name: 'Allocate EUR 110.70' }).click();
  await expect(page.getByRole('heading', { name: 'Allocated to' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Take back…' })).toHaveCount(2);

  await page.goto(`${house.address}/settle/open`);
  await page.getByRole('button', { name: 'Remind…' }).click();
  await expect(page.getByRole('dialog').getByRole('checkbox', { name: /Encosta/ })).toBeVisible();
  await expect(page.getByRole('dialog')).not.toContainText('Serra Veterinary');
  await page.getByRole('button', { name: /^Remind \d customers/ }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await expect(page.getByRole('row', { name: /Encosta/ })).toContainText('level 1');

  await page.goto(`${house.address}/settle/journal`);
  await expectAccessible(page, 'journal');
  await page.getByRole('button', { name: 'Close 2026-10' }).click();
  await expect(page.getByText(/^Closed to Sat 31 Oct 2026/)).toBeVisible();
});

test('counted rights and margins are read, and a renewal is priced', async ({ page }) => {
  await enter(page, /Carmen Rioboo/, '/settle/allowances');
  await expect(page.getByText(/^used up since/)).toBeVisible();
  await expectAccessible(page, 'allowances');
  await page.goto(`${house.address}/settle/margins`);
  await page
    .getByRole('link', { name: /^AG-20/ })
    .first()
    .click();
  const renewal = page.getByRole('region', { name: 'What a renewal would have to cost' });
  await expect(renewal).toContainText('in four of five cases');
  await expectAccessible(page, 'a margin');
  const before = await renewal.locator('strong').last().textContent();
  await renewal.getByLabel('Margin wanted, %').fill('60');
  await renewal.getByLabel('Margin wanted, %').blur();
  await expect(renewal.locator('strong').last()).not.toHaveText(before ?? '');
});

test('work under a maker’s warranty is asked back: sent, accepted in part, and closed by their credit note', async ({
  page,
}) => {
  await enter(page, /Carmen Rioboo/, '/settle/claims');
  await expectAccessible(page, 'claims');
  await page
    .getByRole('row', { name: /Display dark/ })
    .getByRole('link', { name: /^CL-/ })
    .click();
  const claim = page.getByRole('article', { name: /^CL-/ });
  // Travel 84.38 and 45.00, labour 309.38, the power supply 178.00.
  await expect(claim.getByRole('row', { name: /^Together/ })).toContainText('616.76');
  await claim.getByRole('button', { name: 'Send it…' }).click();
  await expect(page.getByRole('dialog')).toContainText('Missing: there is no report of the work; there is no photo.');
  await page.getByRole('button', { name: /^Send CL-\d+ by mail$/ }).click();
  await expect(claim).toContainText('to warranty@halvane.example', { timeout: 30_000 });
  await claim.getByRole('button', { name: 'What they answer…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Their number for it').fill('RMA 12');
  const labour = dialog.locator('div.grid').filter({ hasText: 'labour' });
  await labour.getByLabel('Accepted, EUR').fill('200.00');
  await page.getByRole('button', { name: 'Keep their answer' }).click();
  await expect(dialog).toContainText('Say why they accept less.');
  await labour.getByLabel('Why less').fill('their own rate');
  await expectAccessible(page, 'what a maker answers');
  await page.getByRole('button', { name: 'Keep their answer' }).click();
  await claim.getByRole('button', { name: 'What came in…' }).click();
  await page.getByLabel('Number of their credit note').fill('CN 77');
  await page.getByRole('button', { name: 'Close the claim' }).click();
  await expect(claim).toContainText('Closed.');
  await expect(claim.getByRole('region', { name: 'What was done' })).toContainText('507.38 by their credit note CN 77');
  await expectAccessible(page, 'a claim');
});
