// @vitest-environment jsdom
// The call: found, shown what is known, and raised by the keys alone.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { addFile } from '#api/files.ts';
import { joinOrder, previewOrder, raiseOrder, type CallKnown } from '#api/calls.ts';
import { find, type Hit } from '#api/finder.ts';
import { readIndication } from '#api/labour.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { CallRoom } from './call.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20, 30);
const HIT: Hit = {
  ...{ kind: 'asset', id: 61, mark: 'Q0104', title: 'Plasma freezer', beside: 'Costabela', state: null },
  ...{ under: null, ribbon: null, matched: '' },
};
const KNOWN: CallKnown = {
  customer: { id: 2, name: 'Costabela Blood Centre' },
  zone: 'Europe/Lisbon',
  lines: [
    {
      ...{ assetId: 61, tag: 'Q0104', model: 'PLF-410', place: 'Floor 1', sentence: 'Covered by AG-2001' },
      ...{ promise: 'Respond by 09:50', considered: [], clocks: [], allowances: ['1 of 2 call-outs left'] },
    },
  ],
  ...{ internal: false, chargeable: false, reminders: ['Bring the badge'], notes: ['Ask for the key'] },
  ...{ address: 'Avenida da Ria 4', accessNote: null, credit: null, symptoms: ['chamber warming up'] },
  contacts: [{ id: 31, name: 'Marta Silva', role: 'head nurse', phone: null }],
  open: [],
  lastHere: [
    {
      ...{ orderId: 8, title: 'Fan noisy', tag: 'Q0104', technician: 'Ilse Verhagen', doneAt: NOW - 9e8 },
      ...{ remedy: 'fan replaced', text: '' },
    },
  ],
} as never;

let house: TestHouse;
let known: CallKnown;
beforeEach(() => {
  house = testHouse(NOW);
  known = KNOWN;
  house.answer(find, ({ query }) => ({
    hits: (query.get('q') ?? '').toLowerCase().startsWith('q01') ? [HIT] : [],
    ...{ from: '2026-11-01', to: '2027-11-01', now: NOW },
  }));
  house.answer(previewOrder, () => known);
  house.answer(raiseOrder, () => ({ id: 99 }));
  house.answer(joinOrder, () => ({ done: true }));
  house.answer(readIndication, () => ({
    indication: { count: 12, minutes: 90, partsCost: 8500, price: 23_000, currency: 'EUR' },
  }));
});
afterEach(cleanup);

const field = (label: string | RegExp): HTMLInputElement => screen.getByLabelText(label);
const press = (name: string | RegExp): HTMLElement => screen.getByRole('button', { name });
const wrong = (): HTMLInputElement => field(/^What is wrong/);
const sentTo = (path: string) => house.told.filter((t) => t.path === path).map((t) => t.body);
const raisedBody = () => sentTo('/api/orders')[0] as Record<string, unknown>;

async function about(user: ReturnType<TestHouse['open']>['user']): Promise<void> {
  const box = await screen.findByRole('combobox', { name: 'What it is about' });
  expect(document.activeElement).toBe(box);
  await user.keyboard('Q0104{Enter}');
  await waitFor(() => expect(document.activeElement).toBe(wrong()));
}

