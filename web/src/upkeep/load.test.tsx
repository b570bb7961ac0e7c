// @vitest-environment jsdom
// The load of the year and the year itself as they are shown; patterns as they are applied and followed.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { listAgreementTypes } from '#api/agreements/index.ts';
import { moveVisits, readLevelling, readLoad } from '#api/load.ts';
import {
  applyPattern,
  followPattern,
  listPatterns,
  readCandidates,
  readFollowers,
  removePattern,
} from '#api/patterns.ts';
import { readReference } from '#api/setup.ts';
import { addFeed, listFeeds, readYear, revokeFeed } from '#api/year.ts';
import { levelled } from '#core/upkeep/index.ts';
import { testHouse, type TestHouse } from '../shell/testing.tsx';
import { LoadRoom } from './load/load.tsx';
import type { LevelAsk } from './load/level.worker.ts';
import { Patterns } from './patterns/patterns.tsx';
import { YearRoom } from './year/year.tsx';

const empty = (): number[] => Array.from({ length: 52 }, () => 0);
const crowded = empty().map((_, i) => (i === 2 ? 1200 : 0));
const LOAD = {
  from: '2026-11-23',
  rows: [
    {
      ...{ depot: { id: 1, name: 'Ribeira' }, skill: { id: 2, name: 'Electrical' }, capacity: 600 },
      ...{ planned: crowded, raised: empty() },
    },
  ],
};
const VISITS = Array.from({ length: 10 }, (_, i) => ({
  ...{ scheduleId: i + 1, nominal: '2026-12-08', part: 1, tag: `Q010${i}`, customer: 'Alvorim', jobPlan: 'Care' },
  ...{ planned: '2026-12-08', minutes: 120, group: 0, depotId: 1, skillId: 2, depot: 0, site: null },
  ...{ from: '2026-12-01', days: '1111100111110011111' },
}));
const LEVELLING = {
  ...{ from: '2026-11-23', visits: VISITS, sites: [], groups: 1, fixed: [] },
  depots: [{ name: 'Ribeira', position: null }],
};
const REFERENCE = {
  ...{ today: '2026-11-24', zone: 'Europe/Lisbon', calendars: [], serviceLevels: [], jobPlans: [], classes: [] },
  ...{
    depots: [{ id: 1, name: 'Ribeira' }],
    skills: [],
    technicians: [],
    managers: [],
    people: [],
    priorities: ['down', 'poor', 'can wait', 'any time'],
  },
};

/** The worker's work in the page: jsdom has no workers. */
class WorkerHere {
  onmessage: ((event: { data: unknown }) => void) | null = null;
  postMessage({ problem, seed }: LevelAsk): void {
    queueMicrotask(() => this.onmessage?.({ data: { levelled: levelled(problem, seed) } }));
  }
  terminate(): void {
    this.onmessage = null;
  }
}

let house: TestHouse;
beforeEach(() => {
  vi.stubGlobal('Worker', WorkerHere);
  house = testHouse(Date.UTC(2026, 10, 24, 9, 20));
  house.answer(readReference, () => REFERENCE);
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});
const press = (name: string | RegExp): HTMLElement => screen.getByRole('button', { name });

describe('the load', () => {
  it('says of each depot and skill what there is, the fullest week and how many are over', async () => {
    house.answer(readLoad, () => LOAD);
    house.open(<LoadRoom />);
    expect(
      await screen.findByRole('img', { name: /^Ribeira · Electrical: 10 h a week; fullest 20 h, 7 Dec; 1 week over/ }),
    ).toBeDefined();
  });

  it('is evened out: what is proposed is what core works out, and only what is ticked is moved', async () => {
    house.answer(readLoad, () => LOAD);
    house.answer(readLevelling, () => LEVELLING);
    house.answer(moveVisits, () => ({
      moved: 5,
      left: [{ scheduleId: 3, nominal: '2026-12-08', reason: 'it is raised' }],
    }));
    const { user } = house.open(<LoadRoom />);
    await user.click(await screen.findByRole('button', { name: 'Even out' }));
    expect(await screen.findByRole('heading', { name: 'Evened out' })).toBeDefined();
    const rows = screen.getAllByRole('checkbox', { name: /^Tick Q/ });
    // Twenty hours over three weeks: at least two thirds of the visits find another week or stay.
    expect(rows.length).toBeGreaterThanOrEqual(5);
    expect(
      within(screen.getByRole('row', { name: /^Fullest week/ })).getByText(
        /no plan inside the windows gets below 6.7 h/,
      ),
    ).toBeDefined();
    await user.click(rows[0] as HTMLElement);
    await user.click(press(`Move ${rows.length - 1} visits`));
    await waitFor(() => expect(house.told).toHaveLength(1));
    const { moves } = house.told[0]?.body as { moves: { was: string; to: string }[] };
    expect(moves).toHaveLength(rows.length - 1);
    expect(moves.every((m) => m.was === '2026-12-08' && m.to !== m.was)).toBe(true);
    expect((await screen.findByRole('status')).textContent).toBe('5 visits moved. 1 visit stayed: it is raised.');
  });
});

