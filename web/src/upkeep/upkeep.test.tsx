// @vitest-environment jsdom
// The upkeep run: what is ticked is what is raised, held or let go, and everything that yields nothing is named.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { listAgreements } from '#api/agreements/agreements.ts';
import { readCustomer } from '#api/customers.ts';
import { readTree } from '#api/places.ts';
import { commitRun, decideVisits, listRuns, previewRun, readRun, releaseVisits, type Proposal } from '#api/upkeep.ts';
import { type TestHouse, dialogClosed, refusal, testHouse } from '../shell/testing.tsx';
import { UpkeepRoom } from './upkeep.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const visit = (scheduleId: number, over: Partial<Proposal> = {}): Proposal =>
  ({
    ...{ scheduleId, nominal: '2026-11-30', part: 1, due: '2026-11-30', planned: '2026-11-30' },
    ...{ windowFrom: '2026-11-25', windowTo: '2026-12-05', raise: '2026-11-16', changed: null },
    ...{ assetId: scheduleId, tag: `Q0${scheduleId}`, model: 'STC-150', customer: 'Alvorim', place: 'Norvela' },
    ...{ agreementId: 4, agreement: 'AG-2004', jobPlan: 'Yearly care', minutes: 90, crew: 1, rule: '' },
    ...{ standing: 'ready', state: 'proposed', accepted: false, holdReason: null, holdUntil: null },
    ...{ exceptions: [], openOrderId: null, reminder: '', joins: 0 },
    ...over,
  }) as unknown as Proposal;
const beyond = { code: 'beyond right', level: 'tells', text: '6th of 5: chargeable' } as const;
const terms = { code: 'over terms', level: 'asks', text: 'the customer is over their credit terms' } as const;
const RUN = {
  ...{ today: '2026-11-24', to: '2026-11-24', seen: 7, next: null },
  proposals: [
    visit(101, { reminder: 'Call first' }),
    visit(102, { exceptions: [beyond] }),
    visit(103, { standing: 'held', state: 'held', holdReason: 'Site closed' }),
    visit(104, { standing: 'to decide', exceptions: [terms] }),
  ],
  moved: [],
  nothing: [
    {
      ...{ scheduleId: 9, agreementId: 4, agreement: 'AG-2004', assetId: 9, tag: 'Q0900', model: 'CTL-1' },
      ...{ customer: 'Alvorim', jobPlan: 'Controller check', kind: 'needs action', code: 'zero duration', isNew: true },
      reason: 'The estimated duration is zero; give the job plan or the schedule a duration.',
    },
  ],
  counts: {
    ...{ schedules: 5, proposed: 3, ready: 2, toDecide: 1, held: 1, needsAction: 1, waits: 0 },
    exceptions: [
      { code: 'over terms', level: 'asks', count: 1 },
      { code: 'beyond right', level: 'tells', count: 1 },
    ],
  },
};
const ran = (over: object = {}) => ({
  ...{ id: 5, at: NOW, who: 'Inês', to: '2026-11-24', scope: 'everything', state: 'done', wanted: 2, raised: 2 },
  ...{ leftCount: 0, left: [], firstOrderId: 900 },
  ...over,
});

let house: TestHouse;
beforeEach(() => {
  house = testHouse(NOW);
  house.answer(previewRun, () => RUN);
  house.answer(listRuns, () => ({ items: [] }));
  house.answer(readRun, () => ran());
});
afterEach(cleanup);
const press = (name: string | RegExp): HTMLElement => screen.getByRole('button', { name });
const tick = (tag: string): Promise<HTMLElement> => screen.findByRole('checkbox', { name: new RegExp(`^Tick ${tag}`) });