describe('a call', () => {
  it('is raised by keys alone, typed and entered as fast as a scanner does', async () => {
    const { user } = house.open(<CallRoom />);
    await about(user);
    await user.keyboard('Beeps{Enter}');
    expect(await screen.findByText('elsewhere')).toBeDefined();
    expect(raisedBody()).toMatchObject({
      ...{ assetIds: [61], title: 'Beeps', priority: 1, cause: 'unknown', kind: 'repair' },
      receivedAt: '2026-11-24T09:20:00.000Z',
    });
    expect(raisedBody()).not.toHaveProperty('callerSaid');
  });

  it('shows cover, promise, what is left, notes and who was there last while it is typed', async () => {
    const { user } = house.open(<CallRoom />);
    await about(user);
    const beside = within(screen.getByRole('region', { name: 'What is known' }));
    expect(await beside.findByText(/Covered by AG-2001 Respond by 09:50/)).toBeDefined();
    for (const text of ['1 of 2 call-outs left', 'Ask for the key', 'Bring the badge', '(fan replaced)'])
      expect(beside.getByText(text)).toBeDefined();
    expect(beside.queryByText(/Like work took/)).toBeNull();
  });

  it('that nobody bears says what like work took and may cost', async () => {
    known = { ...KNOWN, chargeable: true };
    const { user } = house.open(<CallRoom />);
    await about(user);
    expect(await screen.findByText(/Like work took 1 h 30 min/)).toBeDefined();
    expect(screen.getByText('EUR 230.00')).toBeDefined();
  });

  it('joins what is open already, once something is said', async () => {
    const order = {
      ...{
        id: 40,
        kind: 'repair',
        stage: 'planned',
        priority: 1,
        title: 'Warm',
        customer: 'C',
        place: 'P',
        tag: 'Q0104',
      },
      ...{ assetId: 61, machines: 1, technician: null, plannedFor: null, startedAt: NOW, due: null, nextClock: null },
    };
    known = { ...KNOWN, open: [{ order, same: 'machine' }] } as never;
    const { user } = house.open(<CallRoom />);
    await about(user);
    const add = await screen.findByRole('button', { name: 'Add the call to it' });
    expect(add).toHaveProperty('disabled', true);
    await user.keyboard('now it beeps');
    await user.click(add);
    expect(await screen.findByText('elsewhere')).toBeDefined();
    expect(sentTo('/api/orders/40/calls')[0]).toMatchObject({ text: 'now it beeps' });
    expect(sentTo('/api/orders')).toEqual([]);
  });

  it('of a customer over their terms asks for a reason', async () => {
    known = { ...KNOWN, credit: { overSince: '2026-10-01', policy: 'ask', mayRaise: true } } as never;
    const { user } = house.open(<CallRoom />);
    await about(user);
    await user.type(await screen.findByLabelText(/why it is raised nevertheless/), 'vaccines');
    await user.type(wrong(), 'Warm');
    await user.click(press('Raise the order'));
    expect(await screen.findByText('elsewhere')).toBeDefined();
    expect(raisedBody()).toMatchObject({ overTermsReason: 'vaccines' });
  });

  it('of a customer who is stopped is raised by a manager only', async () => {
    known = { ...KNOWN, credit: { overSince: '2026-10-01', policy: 'stop', mayRaise: false } } as never;
    const { user } = house.open(<CallRoom />);
    await about(user);
    await waitFor(() => expect(press('Raise the order')).toHaveProperty('disabled', true));
    expect(screen.getByText(/ask a manager/)).toBeDefined();
  });

  it('keeps what was typed when it is refused, and says it at its field', async () => {
    house.answer(raiseOrder, () => refusal('title', 'Too vague.'));
    const { user } = house.open(<CallRoom />);
    await about(user);
    await user.keyboard('Hm{Enter}');
    expect(await screen.findByText(/Too vague\./)).toBeDefined();
    expect(wrong().value).toBe('Hm');
  });

  it('takes its photos along; one that is refused is said, and the order stands', async () => {
    house.answer(addFile, () => refusal(null, 'That is no picture.'));
    const { user } = house.open(<CallRoom />);
    await about(user);
    await user.keyboard('Leaks');
    await user.click(screen.getByText(/photos$/));
    await user.upload(field('Photos or papers'), new File(['x'], 'leak.jpg', { type: 'image/jpeg' }));
    await user.click(press('Raise the order'));
    expect((await screen.findByRole('alert')).textContent).toContain('leak.jpg: That is no picture.');
    await user.click(press('Open it'));
    expect(await screen.findByText('elsewhere')).toBeDefined();
  });

  it('of long ago asks why it is told only now', async () => {
    const { user } = house.open(<CallRoom />);
    await about(user);
    expect(screen.queryByLabelText(/told only now/)).toBeNull();
    await user.clear(field('Date'));
    await user.type(field('Date'), '1/10/2026');
    await user.type(await screen.findByLabelText(/told only now/), 'Letter came late');
    await user.type(wrong(), 'Beeps');
    await user.click(press('Raise the order'));
    expect(await screen.findByText('elsewhere')).toBeDefined();
    expect(raisedBody()).toMatchObject({ lateReason: 'Letter came late' });
  });
});
