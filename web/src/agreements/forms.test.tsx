// @vitest-environment jsdom
// The forms of agreements: what travels is what was typed and nothing else, and refusals come back to their places.
import { cleanup, screen, waitFor } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import {
  changeAgreement,
  listAgreements,
  moveStage,
  writeAgreement,
  addIndexValue,
  changeAdministration,
} from '#api/agreements/index.ts';
import { listCustomers, readCustomer } from '#api/customers.ts';
import { readTree } from '#api/places.ts';
import { readReference } from '#api/setup.ts';
import * as contracts from '#api/agreements/index.ts';
import { type LocalDate } from '#core/time/index.ts';
import { type TestHouse, dialogClosed, refusal, testHouse } from '../shell/testing.tsx';
import { Amend } from './amend.tsx';
import { EditAdministration } from './administration.tsx';
import { AddCoverage, ChangeCoverage } from './coverage-form.tsx';
import { EditHeader } from './header-form.tsx';
import { Price } from './price.tsx';
import { RenewalsPage } from './renewals.tsx';
import { Rights } from './rights.tsx';
import { MoveStage } from './stage-moves.tsx';
import { NEW_TERMS } from './terms-fields.tsx';
import { WriteAgreement } from './write.tsx';
import { CUSTOMER, NOW, PAGE, REFERENCE } from './testing.ts';

// What stands below an amendment looks things up by itself; here only the amendment is looked at.
vi.mock('./coverage.tsx', () => ({ Coverage: () => null }));
vi.mock('./matrix.tsx', () => ({ Matrix: () => null }));

let house: TestHouse;
const onDone = vi.fn();
beforeEach(() => {
  onDone.mockClear();
  house = testHouse(NOW);
  house.answer(readReference, () => REFERENCE);
  house.answer(readCustomer, () => CUSTOMER);
});
afterEach(cleanup);

const press = (name: string | RegExp): HTMLElement => screen.getByRole('button', { name });
const field = (label: string | RegExp): HTMLInputElement => screen.getByLabelText(label);
const body = (n = 0): unknown => house.told[n]?.body;
const isDone = () => waitFor(() => expect(onDone).toHaveBeenCalledOnce());

describe('writing an agreement', () => {
  it('takes what is usual from a type, and is sent for the chosen customer', async () => {
    house.answer(listCustomers, () => ({
      items: [{ id: 2, name: 'Alvorim Hospitals', serviceAddress: null }],
      next: null,
    }));
    house.answer(listAgreements, () => ({
      items: [{ id: 4, number: 'AG-2004', name: 'Full care' }],
      next: null,
      total: 1,
      now: NOW,
    }));
    house.answer(contracts.listAgreementTypes, () => ({
      items: [
        {
          id: 8,
          version: 1,
          name: 'Checks only',
          terms: {
            ...{ months: 24, noticeDays: 60, renewalMode: 'renews by itself', renewalMonths: 24, billingPer: 'month' },
            ...{
              billingTiming: 'in arrears',
              reminder: 'Call first',
              shares: NEW_TERMS.shares,
              discounts: [],
              kinds: [],
            },
            ...{ excludedCauses: [], excludedParts: [], allowances: [] },
          },
        },
      ],
    }));
    house.answer(writeAgreement, () => ({ id: 90 }));
    const { user } = house.open(<WriteAgreement today={'2026-11-24' as LocalDate} onClose={onDone} />);
    expect(press('Write the draft')).toHaveProperty('disabled', true);
    await user.type(screen.getByRole('combobox', { name: 'Customer' }), 'alv');
    await user.click(await screen.findByRole('option', { name: /Alvorim Hospitals/ }));
    await user.selectOptions(field('Begin with'), await screen.findByRole('option', { name: 'the type Checks only' }));
    expect(field('To (empty: open-ended)').value).toBe('Thu 23 Nov 2028');
    await user.click(await screen.findByLabelText('Rui Costa'));
    await user.click(press('Write the draft'));
    expect(await screen.findByText('elsewhere')).toBeDefined();
    expect(body()).toMatchObject({
      ...{ customerId: 2, typeId: 8, copyOf: null, name: 'Checks only', from: '2026-11-24', to: '2028-11-23' },
      ...{ noticeDays: 60, renewalMode: 'renews by itself', billingPer: 'month', reminder: 'Call first' },
      ...{ number: '', priceMinor: null, contactIds: [32], indexation: null },
    });
  });
});

