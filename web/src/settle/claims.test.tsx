// @vitest-environment jsdom
// Claims to makers on screen: sent with what is missing said, answered line by line, closed by what came in.
import { cleanup, screen, waitFor } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { answerClaim, closeClaim, listClaims, readClaim, sendClaim } from '#api/claims.ts';
import { type TestHouse, dialogClosed, refusal, testHouse } from '../shell/testing.tsx';
import { OneClaim } from './claim.tsx';
import { ClaimsRoom } from './claims.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20, 30);
let house: TestHouse;
beforeEach(() => {
  house = testHouse(NOW, 'manager');
});
afterEach(cleanup);

const ROW = {
  ...{ id: 7, state: 'to send' as const, maker: 'Halvane', customer: { id: 3, name: 'Ostra Diagnostics' } },
  ...{ order: { id: 436, title: 'Display dark' }, doneOn: '2026-10-30', currency: 'EUR', asked: 210_00 },
  ...{ accepted: null, by: '2026-11-20', sentOn: null },
};
const line = (chargeId: number, asked: number, text: string) => ({
  ...{ chargeId, element: 'parts' as const, text, borne: asked, asked, accepted: null, why: '' },
  machine: { id: 9, tag: 'Q0329', model: 'VR-180', serial: 'VR180-Q1329' },
});
const page = (over: object = {}): object => ({
  ...ROW,
  ...{ version: 4, theirNumber: '', lines: [line(1, 178_00, 'Power supply'), line(2, 32_00, 'Fuse')] },
  ...{ terms: { mail: '', days: 60, version: 1 }, gaps: ['there is no photo'], because: ['Warranty to 27 Sep 2028'] },
  ...{ photos: [], reports: [{ id: 5, name: 'WO-10436 report.pdf' }], hasPaper: false, steps: [], payments: [] },
  ...over,
});
const open = (over: object = {}) => {
  house.answer(readClaim, () => page(over));
  return house.open(<OneClaim id="7" />);
};

describe('claims', () => {
  it('are listed by stage, with those whose time has run out named as such', async () => {
    const asked: unknown[] = [];
    house.answer(listClaims, (told) => {
      asked.push(told);
      return {
        ...{ items: [ROW], next: null, counts: { 'to send': 1, sent: 0, answered: 2 } },
        sums: [{ currency: 'EUR', asked: 210_00, accepted: 0 }],
      };
    });
    const { user } = house.open(<ClaimsRoom />);
    expect(await screen.findByText('✕ Fri 20 Nov 2026')).toBeDefined();
    expect(screen.getByText(/Together EUR 210.00 asked/)).toBeDefined();
    await user.click(screen.getByRole('button', { name: 'Answered, to be paid: 2' }));
    await waitFor(() => expect(asked.length).toBe(2));
  });

  it('are sent although something is missing, which is said; where no address is known, otherwise', async () => {
    const { user } = open();
    let tries = 0;
    house.answer(sendClaim, () =>
      (tries += 1) === 1 ? refusal('text', 'Say where it was handed in.') : { done: true },
    );
    await user.click(await screen.findByRole('button', { name: 'Send it…' }));
    expect(screen.getByText(/Missing: there is no photo\. It may be sent/)).toBeDefined();
    await user.click(screen.getByRole('button', { name: 'It was handed in' }));
    expect(await screen.findByText(/Say where it was handed in/)).toBeDefined();
    await user.type(screen.getByLabelText('Where, and under what number'), 'their page, 4711');
    await user.click(screen.getByRole('button', { name: 'It was handed in' }));
    await dialogClosed();
    expect(house.told[1]?.body).toEqual({ version: 4, way: 'otherwise', text: 'their page, 4711' });
  });

  it('are answered line by line; a reason that is missing is asked for at its line, and nothing typed is lost', async () => {
    const { user } = open({ state: 'sent' });
    let tries = 0;
    house.answer(answerClaim, () =>
      (tries += 1) === 1 ? refusal('lines.1.why', 'Say why they accept less.') : { done: true },
    );
    await user.click(await screen.findByRole('button', { name: 'What they answer…' }));
    const [, second] = screen.getAllByLabelText('Accepted, EUR');
    await user.clear(second as HTMLElement);
    await user.type(second as HTMLElement, '0');
    await user.click(screen.getByRole('button', { name: 'Keep their answer' }));
    expect(await screen.findByText(/Say why they accept less/)).toBeDefined();
    await user.type(screen.getAllByLabelText('Why less')[1] as HTMLElement, 'a wear part');
    await user.click(screen.getByRole('button', { name: 'Keep their answer' }));
    await dialogClosed();
    expect(house.told[1]?.body).toEqual({
      ...{ version: 4, theirNumber: '' },
      lines: [
        { chargeId: 1, minor: 178_00, why: '' },
        { chargeId: 2, minor: 0, why: 'a wear part' },
      ],
    });
  });

  it('are closed by a payment that somebody chose; none of another amount is chosen beforehand', async () => {
    const payment = { id: 31, bookedOn: '2026-11-20', payer: 'Halvane Works', text: '', left: 500_00 };
    const { user } = open({ state: 'answered', accepted: 178_00, payments: [payment] });
    house.answer(closeClaim, () => ({ done: true }));
    await user.click(await screen.findByRole('button', { name: 'What came in…' }));
    await user.selectOptions(screen.getByLabelText('By'), 'a payment that came in');
    const which = screen.getByLabelText<HTMLSelectElement>('Which');
    expect(which.selectedOptions[0]?.text).toBe('choose one');
    await user.selectOptions(which, 'Fri 20 Nov 2026, EUR 500.00, Halvane Works');
    await user.click(screen.getByRole('button', { name: 'Close the claim' }));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(house.told[0]?.body).toEqual({
      ...{ version: 4, way: 'payment', minor: 178_00, because: '', theirNumber: '', incomingId: 31 },
    });
  });
});
