// What journeys share: a demo of their own, and axe on the view at hand.
import { cp, rm } from 'node:fs/promises';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { expect, type Locator, type Page } from '@playwright/test';
import { startDemo, type DemoOptions } from '../commands/demo.ts';
import type { RunningHouse } from '../commands/house.ts';
import { freePort } from '../commands/mariadb.ts';

/** WCAG 2.2 AA; nothing serious or critical on the view. */
export async function expectAccessible(page: Page, view: string): Promise<void> {
  // Nothing of ours stands in frames, so no second page is needed; what passes is not told of.
  const { violations } = await new AxeBuilder({ page })
    .setLegacyMode(true)
    .options({ resultTypes: ['violations'] })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
    .analyze();
  const serious = violations
    .filter((v) => v.impact === 'serious' || v.impact === 'critical')
    .map(
      (v) =>
        `${v.id}: ${v.nodes
          .slice(0, 3)
          .map((n) => `${n.html.slice(0, 160)} ${n.any[0]?.message ?? ''}`)
          .join(' | ')}`,
    );
  expect([view, serious]).toEqual([view, []]);
}

export async function openRoom(page: Page, name: string): Promise<void> {
  await page
    .getByRole('navigation', { name: 'Rooms' })
    .getByRole('link', { name: new RegExp(`^${name}`) })
    .click();
}

/** No message of the console or the page may be an error. */
export function watchForErrors(page: Page): string[] {
  const errors: string[] = [];
  page.on('pageerror', (e) => errors.push(String(e)));
  page.on(
    'console',
    (m) =>
      m.type() === 'error' &&
      !/the server responded with a status of (4\d\d|0)/.test(m.text()) &&
      errors.push(m.text()),
  );
  return errors;
}

/** Types a part of the name into a field that offers choices, and takes the one so called. */
export async function choose(within: Page | Locator, label: string, name: string): Promise<void> {
  const field = within.getByRole('combobox', { name: label, exact: true });
  // Typed anew, even where it stands there already.
  await field.fill('');
  await field.fill(name);
  const offered = within.getByRole('listbox', { name: label, exact: true }).getByRole('option');
  await offered.filter({ hasText: name }).first().click();
  await expect(offered).toHaveCount(0);
}

const journeys = process.env.STAVOK_JOURNEY_FOLDER ?? '/tmp/stv-journey';
/** Where the world all journeys begin with lies, made once; nobody serves it. */
export const seedFolder = join(journeys, 'seed');

export const demoOf = (folder: string, port: number): DemoOptions => ({
  folder,
  port,
  now: '2026-11-24T09:20:00Z',
  durability: 'throw-away',
  log: 'silent',
});

/** A demo of a journey's own: what one journey changes no other meets. Its answers are checked against their contracts. */
export async function openDemo(name: string): Promise<RunningHouse> {
  process.env.STAVOK_CHECK_ANSWERS = '1';
  const folder = join(journeys, name);
  await rm(folder, { recursive: true, force: true });
  await cp(seedFolder, folder, { recursive: true });
  return startDemo(demoOf(folder, await freePort()));
}