describe('the header of a draft', () => {
  it('is read back as it is, with an index in hundredths, and goes with the version it was read with', async () => {
    house.answer(changeAgreement, () => ({ version: 10 }));
    const { user } = house.open(<EditHeader agreement={PAGE} onClose={onDone} />);
    await user.clear(field('Price of the whole per quarter, EUR'));
    await user.type(field('Price of the whole per quarter, EUR'), '1,250.5');
    await user.click(press('Add an index value'));
    await user.clear(field('I₁'));
    await user.type(field('I₁'), '7');
    await user.click(press('Save the header'));
    await isDone();
    expect(body()).toMatchObject({
      ...{ version: 9, number: 'AG-2004', priceMinor: 125_050, to: '2026-12-31', contactIds: [31] },
      indexation: { fixedPercent: 20, base: 100_00, values: [{ from: '2026-01-01', hundredths: 7_00 }] },
    });
  });

  it('takes no amount that cannot be read', async () => {
    const { user } = house.open(<EditHeader agreement={PAGE} onClose={onDone} />);
    await user.clear(field('Price of the whole per quarter, EUR'));
    await user.type(field('Price of the whole per quarter, EUR'), 'a lot');
    await user.click(press('Save the header'));
    expect(await screen.findByText(/Write an amount such as 1,250\.00\./)).toBeDefined();
    expect(house.told).toEqual([]);
  });
});

describe('who looks after an agreement', () => {
  it('is changed with contacts and cost centre', async () => {
    house.answer(changeAdministration, () => ({ version: 10 }));
    const { user } = house.open(<EditAdministration agreement={PAGE} onClose={onDone} />);
    await user.selectOptions(field('Account manager'), await screen.findByRole('option', { name: 'Inês Teixeira' }));
    await user.click(await screen.findByLabelText('Marta Silva'));
    await user.click(screen.getByLabelText('Rui Costa'));
    await user.click(press('Save'));
    await isDone();
    expect(body()).toEqual({
      version: 9,
      managerId: 7,
      contactIds: [32],
      costCentre: 'FU-101',
      reminder: '',
      signOff: false,
    });
  });
});

describe('ending an agreement', () => {
  it('asks what becomes of open work, and why', async () => {
    house.answer(contracts.openWork, () => ({
      orders: [{ id: 3, title: 'Beeps', kind: 'repair', stage: 'raised', tag: 'Q0104' }],
      ...{ ordersTotal: 1, heldVisits: 0 },
    }));
    house.answer(moveStage, () => ({ version: 10 }));
    const { user } = house.open(<MoveStage agreement={PAGE} to="ended" onClose={onDone} />);
    await user.selectOptions(await screen.findByLabelText('What becomes of them'), 'call them all off');
    await user.click(press('End the agreement'));
    expect(await screen.findByText(/Say why\./)).toBeDefined();
    await user.type(field('Why'), 'Replaced');
    await user.click(press('End the agreement'));
    await isDone();
    expect(body()).toEqual({ version: 9, to: 'ended', openOrders: 'call off', reason: 'Replaced' });
  });
});

describe('a renewal', () => {
  beforeEach(() => {
    house.answer(contracts.listRenewals, () => ({
      items: [
        { ...(PAGE as object), mode: 'to be renegotiated', months: 12, decision: null, sentence: 'to be decided' },
      ],
      today: '2026-11-24',
    }));
    house.answer(contracts.decideRenewal, () => ({ version: 10 }));
  });
  it('is accepted with a change of price in hundredths of a percent, its amount shown before', async () => {
    const { user } = house.open(<RenewalsPage />);
    await user.click(await screen.findByRole('button', { name: 'renew' }));
    await user.clear(field('Every price changes by, %'));
    await user.type(field('Every price changes by, %'), '2.5');
    expect(screen.getByText('1,180.00 becomes EUR 1,209.50')).toBeDefined();
    await user.clear(field('For, months'));
    await user.type(field('For, months'), '24');
    await user.click(press('Renew for 24 months'));
    await dialogClosed();
    expect(body()).toEqual({ decision: 'accepted', version: 9, months: 24, priceChange: 250, reason: '' });
  });

  it('is declined with the reason only', async () => {
    const { user } = house.open(<RenewalsPage />);
    await user.click(await screen.findByRole('button', { name: 'let it end' }));
    await user.click(press('Let it end on Thu 31 Dec 2026'));
    expect(await screen.findByText(/Say why\./)).toBeDefined();
    await user.type(field('Why'), 'Closed');
    await user.click(press('Let it end on Thu 31 Dec 2026'));
    await dialogClosed();
    expect(body()).toEqual({ decision: 'declined', version: 9, reason: 'Closed' });
  });
});

