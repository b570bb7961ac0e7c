// @vitest-environment jsdom
// A place in standing: its places with what needs explaining first, where they lead, and what is behind their figures.
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { readStandingPlaces, standingDetail } from '#api/standing.ts';
import { testHouse, type TestHouse } from '../shell/testing.tsx';
import { OnePlace } from './place.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const counts = (met: number, missed: number, owed = 0, inWindow = 0) => ({
  ...{ met, missed, owed, inWindow, declined: 0 },
  ...{ attainment: met + missed === 0 ? null : met / (met + missed), compliance: owed === 0 ? null : inWindow / owed },
});
const PLACE = {
  ...{ id: 7, name: 'North wing', above: [{ id: 3, name: 'São Brás Hospital' }], more: 0, now: NOW, moved: null },
  rows: [
    { id: 8, name: 'Ward 2', ...counts(3, 2, 4, 3) },
    { id: 9, name: 'Ward 1', ...counts(5, 0) },
  ],
  ...{ here: counts(1, 1), total: counts(9, 3, 4, 3) },
};
const MISS = {
  ...{ orderId: 1421, assetId: 5, tag: 'Q0318', target: 'arrival', state: 'missed', zone: 'Europe/Lisbon' },
  ...{ startedAt: NOW - 9e7, dueAt: NOW - 8e7, stoppedAt: NOW - 7e7, leftMs: null, lateMs: 1e7, note: null },
  ...{ promisedMinutes: 240, calendar: null, priority: 1, warnPercent: 25, pausedFor: null, shortAt: null },
};
const misses = (n: number) => Array.from({ length: n }, (_, i) => ({ ...MISS, orderId: MISS.orderId + i }));
const visit = { scheduleId: 1, label: 'Care', nominal: '2026-09-16', due: '2026-09-16', state: 'not done' };
const VISIT = { ...visit, windowFrom: '2026-09-10', windowTo: '2026-09-20', completedOn: null, orderId: 1031 };

let house: TestHouse;
let sent: object;
let behind: { clocks: object[]; visits: object[] };
let asked: string[];
beforeEach(() => {
  [sent, behind, asked] = [PLACE, { clocks: misses(3), visits: [VISIT] }, []];
  house = testHouse(NOW, 'coordinator');
  house.answer(readStandingPlaces, ({ query }) => {
    asked.push(query.toString());
    return sent;
  });
  house.answer(standingDetail, ({ query }) => {
    asked.push(query.toString());
    return { ...behind, onlyAmiss: true, pledges: [] };
  });
});
afterEach(cleanup);

const lines = () =>
  within(screen.getByRole('table', { name: 'Places of North wing' }))
    .getAllByRole('row')
    .slice(1)
    .map((r) => r.querySelector('td')?.textContent);

it('tells each place below and itself, each leading further down, and the way up', async () => {
  house.open(<OnePlace id="7" />);
  expect(await screen.findByRole('heading', { name: 'North wing' })).toBeDefined();
  expect(
    screen.getByText('75.0 % of promises were met, 9 of 12; upkeep 75.0 % in window, 3 of 4 visits.'),
  ).toBeDefined();
  expect(lines()).toEqual(['Ward 2', 'Ward 1', 'North wing itself']);
  const period = 'from=2026-08-24&to=2026-11-23';
  expect(screen.getByRole('link', { name: 'Ward 2' }).getAttribute('href')).toBe(`/standing/place/8?${period}`);
  const above = within(screen.getByRole('navigation', { name: 'Above it' }));
  expect(above.getAllByRole('link').map((a) => a.getAttribute('href'))).toEqual([
    `/standing?${period}&by=site`,
    `/standing/place/3?${period}`,
  ]);
  expect(await screen.findByRole('link', { name: 'WO-11421' })).toBeDefined();
  expect(asked).toEqual([period, `${period}&by=place&id=7`]);
});

it('names what was counted at its places that are elsewhere now, and how many are not told', async () => {
  sent = { ...PLACE, moved: counts(0, 2), more: 12 };
  house.open(<OnePlace id="7" />);
  await screen.findByRole('heading', { name: 'North wing' });
  expect(lines()).toEqual(['Ward 2', 'Ward 1', 'North wing itself', 'places that are elsewhere now']);
  expect(screen.getByText('12 more places with less to explain.')).toBeDefined();
});

it.each([
  [2, /^1 more was missed when its month was closed, and turned out otherwise since/],
  [5, /^2 of these turned out after their month was closed, and are not in its figures/],
  [3, null],
])('says why %i missed are shown where 3 were counted', async (shown, why) => {
  behind = { clocks: misses(shown), visits: [VISIT] };
  house.open(<OnePlace id="7" />);
  await screen.findByRole('link', { name: 'WO-11421' });
  if (why === null) expect(screen.queryByText(/month was closed/)).toBeNull();
  else expect(screen.getByText(why)).toBeDefined();
});

it('in which nothing fell due says so', async () => {
  sent = { ...PLACE, rows: [], here: counts(0, 0), total: counts(0, 0) };
  house.open(<OnePlace id="7" />);
  expect(await screen.findByText(/^Nothing fell due here from Mon 24 Aug 2026 to Mon 23 Nov 2026/)).toBeDefined();
  expect(screen.queryByRole('table')).toBeNull();
});
