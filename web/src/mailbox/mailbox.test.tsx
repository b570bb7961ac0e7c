// @vitest-environment jsdom
// Mail on the screen: what is to be looked at, what it may be about, and what is made of it.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { listCustomers } from '#api/customers.ts';
import { listFiles } from '#api/files.ts';
import { answerMail, joinFromMail, listMail, nameSender, putMailAway, readMail } from '#api/mailbox.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { MailRoom } from './mail.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20, 30);
const row = (over: object = {}) => ({
  ...{ id: 1, fromName: 'Uxía Costas', fromAddress: 'uxia@pontal.example', subject: 'Door does not close', start: 'x' },
  ...{ receivedAt: NOW - 3_600_000, state: 'to look at', isRead: true, customer: null, orderId: null, ...over },
});
const message = (over: object = {}) => ({
  ...row(),
  ...{ sentAt: null, own: 'The door of Q0215 does not close.', quoted: '> before', isAutomatic: false, problem: null },
  ...{ contact: null, proposed: { name: 'Uxía Costas', email: 'uxia@pontal.example', phone: '600 418 220' } },
  ...{
    notKept: [{ name: 'log.csv', bytes: 3, why: 'attach JPEG, PNG, WebP or PDF.' }],
    putAwayReason: null,
    who: null,
  },
  ...{ machines: [{ id: 4, tag: 'Q0215', model: 'INC-240', customer: 'Pontal' }], open: [], answers: [], ...over },
});
let house: TestHouse;
let shown: object;
beforeEach(() => {
  house = testHouse(NOW);
  shown = message();
  house.answer(listMail, ({ query }) => ({
    items: query.get('state') === 'to look at' ? [row(), row({ id: 2, subject: 'Second' })] : [],
    next: null,
    now: NOW,
  }));
  house.answer(readMail, () => shown);
  house.answer(listFiles, () => ({ items: [] }));
  house.answer(listCustomers, () => ({ items: [{ id: 9, name: 'Pontal', serviceAddress: '' }], next: null }));
});
afterEach(cleanup);
const press = async (user: { click: (e: Element) => Promise<void> }, name: string | RegExp): Promise<void> =>
  user.click(await screen.findByRole('button', { name }));

describe('a message', () => {
  it('shows what was written, what it names and what could not be kept; what it answers is folded', async () => {
    house.open(<MailRoom />);
    const article = await screen.findByRole('article', { name: 'Message' });
    expect(article.textContent).toContain('The door of Q0215 does not close.');
    expect(article.textContent).toContain('log.csv: only in the message as it came.');
    expect(within(article).getByRole('link', { name: /Q0215/ }).getAttribute('href')).toBe('/assets/4');
    expect(within(article).getByText('What it answers').closest('details')?.open).toBe(false);
    expect(within(article).getByRole('link', { name: 'Take it as a call' }).getAttribute('href')).toBe('/call?mail=1');
    expect(article.textContent).toContain('Nobody we know writes from this address.');
  });

  it('of somebody new becomes a contact with what it says; without a customer it cannot', async () => {
    house.answer(nameSender, () => ({ contactId: 5 }));
    const { user } = house.open(<MailRoom />);
    await press(user, 'Make a contact of them…');
    expect(screen.getByLabelText<HTMLInputElement>('Phone').value).toBe('600 418 220');
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Add the contact' }).disabled).toBe(true);
    await user.click(screen.getByRole('combobox', { name: 'Customer' }));
    await user.click(await screen.findByRole('option', { name: /Pontal/ }));
    await user.selectOptions(screen.getByLabelText('Is written to in'), 'Portuguese');
    await press(user, 'Add the contact');
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(house.told[0]?.body).toEqual({ customerId: 9, name: 'Uxía Costas', phone: '600 418 220', language: 'pt' });
  });

  it('is answered; what is refused is said and the words stay', async () => {
    house.answer(answerMail, () => refusal('text', 'Write the answer.'));
    const { user } = house.open(<MailRoom />);
    await press(user, 'Answer…');
    await user.type(screen.getByLabelText('To Uxía Costas'), 'We come at two.');
    await press(user, 'Send the answer');
    expect(await screen.findByText(/Write the answer\./)).toBeDefined();
    expect(screen.getByLabelText<HTMLTextAreaElement>('To Uxía Costas').value).toBe('We come at two.');
    expect(house.told[0]?.body).toMatchObject({ text: 'We come at two.' });
  });

  it('is put away with a reason only', async () => {
    house.answer(putMailAway, () => ({ done: true }));
    const { user } = house.open(<MailRoom />);
    await press(user, 'Put it away…');
    await press(user, 'Put it away');
    expect(await screen.findByText(/Say why/)).toBeDefined();
    expect(house.told).toEqual([]);
    await user.type(screen.getByLabelText('Why nothing is to be done'), 'an advertisement');
    await press(user, 'Put it away');
    await waitFor(() => expect(house.told[0]?.body).toEqual({ reason: 'an advertisement' }));
  });

  it('is added to the order it most likely belongs to', async () => {
    house.answer(joinFromMail, () => ({ done: true }));
    shown = message({ open: [{ id: 7, title: 'Door', tag: 'Q0215', likely: true }] });
    const { user } = house.open(<MailRoom />);
    expect((await screen.findByRole('region', { name: 'Orders it may belong to' })).textContent).toContain(
      'it answers what was told of this one',
    );
    await press(user, 'Add it to this order');
    await waitFor(() => expect(house.told[0]?.body).toEqual({ orderId: 7 }));
  });

  it('that a machine sent is not answered, and one on an order only leads there', async () => {
    shown = message({ isAutomatic: true, state: 'put away', putAwayReason: 'sent by a machine' });
    const { user, page } = house.open(<MailRoom />, '?state=put%20away');
    await user.click(await screen.findByRole('button', { name: 'To look at' }));
    expect(await screen.findByRole('button', { name: 'Look at it again' })).toBeDefined();
    expect(screen.queryByRole('button', { name: 'Answer…' })).toBeNull();
    page.unmount();
    shown = message({ state: 'on an order', orderId: 7, who: 'Núria' });
    house = testHouse(NOW);
    house.answer(listMail, () => ({ items: [row({ state: 'on an order' })], next: null, now: NOW }));
    house.answer(readMail, () => shown);
    house.open(<MailRoom />);
    expect(await screen.findByText(/It is on/)).toBeDefined();
    expect(screen.queryByRole('link', { name: 'Take it as a call' })).toBeNull();
  });
});
