// Field in the demo: a technician's visit with the network cut, the phone closed and opened in between, and the office seeing it after.
import { devices, expect, test, type BrowserContext, type Page } from '@playwright/test';
import type { RunningHouse } from '../commands/house.ts';
import { expectAccessible, openDemo, watchForErrors } from './looking.ts';

let house: RunningHouse;
test.beforeAll(async () => {
  house = await openDemo('field');
});
test.afterAll(() => house?.stop());

const { userAgent } = devices['Pixel 7'];
test.use({ viewport: { width: 390, height: 844 }, userAgent, hasTouch: true, isMobile: true });

const sending = (page: Page) => page.getByRole('status', { name: 'Sending' });

/** The phone with somebody signed in, and the application kept on it. */
async function openPhone(page: Page, name: string): Promise<void> {
  await page.goto(`${house.address}/field/`);
  await page.getByRole('button', { name }).click();
  await expect(page.getByRole('navigation', { name: 'Field' })).toBeVisible();
  await page.evaluate(async () => {
    await navigator.serviceWorker.ready;
    if (navigator.serviceWorker.controller === null)
      await new Promise((is) => navigator.serviceWorker.addEventListener('controllerchange', is, { once: true }));
  });
}

/** The coordinator at a desk, on a page. */
async function openOffice(phone: Page, path: string): Promise<Page> {
  const desk = await phone
    .context()
    .browser()
    ?.newContext({ viewport: { width: 1280, height: 800 } });
  const office = await desk?.newPage();
  if (!office) throw new Error('no office');
  await office.goto(house.address);
  await office.getByRole('button', { name: /Inês Teixeira/ }).click();
  await expect(office.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
  await office.goto(house.address + path);
  return office;
}

async function onSite(page: Page, what: string): Promise<void> {
  await page.getByRole('navigation', { name: 'On site' }).getByRole('link', { name: what, exact: true }).click();
}

async function sign(page: Page): Promise<void> {
  const pad = page.getByRole('img', { name: 'Sign here with a finger' });
  const box = await pad.boundingBox();
  if (!box) throw new Error('there is nowhere to sign');
  await page.mouse.move(box.x + 40, box.y + 60);
  await page.mouse.down();
  await page.mouse.move(box.x + 120, box.y + 110, { steps: 6 });
  await page.mouse.move(box.x + 200, box.y + 50, { steps: 6 });
  await page.mouse.up();
}

/** Closed and opened again: nothing is left but what the phone keeps. */
async function openAgain(context: BrowserContext, page: Page): Promise<Page> {
  await page.close();
  const next = await context.newPage();
  await next.goto(`${house.address}/field/`);
  return next;
}

test('a visit without signal: there, found, used, worked, signed and done; sent once there is a network', async ({
  page: first,
  context,
}) => {
  const errors = watchForErrors(first);
  await openPhone(first, 'Duarte Moura');
  await expectAccessible(first, 'my day');
  await context.setOffline(true);
  await first.getByRole('link', { name: 'Fan noisy' }).click();
  await expectAccessible(first, 'an order on the phone');
  await first.getByRole('button', { name: 'Back in use' }).click();
  await expect(sending(first)).toContainText('1 act waits to be sent');
  await onSite(first, 'Part');
  await first.getByLabel('Number, name or serial').fill('lamp');
  await first.getByRole('button', { name: /Lamp/ }).click();
  await first.getByRole('button', { name: 'Used here' }).click();
  await onSite(first, 'Hours');
  await first.getByLabel('From').fill('9:00');
  await first.getByLabel('To').fill('915');
  await first.getByRole('button', { name: 'Keep the hours' }).click();
  await expect(sending(first)).toContainText('3 acts wait to be sent');

  // The battery dies, with something half typed.
  await onSite(first, 'Note');
  await first.getByLabel(/For the office/).fill('Bearing was dry');
  const page = await openAgain(context, first);
  await expect(sending(page)).toContainText('3 acts wait to be sent');
  await page.getByRole('link', { name: 'Fan noisy' }).click();
  await onSite(page, 'Note');
  await expect(page.getByLabel(/For the office/)).toHaveValue('Bearing was dry');
  await page.getByRole('button', { name: 'Keep the note' }).click();

  await page.getByRole('button', { name: 'Finish' }).click();
  await expect(page.getByRole('button', { name: '1 missing' })).toBeDisabled();
  await page.getByRole('link', { name: 'cause and remedy' }).click();
  await page.getByLabel('Why').fill('wear');
  await page.getByLabel('What you did').fill('bearing greased');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await page.getByLabel('Who signs').fill('Rita Lopes');
  await page.getByLabel('As what').fill('head nurse');
  await sign(page);
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByText('Signed by Rita Lopes, head nurse')).toBeVisible();
  await expectAccessible(page, 'finish');
  await page.getByRole('button', { name: 'Done', exact: true }).click();
  await expect(page.getByRole('link', { name: 'Fan noisy' }).getByRole('img', { name: 'Stage: done' })).toBeVisible();
  await expect(sending(page)).toContainText('8 acts wait to be sent');

  const office = await openOffice(page, '/orders/1449');
  await expect(office.getByRole('heading', { name: 'Fan noisy' })).toBeVisible();
  await context.setOffline(false);
  await expect(sending(page)).toHaveText('', { timeout: 40_000 });
  // Seen at the office as soon as it is there, without a press.
  await expect(office.getByRole('cell', { name: 'signed for by Rita Lopes, head nurse' })).toBeVisible();
  await expect(office.getByRole('cell', { name: 'Bearing was dry' })).toBeVisible();
  await expect(office.getByText(/signed by Rita Lopes/).first()).toBeVisible();
  // The report is drawn a little after, and stands among the papers by itself.
  await expect(office.getByText('WO-11449 report.pdf').first()).toBeVisible({ timeout: 60_000 });
  await expect(office.getByRole('main').getByRole('img', { name: 'Stage: done' }).first()).toBeVisible();
  // Without signal nothing loads, and the browser says so.
  expect(errors.filter((e) => !e.includes('ERR_INTERNET_DISCONNECTED'))).toEqual([]);
});