describe('what a run looks at', () => {
  it('is a customer, one of their agreements and places, a month; another customer lifts those', async () => {
    const asked: string[] = [];
    house.answer(previewRun, ({ query }) => {
      asked.push(query.toString());
      return RUN;
    });
    house.answer(readCustomer, ({ path }) => ({ id: 2, name: path.endsWith('/2') ? 'Alvorim' : 'Brizal' }));
    house.answer(listAgreements, () => ({
      items: [
        { id: 4, number: 'AG-2004', name: 'Care', stage: 'in force' },
        { id: 5, number: 'AG-1990', name: 'Old', stage: 'ended' },
      ],
    }));
    house.answer(readTree, () => ({ nodes: [{ id: 19, parentId: null, name: 'Molinho', retiredOn: null }] }));
    const { user } = house.open(<UpkeepRoom />, '?customer=2');
    const agreements = await screen.findByLabelText('Agreement');
    await waitFor(() => expect(within(agreements).getAllByRole('option')).toHaveLength(2));
    await user.selectOptions(agreements, '4');
    await user.selectOptions(screen.getByLabelText('Planned for'), '2027-01');
    await waitFor(() => expect(asked.at(-1)).toMatch(/customer=2&agreement=4&month=2027-01/));
    await user.selectOptions(screen.getByLabelText('Planned for'), '');
    await user.click(screen.getByRole('button', { name: 'Customer: every customer' }));
    await waitFor(() => expect(asked.at(-1)).not.toMatch(/customer|agreement|month/));
    expect(screen.queryByLabelText('Agreement')).toBeNull();
  });
});