describe('a new index value', () => {
  it('is kept in hundredths from its day on', async () => {
    house.answer(contracts.readPrice, () => ({ currency: 'EUR', periods: [], months: [], total: 0 }));
    house.answer(addIndexValue, () => ({ version: 10 }));
    const { user } = house.open(<Price agreement={PAGE} mayWrite />);
    await user.click(press('Record a new value'));
    await user.type(field('Holds from'), '1/1/2027');
    await user.click(press('Record the value'));
    expect(await screen.findByText(/Write a number\./)).toBeDefined();
    await user.type(field('Index, I₁'), '103.4');
    await user.click(press('Record the value'));
    await waitFor(() => expect(screen.queryByRole('form', { name: 'New index value' })).toBeNull());
    expect(body()).toEqual({ version: 9, from: '2027-01-01', hundredths: 10_340 });
  });
});

describe('counted rights', () => {
  it('are set with hours in minutes; what the server refuses stands at its row', async () => {
    house.answer(contracts.setAllowances, () => refusal('allowances.0.amount', 'Fewer than were drawn already.'));
    const { user } = house.open(<Rights agreement={PAGE} mayWrite />);
    await user.click(press('Set counted rights…'));
    await user.click(press('Add a counted right'));
    await user.selectOptions(field('Counts'), 'hours');
    await user.clear(field('Hours'));
    await user.type(field('Hours'), '1.25');
    await user.click(press('Save the counted rights'));
    expect(await screen.findByText(/Fewer than were drawn already\./)).toBeDefined();
    expect(field('Hours').value).toBe('1.25');
    expect(body()).toEqual({
      version: 9,
      allowances: [{ unit: 'hours', amount: 75, period: 'agreement year', carriesOver: false }],
    });
  });
});