test('what the office undid meanwhile is refused by name and put right or let go; signing out asks first', async ({
  page,
  context,
}) => {
  await openPhone(page, 'Samir Haddou');
  await page.getByRole('link', { name: 'Steriliser care, by cycles' }).click();
  const number = Number(/order\/(\d+)/.exec(page.url())?.[1]);
  await context.setOffline(true);
  await page.getByRole('button', { name: 'I am there' }).click();
  await onSite(page, 'Note');
  await page.getByLabel(/For the office/).fill('Nobody home');
  await page.getByRole('button', { name: 'Keep the note' }).click();

  const office = await openOffice(page, `/orders/${number}`);
  await office.getByRole('button', { name: 'Call off…' }).click();
  await office.getByLabel(/Why/).fill('the customer asked for later');
  await office.getByRole('dialog').getByRole('button', { name: /Call/ }).click();
  await expect(office.getByRole('main').getByRole('img', { name: 'Stage: called off' }).first()).toBeVisible();

  await page.getByRole('link', { name: 'Samir Haddou' }).click();
  await page.getByRole('button', { name: 'Sign out' }).click();
  await expect(page.getByRole('alert')).toContainText('2 acts were not sent');
  await page.getByRole('button', { name: 'Stay' }).click();
  await context.setOffline(false);
  await expect(sending(page)).toContainText('1 not taken', { timeout: 40_000 });
  await sending(page).getByRole('link').click();
  await expect(page.getByRole('alert')).toContainText('called off');
  await expectAccessible(page, 'to be sent');
  await page.getByRole('button', { name: 'Let it go …' }).click();
  await page.getByRole('button', { name: /Yes, let it go/ }).click();
  await expect(page.getByText('Everything is at the office.')).toBeVisible();
  await page.getByRole('link', { name: 'Samir Haddou' }).click();
  await page.getByRole('button', { name: 'Sign out' }).click();
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
});