describe('the run', () => {
  it('says which visits make one order', async () => {
    house.answer(previewRun, () => ({ ...RUN, proposals: [visit(101, { joins: 5 }), visit(102, { joins: 1 })] }));
    house.open(<UpkeepRoom />);
    expect(await screen.findByText('one order with 5 other visits')).toBeDefined();
    expect(screen.getByText('one order with 1 other visit')).toBeDefined();
  });

  it('names every schedule that yields nothing, with what to do about it', async () => {
    house.open(<UpkeepRoom />);
    expect(
      await screen.findByRole('heading', { name: 'Schedules that yield nothing and need action: 1' }),
    ).toBeDefined();
    const row = screen.getByRole('row', { name: /Q0900/ });
    expect(within(row).getByText(/give the job plan or the schedule a duration/)).toBeDefined();
  });

  it('raises what is ready when nothing is ticked, after saying what that is and what is left', async () => {
    house.answer(commitRun, () => ran());
    house.answer(readRun, () => ran({ leftCount: 1 }));
    const { user } = house.open(<UpkeepRoom />);
    await user.click(await screen.findByRole('button', { name: 'Raise 2 visits…' }));
    const dialog = within(screen.getByRole('dialog'));
    expect(dialog.getByText(/1 of them beyond the counted right: chargeable/)).toBeDefined();
    expect(dialog.getByText(/1 visit wait for a decision and are left/)).toBeDefined();
    expect(dialog.getByText(/1 visit held back, not raised/)).toBeDefined();
    expect(dialog.getByText(/Call first/)).toBeDefined();
    await user.click(dialog.getByRole('button', { name: 'Raise 2 visits' }));
    expect((await screen.findByRole('status')).textContent).toContain(
      '2 visits raised as work orders; 1 visit left alone.',
    );
    expect(house.told.map((t) => t.body)).toEqual([{ to: '2026-11-24', scope: {}, only: null, seen: 7 }]);
  });

  it('raises only what is ticked, and says so on the button', async () => {
    house.answer(commitRun, () => ran({ raised: 1 }));
    const { user } = house.open(<UpkeepRoom />);
    await user.click(await tick('Q0102'));
    await user.click(press('Raise 1 ticked visit…'));
    await user.click(press('Raise 1 visit'));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(house.told[0]?.body).toMatchObject({ only: [{ scheduleId: 102, nominal: '2026-11-30', part: 1 }] });
  });

  it('follows a long run, and what is refused keeps the dialog', async () => {
    house.answer(commitRun, () => refusal(null, 'A run looks at most 400 days ahead.'));
    const { user } = house.open(<UpkeepRoom />);
    await user.click(await screen.findByRole('button', { name: 'Raise 2 visits…' }));
    await user.click(press('Raise 2 visits'));
    expect((await screen.findByRole('alert')).textContent).toContain('A run looks at most 400 days ahead.');
    house.answer(commitRun, () => ran({ state: 'raising', raised: 1 }));
    house.answer(readRun, () => ran({ state: 'raising', raised: 1 }));
    await user.click(press('Raise 2 visits'));
    expect((await screen.findByRole('status')).textContent).toContain('Raising: 1 of 2 visits so far');
    expect(screen.getByRole('progressbar')).toHaveProperty('value', 1);
  });

  it('shows what speaks against a visit, and lets it go on with a reason; ready ones are not asked about', async () => {
    house.answer(decideVisits, () => ({ decided: 1 }));
    const { user } = house.open(<UpkeepRoom />);
    expect((await screen.findByRole('row', { name: /Q0104/ })).textContent).toContain('? the customer is over');
    await user.click(await tick('Q0101'));
    expect(press('Let go on…')).toHaveProperty('disabled', true);
    await user.click(await tick('Q0104'));
    await user.click(press('Let go on…'));
    await user.type(screen.getByLabelText('Why'), 'paid by phone');
    await user.click(press('Let 1 visit go on'));
    await dialogClosed();
    expect(house.told[0]?.body).toEqual({
      ...{ visits: [{ scheduleId: 104, nominal: '2026-11-30', part: 1 }], to: '2026-11-24' },
      decision: { kind: 'accepted', reason: 'paid by phone' },
    });
  });

  it('is decided on by keys: j and k walk, Enter ticks, h holds back; nothing ticked, nothing asked', async () => {
    const { user } = house.open(<UpkeepRoom />);
    await tick('Q0101');
    await user.keyboard('h');
    expect(screen.queryByRole('dialog')).toBeNull();
    await user.keyboard('j{Enter}');
    expect(screen.getByText('1 ticked: h holds back, d declines, l lets go on')).toBeDefined();
    await user.keyboard('d');
    expect(within(screen.getByRole('dialog')).getByRole('button', { name: /^Decline/ })).toBeDefined();
  });

  it('holds back what is ticked with a reason and a day, and takes back only what was decided', async () => {
    house.answer(decideVisits, () => ({ decided: 1 }));
    house.answer(releaseVisits, () => ({ done: true }));
    const { user } = house.open(<UpkeepRoom />);
    await user.click(await tick('Q0101'));
    expect(press('Take back')).toHaveProperty('disabled', true);
    await user.click(press('Hold back…'));
    await user.click(press('Hold 1 visit'));
    expect(await screen.findByText(/Say why the visit is held back\./)).toBeDefined();
    await user.type(screen.getByLabelText('Why'), 'Part has not come in');
    await user.click(press('Hold 1 visit'));
    await dialogClosed();
    expect(house.told[0]?.body).toEqual({
      ...{ visits: [{ scheduleId: 101, nominal: '2026-11-30', part: 1 }], to: '2026-11-24' },
      decision: { kind: 'held', reason: 'Part has not come in', until: '2026-12-01' },
    });
    await user.click(await tick('Q0103'));
    await user.click(press('Take back'));
    await waitFor(() => expect(house.told).toHaveLength(2));
    expect(house.told[1]?.body).toEqual({ visits: [{ scheduleId: 103, nominal: '2026-11-30', part: 1 }] });
  });

  it('a number lists just those, and says so where there are none', async () => {
    house.answer(previewRun, ({ query }) => ({
      ...RUN,
      proposals: query.has('exception')
        ? []
        : RUN.proposals.filter((p) => !query.has('shown') || p.standing === query.get('shown')),
    }));
    const { user } = house.open(<UpkeepRoom />);
    await screen.findByRole('row', { name: /Q0101/ });
    await user.click(press(/to decide/));
    await waitFor(() => expect(screen.queryByRole('row', { name: /Q0101/ })).toBeNull());
    expect(screen.getByRole('row', { name: /Q0104/ })).toBeDefined();
    await user.click(press(/credit terms: 1/));
    expect(await screen.findByText(/None of the 4 visits is like that/)).toBeDefined();
    await user.click(press('Show all of them'));
    expect(await screen.findByRole('row', { name: /Q0101/ })).toBeDefined();
  });
});