describe('coverage', () => {
  const apply = vi.fn();
  beforeEach(() => {
    apply.mockReset().mockResolvedValue({ data: true });
    house.answer(readTree, () => ({
      customer: { id: 2, name: 'Alvorim Hospitals' },
      nodes: [{ id: 41, name: 'Norvela', parentId: null, assets: 3, retiredOn: null }],
      withoutPlace: 0,
    }));
  });

  it('is added for the first place as it is offered', async () => {
    const { user } = house.open(<AddCoverage agreement={PAGE} apply={apply} onDone={onDone} />);
    expect((await screen.findByRole<HTMLInputElement>('combobox', { name: 'Location' })).value).toBe('Norvela');
    await user.selectOptions(field('Service level'), await screen.findByRole('option', { name: 'Cold storage' }));
    await user.type(field(/Parts left out/), 'gaskets, UV lamp');
    await user.click(press('Add the coverage'));
    await isDone();
    expect(apply).toHaveBeenCalledExactlyOnceWith({
      act: 'add',
      reach: { kind: 'location', locationId: 41 },
      terms: { ...NEW_TERMS, serviceLevelId: 6, excludedParts: ['gaskets', 'UV lamp'] },
      alongside: false,
    });
  });

  it('names the same machine twice only when that is said to be meant', async () => {
    apply.mockResolvedValueOnce({ error: refusal('changes.0.alongside', 'AG-2004 covers Norvela already.').problem });
    const { user } = house.open(<AddCoverage agreement={PAGE} apply={apply} onDone={onDone} />);
    await user.click(await screen.findByRole('button', { name: 'Add the coverage' }));
    expect(await screen.findByText(/AG-2004 covers Norvela already\./)).toBeDefined();
    await user.click(screen.getByLabelText('Both lines are meant to stand'));
    await user.click(press('Add the coverage'));
    await isDone();
    expect(apply).toHaveBeenLastCalledWith(expect.objectContaining({ alongside: true }));
  });

  it('of picked assets needs one', async () => {
    const { user } = house.open(<AddCoverage agreement={PAGE} apply={apply} onDone={onDone} />);
    await user.selectOptions(await screen.findByLabelText('Covers'), 'picked assets');
    await user.click(press('Add the coverage'));
    expect(await screen.findByText(/Pick at least one asset\./)).toBeDefined();
    expect(apply).not.toHaveBeenCalled();
  });

  it('of many lines is changed alike and leaves each its own dates; of one with them', async () => {
    const { user } = house.open(<ChangeCoverage agreement={PAGE} lineIds={[51, 52]} apply={apply} onDone={onDone} />);
    await user.clear(field('Travel we bear, %'));
    await user.type(field('Travel we bear, %'), '50');
    await user.click(press('Change 2 lines'));
    await isDone();
    const same: Partial<typeof NEW_TERMS> = { ...NEW_TERMS };
    delete same.from;
    delete same.to;
    expect(apply).toHaveBeenCalledExactlyOnceWith({
      act: 'change',
      lineIds: [51, 52],
      terms: { ...same, shares: { ...NEW_TERMS.shares, travel: 50 } },
    });
    cleanup();
    apply.mockClear();
    const { user: again } = house.open(
      <ChangeCoverage agreement={PAGE} lineIds={[51]} apply={apply} onDone={onDone} />,
    );
    await again.click(press('Change 1 line'));
    await waitFor(() => expect(apply).toHaveBeenCalledOnce());
    expect(apply.mock.calls[0]?.[0]).toMatchObject({ terms: { from: '2026-02-01', to: null } });
  });
});

describe('an amendment', () => {
  beforeEach(() => {
    house.answer(contracts.previewAmendment, ({ body: asked }) =>
      (asked as { from: string }).from < '2026-11-01'
        ? refusal('from', 'That day is billed already.')
        : { warnings: ['Notice has passed.'], comparison: { header: [], lines: [] }, covers: [], coversTotal: 0 },
    );
    house.answer(contracts.amend, () => ({ version: 10 }));
  });

  it('sends only what changes, after its effect was shown', async () => {
    const { user } = house.open(<Amend agreement={PAGE} onDone={onDone} />);
    expect(press('Amend from Wed 25 Nov 2026')).toHaveProperty('disabled', true);
    await user.clear(field('Notice, days before the end'));
    await user.type(field('Notice, days before the end'), '60');
    expect(await screen.findByText('⚠ Notice has passed.')).toBeDefined();
    await user.click(press('Amend from Wed 25 Nov 2026'));
    expect(await screen.findByText(/Say what is amended and why\./)).toBeDefined();
    await user.type(field('What is amended and why'), 'Shorter notice');
    await waitFor(() => expect(press('Amend from Wed 25 Nov 2026')).toHaveProperty('disabled', false));
    await user.click(press('Amend from Wed 25 Nov 2026'));
    await isDone();
    expect(house.told.filter((t) => t.path.endsWith('/amendments')).map((t) => t.body)).toEqual([
      { version: 9, from: '2026-11-25', reason: 'Shorter notice', changes: [], noticeDays: 60 },
    ]);
  });

  it('says at its day why it cannot hold from then', async () => {
    const { user } = house.open(<Amend agreement={PAGE} onDone={onDone} />);
    await user.clear(field('Holds from'));
    await user.type(field('Holds from'), '1/10/2026');
    await user.clear(field('Renewed for, months'));
    await user.type(field('Renewed for, months'), '24');
    expect(await screen.findByText(/That day is billed already\./)).toBeDefined();
    expect(press('Amend from Thu 1 Oct 2026')).toHaveProperty('disabled', true);
    await user.clear(field('Holds from'));
    await user.type(field('Holds from'), '1/12/2026');
    await waitFor(() => expect(press('Amend from Tue 1 Dec 2026')).toHaveProperty('disabled', false));
    expect(screen.queryByText(/That day is billed already\./)).toBeNull();
  });
});