test('what follows on site: a card, the rest for later today, where it was; a part for the van asked for, put in and seen', async ({
  page,
  context,
}) => {
  await context.grantPermissions(['geolocation']);
  await context.setGeolocation({ latitude: 42.04, longitude: -8.64, accuracy: 9 });
  await openPhone(page, 'Renata Valdês');
  await page.getByRole('navigation', { name: 'Field' }).getByRole('link', { name: 'Renata Valdês' }).click();
  await page.getByRole('button', { name: 'Say where I am with what I do' }).click();
  await expectAccessible(page, 'oneself on the phone');
  await page.getByRole('link', { name: '‹ My day' }).click();
  await page.getByRole('link', { name: 'Chamber warming up' }).first().click();
  const number = Number(/order\/(\d+)/.exec(page.url())?.[1]);
  await onSite(page, 'Cost');
  await page.getByLabel('What for').fill('Hire of a lift');
  await page.getByLabel(/^Paid/).fill('100');
  await page.getByRole('button', { name: 'Keep the cost' }).click();
  await expect(sending(page)).toHaveText('');
  await onSite(page, 'Finish');
  await page.getByRole('link', { name: /What it comes to/ }).click();
  await expect(page.getByText('EUR 123.00')).toBeVisible();
  await page.getByLabel(/^Amount/).fill('23');
  await page.getByRole('button', { name: 'Ask the terminal' }).click();
  await expect(page.getByText(/^Paid, receipt/)).toBeVisible();
  await expect(page.getByText('EUR 23.00 paid by card')).toBeVisible();
  await expectAccessible(page, 'what it comes to on the phone');

  const office = await openOffice(page, `/orders/${number}`);
  await expect(office.getByRole('region', { name: 'Paid on site' })).toContainText('Card, paid EUR 23.00');
  await page.goto(`${house.address}/field/order/${number}/rest`);
  await page.getByRole('button', { name: 'I do, later today' }).click();
  await page.getByLabel(/What is left/).fill('the gasket comes at noon');
  await expectAccessible(page, 'not finished');
  await page.getByRole('button', { name: 'I do it later today' }).click();
  await expect(page).toHaveURL(new RegExp(`/field/order/${number}$`));
  await page.goto(`${house.address}/field/`);
  await expect(page.getByRole('region', { name: 'Without a time' })).toContainText('Chamber warming up');

  await page.goto(`${house.address}/field/van/ask`);
  await page.getByLabel('Number or name').fill('gasket');
  await page.getByRole('button', { name: /Door gasket ULF-540/ }).click();
  await page.getByLabel(/^How many/).fill('2');
  await page.getByRole('button', { name: 'Ask for it' }).click();
  await office.goto(`${house.address}/stores/asked`);
  await office.getByRole('button', { name: /^Put in 2 pieces Door gasket ULF-540/ }).click();
  await expectAccessible(office, 'asked for vans');
  await office.getByRole('dialog').getByRole('button', { name: 'Put it in' }).click();
  await expect(office.getByText('Nobody waits for a part for their van.')).toBeVisible();
  await page.goto(`${house.address}/field/van`);
  await expect(page.getByRole('region', { name: 'Put in by others' })).toContainText('2 pieces Door gasket ULF-540');
  await page.getByRole('button', { name: 'It is all there' }).click();
  await expect(page.getByRole('region', { name: 'Put in by others' })).toHaveCount(0);

  // Nothing said where that was; arriving elsewhere does, and the office sees it.
  await page.goto(`${house.address}/field/order/${number}`);
  await onSite(page, 'Pause');
  await page.getByRole('button', { name: /^parts/ }).click();
  await page.getByRole('button', { name: 'Pause', exact: true }).click();
  await office.goto(`${house.address}/rota/map`);
  await expect(office.getByText(/Renata Valdês said to be here at/).first()).toBeAttached({ timeout: 20_000 });
});