describe('the year', () => {
  const visit = (planned: string, state: string, orderId: number | null = null) => ({
    ...{ planned, state, orderId, windowFrom: planned, windowTo: planned },
  });
  it('stands in a table by place, a feed is told once and taken back', async () => {
    const row = { scheduleId: 1, assetId: 9, tag: 'Q0107', model: 'ULF-720', agreement: 'AG-1', jobPlan: 'Care' };
    house.answer(readYear, () => ({
      ...{ title: 'Alvorim', year: 2026, today: '2026-11-24', visits: 2 },
      prices: [{ currency: 'EUR', minor: 29_000 }],
      rows: [
        { ...row, place: 'Floor 0', visits: [visit('2026-03-03', 'in window', 5), visit('2026-12-08', 'to come')] },
      ],
    }));
    house.answer(listFeeds, () => ({
      items: [{ id: 4, kind: 'place', of: { id: 3, name: 'Floor 0' }, by: 'Inês', at: 0, readAt: null, works: true }],
    }));
    house.answer(addFeed, () => ({ id: 5, path: '/api/calendar/abc.ics' }));
    house.answer(revokeFeed, () => ({ done: true }));
    const { user } = house.open(<YearRoom />, '?place=3&year=2026');
    const table = await screen.findByRole('table', { name: 'Visits of Alvorim in 2026' });
    expect(screen.getByText('2 visits, EUR 290.00 by the visit')).toBeDefined();
    expect(within(table).getByRole('rowheader', { name: 'Floor 0' })).toBeDefined();
    expect(within(table).getByTitle(/^Tue 8 Dec 2026: to come/).textContent).toContain('8');
    await user.selectOptions(screen.getByLabelText('Visits of'), 'this place');
    await user.click(press('Make an address'));
    await waitFor(() => expect(house.told[0]?.body).toMatchObject({ kind: 'place', of: 3 }));
    expect(await screen.findByText(/\/api\/calendar\/abc\.ics$/)).toBeDefined();
    await user.click(press('Revoke the address of Floor 0'));
    await waitFor(() => expect(house.told).toHaveLength(2));
  });
});

describe('patterns', () => {
  const PATTERN = {
    ...{
      id: 2,
      version: 3,
      class: null,
      sentence: 'Every week on Wednesday',
      jobPlan: 'Care',
      schedules: 3,
      following: 1,
    },
    pattern: { name: 'Weekly', classId: null },
  };
  beforeEach(() => {
    house.answer(listPatterns, () => ({ items: [PATTERN] }));
    house.answer(listAgreementTypes, () => ({ items: [] }));
    house.answer(removePattern, () => ({ done: true }));
  });

  it('are applied to the agreements that are ticked, with the number of machines on the button', async () => {
    const candidate = { agreementId: 7, number: 'AG-7', customer: 'Alvorim', stage: 'in force', machines: 4 };
    house.answer(readCandidates, () => ({ items: [candidate, { ...candidate, agreementId: 8, number: 'AG-8' }] }));
    house.answer(applyPattern, () => ({ added: 4 }));
    const { user } = house.open(<Patterns />);
    await user.click(await screen.findByRole('button', { name: 'apply…' }));
    await user.click(await screen.findByRole('checkbox', { name: 'Tick AG-8' }));
    await user.click(press('Make 4 schedules'));
    await waitFor(() => expect(house.told[0]?.body).toEqual({ agreementIds: [8] }));
    expect((await screen.findByRole('status')).textContent).toBe('4 schedules made from Weekly.');
  });

  it('are followed by the schedules that are ticked, seen before and after; what schedules are made from is not offered to go', async () => {
    const follower = { scheduleId: 11, tag: 'Q0111', customer: 'Alvorim', agreement: 'AG-7', from: '2026-12-02' };
    house.answer(readFollowers, () => ({
      items: [{ ...follower, before: ['2026-12-08'], after: ['2026-12-02', '2026-12-09', '2026-12-16', '2026-12-23'] }],
      next: null,
      total: 2,
    }));
    house.answer(followPattern, () => ({ followed: 1 }));
    const { user } = house.open(<Patterns />);
    await user.click(await screen.findByRole('button', { name: 'let follow…' }));
    expect(screen.queryByRole('button', { name: 'remove' })).toBeNull();
    expect(await screen.findByText('4 in a year: 2 Dec, 9 Dec, 16 Dec …')).toBeDefined();
    await user.click(screen.getByRole('checkbox', { name: 'Tick Q0111' }));
    await user.click(press('Let 1 schedule follow'));
    await waitFor(() => expect(house.told[0]?.body).toEqual({ version: 3, from: '2026-11-24', scheduleIds: [11] }));
    expect((await screen.findByRole('status')).textContent).toBe('1 schedule follows Weekly.');
  });
});
