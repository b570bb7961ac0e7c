// @vitest-environment jsdom
// Offers on the screen: written line by line with what they come to, changed, sent, accepted, and listed with their age.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { readCustomer } from '#api/customers.ts';
import { listFiles } from '#api/files.ts';
import { acceptOffer, addOffer, changeOffer, listOffers, proposeOffer, readOffer, sendOffer } from '#api/offers.ts';
import { readTaxes } from '#api/settle.ts';
import { readReference } from '#api/setup.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { server, store } from '../shell/store.ts';
import { OfferShown } from './offer.tsx';
import { OffersRoom } from './offers.tsx';
import { NewOffer } from './write.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20, 30);
const work = { kind: 'work', assetId: 4, text: 'Yearly service', quantity: 90, unit: 'h', price: 7200, cost: 3000 };
const line = { ...work, discount: 0, partId: null, supplier: '', taxId: null };
const row = (over: object = {}) => ({
  ...{
    id: 1,
    title: 'New gasket',
    customer: { id: 9, name: 'Pontal' },
    standing: 'sent',
    currency: 'EUR',
    orderId: null,
  },
  ...{ withoutTax: 10_800, validUntil: '2026-12-24', createdAt: NOW, sentAt: NOW - 8 * 86_400_000, age: 8, ...over },
});
const machines = [{ id: 4, tag: 'Q0215', model: 'INC-240', place: 'Wet lab' }];
const page = (over: object = {}) => ({
  ...row(),
  ...{
    version: 3,
    kind: 'repair',
    text: 'With the ladder.',
    machines,
    place: null,
    who: 'Inês',
    sentTo: 'rosa@p.example',
    overSince: null,
  },
  contact: { id: 5, name: 'Rosa Vidal', email: 'rosa@p.example' },
  lines: [{ ...line, list: 10_800, off: 0, pay: 10_800 }],
  totals: {
    ...{ list: 10_800, off: 0, cost: 4500, withoutTax: 10_800, tax: 2484, withTax: 13_284 },
    rows: [{ category: 'S', hundredths: 2300, taxable: 10_800, tax: 2484 }],
  },
  ...{ decidedAt: null, decision: null, fromOrderId: null, fromMailId: null, ...over },
});
let house: TestHouse;
beforeEach(() => {
  house = testHouse(NOW);
  house.answer(proposeOffer, () => ({
    ...{ customer: { id: 9, name: 'Pontal' }, machines, place: null, contactId: 5, title: 'Yearly service', text: '' },
    lines: [line],
    like: [{ assetId: 4, className: 'Incubator', count: 12, minutes: 100, partsCost: 4000, otherCost: 250 }],
    ...{ currency: 'EUR', orderId: null, mailId: 7 },
  }));
  house.answer(readTaxes, () => ({
    items: [{ id: 1, version: 1, name: 'Standard', category: 'S', hundredths: 2300, isStandard: true }],
  }));
  house.answer(readReference, () => ({ jobPlans: [], depots: [], technicians: [] }));
  house.answer(listFiles, () => ({ items: [] }));
  house.answer(readCustomer, () => ({
    contacts: [
      { id: 5, name: 'Rosa Vidal', email: 'rosa@p.example' },
      { id: 6, name: 'Paulo', email: null },
    ],
  }));
});
afterEach(cleanup);
const button = (name: string | RegExp) => screen.findByRole('button', { name });
const totals = () => screen.getByLabelText('What it comes to').textContent;