test('a push is shown while Field is closed', async ({ page, context }) => {
  await context.grantPermissions(['notifications'], { origin: house.address });
  await openPhone(page, 'Renata Valdês');
  await page.waitForFunction(async () => (await navigator.serviceWorker.ready).active?.state === 'activated');
  const devtools = await context.newCDPSession(page);
  const registrationId = new Promise<string>((found) =>
    devtools.on('ServiceWorker.workerRegistrationUpdated', ({ registrations }) => {
      const own = registrations.find((r) => r.scopeURL.endsWith('/field/'));
      if (own) found(own.registrationId);
    }),
  );
  await devtools.send('ServiceWorker.enable');
  const data = JSON.stringify({
    title: 'moved: Tue 24 Nov 2026, 16:00–17:00',
    body: 'WO-11449 Fan noisy',
    tag: 'outbox-1',
  });
  await devtools.send('ServiceWorker.deliverPushMessage', {
    ...{ origin: house.address, registrationId: await registrationId, data },
  });
  const shown = () =>
    page.evaluate(async () =>
      (await (await navigator.serviceWorker.ready).getNotifications()).map((n) => [n.title, n.body]),
    );
  await expect.poll(shown).toEqual([['moved: Tue 24 Nov 2026, 16:00–17:00', 'WO-11449 Fan noisy']]);
});

/** What is pressed on a page and is less than 24 pixels in either direction (WCAG 2.2, 2.5.8); links within sentences are excepted there. */
const smallTargets = (page: Page): Promise<string[]> =>
  page.evaluate(() =>
    [...document.querySelectorAll('button, a, select, input:not([type=file])')]
      .filter((e) => !e.closest('p') && e.getClientRects().length > 0)
      .filter((e) => Math.min(e.getBoundingClientRect().width, e.getBoundingClientRect().height) < 24)
      .map((e) => e.textContent || e.tagName),
  );

test('can be kept on the phone: manifest, icons in their sizes, targets for a thumb, and any page without a network', async ({
  page,
  context,
}) => {
  await openPhone(page, 'Renata Valdês');
  const kept = await page.evaluate(async () => {
    const at = document.querySelector<HTMLLinkElement>('link[rel=manifest]')?.href ?? '';
    const manifest = (await (await fetch(at)).json()) as Record<string, string> & {
      icons: { src: string; sizes: string; purpose: string }[];
    };
    const icons = await Promise.all(
      manifest.icons.map(async ({ src, sizes, purpose }) => {
        const image = new Image();
        image.src = src;
        await image.decode();
        return { purpose, said: sizes, is: `${image.naturalWidth}x${image.naturalHeight}` };
      }),
    );
    return { ...manifest, icons, scale: document.querySelector<HTMLMetaElement>('meta[name=viewport]')?.content };
  });
  // What makes a page one that can be installed: W3C, Web Application Manifest, and what browsers ask besides.
  expect(kept).toMatchObject({ name: 'Stavok Field', display: 'standalone', start_url: '/field/', scope: '/field/' });
  expect(kept.scale).toContain('width=device-width');
  expect(kept.icons.map((i) => i.is)).toEqual(kept.icons.map((i) => i.said));
  expect(kept.icons.map((i) => `${i.said} ${i.purpose}`)).toEqual(
    expect.arrayContaining(['192x192 any', '512x512 any', '512x512 maskable']),
  );
  // What a phone shows without a network is what it fetched before.
  await expect(page.getByRole('main').getByRole('group', { name: 'Day' })).toBeVisible();
  await context.setOffline(true);
  for (const [path, shown] of [
    ['/', 'group'],
    ['/van', 'heading'],
    ['/week', 'heading'],
    ['/waiting', 'heading'],
  ] as const) {
    await page.goto(`${house.address}/field${path}`);
    await expect(page.getByRole('main').getByRole(shown).first()).toBeVisible();
    expect([path, ...(await smallTargets(page))]).toEqual([path]);
  }
  await expectAccessible(page, 'field, to be sent');
  await page.goto(`${house.address}/field/week`);
  await expectAccessible(page, 'field, my week');
  await page.goto(`${house.address}/field/van`);
  await page.getByRole('main').getByRole('link', { name: /piece/ }).first().click();
  await page.getByRole('link', { name: 'Count it' }).click();
  await page.getByLabel(/^How many/).fill('0');
  await page.getByRole('button', { name: 'So many are there' }).click();
  await expect(sending(page)).toContainText('1 act waits');
  await context.setOffline(false);
  await expect(sending(page)).not.toContainText('waits');
});
