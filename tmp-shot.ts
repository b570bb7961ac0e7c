import { chromium } from '@playwright/test';
const [, , out = '/tmp/shots', w = '1280', h = '800', ...urls] = process.argv;
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync'] });
const page = await browser.newPage({ viewport: { width: Number(w), height: Number(h) }, locale: 'en-GB', timezoneId: 'Europe/Lisbon' });
await page.goto('http://127.0.0.1:4993/');
await page.getByRole('button', { name: /Inês Teixeira|coordinator/i }).first().click();
await page.getByRole('navigation', { name: 'Rooms' }).waitFor();
for (const u of urls) {
  const [path = '/', click] = u.split('##');
  await page.goto('http://127.0.0.1:4993' + path);
  await page.waitForTimeout(1600);
  if (click) for (const c of click.split('>>')) { await page.getByRole('button', { name: new RegExp(c) }).first().click(); await page.waitForTimeout(900); }
  const wide = await page.evaluate(() => [document.documentElement.scrollWidth, document.documentElement.clientWidth]);
  const name = path.replace(/[^a-z0-9]+/gi, '_') + (click ? '_dlg' : '') + '_' + w;
  await page.screenshot({ path: `${out}/${name}.png` });
  console.log(name, wide[0]! > wide[1]! ? `SCROLLS ${wide[0]} > ${wide[1]}` : 'ok');
}
await browser.close();