describe('writing an offer', () => {
  it('shows what it comes to as lines change, with what like work took beside them', async () => {
    house.answer(addOffer, () => ({ id: 11 }));
    const { user } = house.open(<NewOffer />, '?mail=7');
    expect(await screen.findByText(/took 1 h 40 min, EUR 40.00 of parts and EUR 2.50 of other costs/)).toBeDefined();
    await waitFor(() => expect(totals()).toContain('With taxEUR 132.84'));
    const first = screen.getByRole('listitem', { name: 'Line 1' });
    await user.clear(within(first).getByLabelText('Hours'));
    await user.type(within(first).getByLabelText('Hours'), '2.5');
    expect(totals()).toContain('Without taxEUR 180.00');
    await user.click(await button('A part to purchase'));
    const second = screen.getByRole('listitem', { name: 'Line 2' });
    await user.type(within(second).getByLabelText('Part to be purchased'), 'Door frame');
    await user.type(within(second).getByLabelText('Purchased from'), 'Tindrel');
    await user.clear(within(second).getByLabelText('Price of one'));
    await user.type(within(second).getByLabelText('Price of one'), '300');
    await user.clear(within(second).getByLabelText('% off'));
    await user.type(within(second).getByLabelText('% off'), '10');
    expect(totals()).toContain('Without taxEUR 450.00');
    await user.click(await button('Write the draft'));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(house.told[0]?.body).toMatchObject({
      ...{ customerId: 9, assetIds: [4], contactId: 5, mailId: 7, validUntil: '2026-12-24' },
      lines: [
        { kind: 'work', quantity: 150 },
        { kind: 'part', partId: null, supplier: 'Tindrel', price: 30_000, discount: 10, quantity: 1000 },
      ],
    });
  });

  it('says at its field what is refused, and loses nothing; a line taken away leaves the others as they were', async () => {
    house.answer(addOffer, () => refusal('lines.0.text', 'Say what it is.'));
    const { user } = house.open(<NewOffer />);
    await user.click(await button('Something else'));
    await user.type(within(screen.getByRole('listitem', { name: 'Line 2' })).getByLabelText('Other'), 'Crane');
    await user.click(await button('Write the draft'));
    expect(await within(screen.getByRole('listitem', { name: 'Line 1' })).findByText(/Say what it is/)).toBeDefined();
    await user.click(await button('Take line 1 away'));
    const left = screen.getByRole('listitem', { name: 'Line 1' });
    expect(within(left).getByLabelText<HTMLInputElement>('Other').value).toBe('Crane');
    expect(screen.queryByRole('listitem', { name: 'Line 2' })).toBeNull();
  });
});

describe('an offer', () => {
  it('that is a draft is sent to somebody with an address; who has none is not offered', async () => {
    house.answer(readOffer, () => page({ standing: 'draft', sentAt: null, sentTo: null }));
    house.answer(sendOffer, () => ({ done: true }));
    const { user } = house.open(<OfferShown id="1" />);
    await user.click(await button('Send…'));
    const to = await screen.findByLabelText<HTMLSelectElement>('By mail to');
    await waitFor(() => expect([...to.options].map((o) => o.text)).toHaveLength(2));
    await user.click(await button('Send the offer'));
    await waitFor(() => expect(house.told[0]?.body).toEqual({ version: 3, contactId: 5, validUntil: '2026-12-24' }));
  });

  it('that somebody else changed meanwhile is not written over unseen', async () => {
    let version = 3;
    house.answer(readOffer, () => page({ standing: 'draft', sentAt: null, sentTo: null, version }));
    house.answer(changeOffer, ({ body }) =>
      (body as { version: number }).version < 4
        ? refusal(null, 'Somebody changed this meanwhile.', { code: 'stale', status: 409, current: { version: 4 } })
        : { done: true },
    );
    const { user } = house.open(<OfferShown id="1" />);
    await user.click(await button('Change…'));
    version = 4;
    store.dispatch(server.util.invalidateTags(['offers']));
    await user.type(await screen.findByLabelText('What is offered, in short'), '!');
    await user.click(await button('Save the draft'));
    expect(await screen.findByText(/Somebody changed this meanwhile/)).toBeDefined();
    await user.click(await button('Save the draft'));
    await waitFor(() => expect(house.told.map((t) => (t.body as { version: number }).version)).toEqual([3, 4]));
  });

  it('that holds is accepted, one that lapsed only sent again', async () => {
    house.answer(readOffer, () => page());
    house.answer(acceptOffer, () => ({ orderId: 77 }));
    const { user, page: shown } = house.open(<OfferShown id="1" />);
    await user.click(await button('The customer accepts…'));
    await user.click(await button('Raise the order'));
    await waitFor(() => expect(house.told[0]?.body).toMatchObject({ by: 'Rosa Vidal', priority: 3 }));
    shown.unmount();
    house = testHouse(NOW);
    house.answer(readOffer, () => page({ standing: 'lapsed' }));
    house.open(<OfferShown id="1" />);
    expect(await button('Send again with another day…')).toBeDefined();
    expect(screen.queryByRole('button', { name: 'The customer accepts…' })).toBeNull();
  });

  it('is listed with its age; an empty list says what is shown', async () => {
    house.answer(listOffers, ({ query }) => ({
      items: query.get('show') === 'open' ? [row(), row({ id: 2, standing: 'draft', age: 1 })] : [],
      ...{ next: null, now: NOW },
    }));
    const { user } = house.open(<OffersRoom />);
    expect(await screen.findByText('sent 8 days ago')).toBeDefined();
    expect(screen.getByText('begun yesterday')).toBeDefined();
    await user.selectOptions(screen.getByLabelText('Which'), 'Declined');
    expect(await button('Show all')).toBeDefined();
  });
});
