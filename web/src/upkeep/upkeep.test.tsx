// @vitest-environment jsdom
// The upkeep run: what is ticked is what is raised, held or let go, and everything that yields nothing is named.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { commitRun, holdVisits, previewRun, releaseVisits, type Proposal } from '#api/upkeep.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { UpkeepRoom } from './upkeep.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const visit = (scheduleId: number, over: Partial<Proposal> = {}): Proposal =>
  ({
    ...{ scheduleId, nominal: '2026-11-30', due: '2026-11-30', windowFrom: '2026-11-25', windowTo: '2026-12-05' },
    ...{ raise: '2026-11-16', assetId: scheduleId, tag: `Q0${scheduleId}`, model: 'STC-150', customer: 'Alvorim' },
    ...{ place: 'Norvela', agreementId: 4, agreement: 'AG-2004', jobPlan: 'Yearly care', minutes: 90, rule: '' },
    ...{ state: 'proposed', holdReason: null, remark: null, beyond: null, reminder: '' },
    ...over,
  }) as Proposal;
const RUN = {
  ...{ today: '2026-11-24', to: '2026-11-24' },
  proposals: [
    visit(101, { reminder: 'Call first' }),
    visit(102, { beyond: '6th of 5: chargeable' }),
    visit(103, { state: 'held', holdReason: 'Site closed' }),
  ],
  nothing: [
    {
      ...{ scheduleId: 9, agreementId: 4, agreement: 'AG-2004', assetId: 9, tag: 'Q0900', model: 'CTL-1' },
      ...{ customer: 'Alvorim', jobPlan: 'Controller check', kind: 'needs action', code: 'zero duration' },
      reason: 'The estimated duration is zero; give the job plan or the schedule a duration.',
    },
  ],
  counts: { schedules: 4, proposed: 2, held: 1, beyond: 1, needsAction: 1, waits: 0 },
};

let house: TestHouse;
beforeEach(() => {
  house = testHouse(NOW);
  house.answer(previewRun, () => RUN);
});
afterEach(cleanup);
const press = (name: string | RegExp): HTMLElement => screen.getByRole('button', { name });
const tick = (tag: string): Promise<HTMLElement> => screen.findByRole('checkbox', { name: new RegExp(`^Tick ${tag}`) });

describe('the run', () => {
  it('names every schedule that yields nothing, with what to do about it', async () => {
    house.open(<UpkeepRoom />);
    expect(
      await screen.findByRole('heading', { name: 'Schedules that yield nothing and need action: 1' }),
    ).toBeDefined();
    const row = screen.getByRole('row', { name: /Q0900/ });
    expect(within(row).getByText(/give the job plan or the schedule a duration/)).toBeDefined();
  });

  it('raises all of it when nothing is ticked, after saying what that is', async () => {
    house.answer(commitRun, () => ({ raised: 2, alreadyRaised: 0, held: 1 }));
    const { user } = house.open(<UpkeepRoom />);
    await user.click(await screen.findByRole('button', { name: 'Raise 2 visits…' }));
    const dialog = within(screen.getByRole('dialog'));
    expect(dialog.getByText(/1 of them beyond the counted right: chargeable/)).toBeDefined();
    expect(dialog.getByText(/1 visit held back, not raised/)).toBeDefined();
    expect(dialog.getByText(/Call first/)).toBeDefined();
    await user.click(dialog.getByRole('button', { name: 'Raise 2 visits' }));
    expect((await screen.findByRole('status')).textContent).toContain('2 visits raised as work orders; 1 held back.');
    expect(house.told.map((t) => t.body)).toEqual([{ to: '2026-11-24', only: null }]);
  });

  it('raises only what is ticked, and says so on the button', async () => {
    house.answer(commitRun, () => ({ raised: 1, alreadyRaised: 0, held: 0 }));
    const { user } = house.open(<UpkeepRoom />);
    await user.click(await tick('Q0102'));
    await user.click(press('Raise 1 ticked visit…'));
    await user.click(press('Raise 1 visit'));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(house.told[0]?.body).toEqual({ to: '2026-11-24', only: [{ scheduleId: 102, nominal: '2026-11-30' }] });
  });

  it('says what somebody else raised meanwhile, and what is refused keeps the dialog', async () => {
    house.answer(commitRun, () => refusal(null, 'The run is under way on another screen.'));
    const { user } = house.open(<UpkeepRoom />);
    await user.click(await screen.findByRole('button', { name: 'Raise 2 visits…' }));
    await user.click(press('Raise 2 visits'));
    expect((await screen.findByRole('alert')).textContent).toContain('The run is under way on another screen.');
    house.answer(commitRun, () => ({ raised: 1, alreadyRaised: 1, held: 1 }));
    await user.click(press('Raise 2 visits'));
    expect((await screen.findByRole('status')).textContent).toContain(
      '1 visit raised as work orders; 1 had been raised already',
    );
  });

  it('holds back what is ticked with a reason, and lets go on only what is held', async () => {
    house.answer(holdVisits, () => ({ held: 1 }));
    house.answer(releaseVisits, () => ({ released: 1 }));
    const { user } = house.open(<UpkeepRoom />);
    await user.click(await tick('Q0101'));
    expect(press('Let go on')).toHaveProperty('disabled', true);
    await user.click(press('Hold back…'));
    await user.click(press('Hold 1 visit'));
    expect(await screen.findByText(/Say why the visit is held back\./)).toBeDefined();
    await user.type(screen.getByLabelText('Why'), 'Part has not come in');
    await user.click(press('Hold 1 visit'));
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
    expect(house.told[0]?.body).toEqual({
      ...{ visits: [{ scheduleId: 101, nominal: '2026-11-30' }], to: '2026-11-24', reason: 'Part has not come in' },
    });
    await user.click(await tick('Q0103'));
    await user.click(press('Let go on'));
    await waitFor(() => expect(house.told).toHaveLength(2));
    expect(house.told[1]?.body).toEqual({ visits: [{ scheduleId: 103, nominal: '2026-11-30' }] });
  });
});
