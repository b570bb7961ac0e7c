import { chromium } from '@playwright/test';
const urls = process.argv.slice(2);
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync'] });
const page = await browser.newPage({ viewport: { width: 640, height: 400 } });
await page.goto('http://127.0.0.1:4993/');
await page.getByRole('button', { name: /coordinator/i }).first().click();
await page.getByRole('navigation', { name: 'Rooms' }).waitFor();
for (const u of urls) {
  await page.goto('http://127.0.0.1:4993' + u);
  await page.waitForTimeout(1500);
  const found = (await page.evaluate(`(() => {
    const w = document.documentElement.clientWidth;
    if (document.documentElement.scrollWidth <= w) return [];
    const inScroller = (e) => { for (let p = e.parentElement; p; p = p.parentElement) { const o = getComputedStyle(p).overflowX; if (p !== document.documentElement && p !== document.body && (o === 'auto' || o === 'scroll' || o === 'hidden')) return true; } return false; };
    return [...document.querySelectorAll('body *')].filter((e) => e.getBoundingClientRect().right > w + 1 && !inScroller(e)).slice(0, 6).map((e) => e.tagName + '.' + String(e.getAttribute('class')).slice(0, 90) + ' r=' + Math.round(e.getBoundingClientRect().right));
  })()`)) as string[];
  console.log(u, found.length ? '\n   ' + found.join('\n   ') : 'ok');
}
await browser.close();
