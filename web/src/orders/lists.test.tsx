// @vitest-environment jsdom
// The list of orders: filters in the address, views under a name, one act on the ticked ones.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { actOnMany, keepView, listOrders, listViews, previewBulk, removeView } from '#api/order-lists.ts';
import { readReference } from '#api/setup.ts';
import { type TestHouse, dialogClosed, testHouse } from '../shell/testing.tsx';
import { OrdersRoom } from './orders.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20, 30);
const row = (id: number, over: object = {}) => ({
  ...{ id, kind: 'repair', stage: 'raised', priority: 2, title: `Trouble ${id}`, customer: 'Alvorim', place: 'Lab' },
  ...{ tag: `Q0${id}`, assetId: id, machines: 1, technician: null, plannedFor: null, startedAt: NOW, due: null },
  ...{ nextDue: null, waitingFor: null, nextClock: null, ...over },
});
let house: TestHouse;
let asked: URLSearchParams;
beforeEach(() => {
  house = testHouse(NOW);
  house.answer(listOrders, ({ query }) => {
    asked = query;
    return {
      items: [row(1), row(2, { waitingFor: 'no access' }), row(3, { tag: '' })],
      next: null,
      total: 3,
      more: false,
    };
  });
  house.answer(listViews, () => ({
    items: [{ id: 5, name: 'Stuck', query: 'waiting=any', shared: true, own: false, who: 'Núria' }],
  }));
  house.answer(readReference, () => ({
    ...{ depots: [{ id: 3, name: 'Ribeira' }], technicians: [{ id: 21, name: 'Duarte Melo' }] },
  }));
});
afterEach(cleanup);

const found = (name: string | RegExp) => screen.findByRole('button', { name });
const asking = () => Object.fromEntries(asked);

describe('the list of orders', () => {
  it('asks as its address says, shows what each waits for, and where there is no machine the place', async () => {
    house.open(<OrdersRoom />, '?waiting=any&sort=due');
    expect(await screen.findByText(/waiting: no access/)).toBeDefined();
    expect(screen.getByText(/^Lab · Alvorim/)).toBeDefined();
    expect(asking()).toEqual({ waiting: 'any', sort: 'due' });
    expect(screen.getByLabelText<HTMLSelectElement>('Waiting for').value).toBe('any');
  });

  it('sets and lifts filters, and takes a view that somebody shares', async () => {
    const { user } = house.open(<OrdersRoom />);
    await user.click(await found('more filters'));
    await user.selectOptions(await screen.findByLabelText('Depot'), 'Ribeira');
    await waitFor(() => expect(asking()).toEqual({ depot: '3' }));
    await user.selectOptions(screen.getByLabelText('Depot'), 'every depot');
    expect(screen.getByLabelText<HTMLSelectElement>('Depot').value).toBe('');
    await user.selectOptions(screen.getByLabelText('View'), 'Stuck (Núria)');
    await waitFor(() => expect(asking()).toEqual({ waiting: 'any' }));
    expect(screen.queryByText('remove the view')).toBeNull();
  });

  it('is kept under a name', async () => {
    house.answer(keepView, () => ({ id: 6 }));
    house.answer(removeView, () => ({ done: true }));
    const { user } = house.open(<OrdersRoom />, '?due=late');
    await user.click(await screen.findByText('keep this view…'));
    await user.type(await screen.findByLabelText('Name'), 'Late');
    await user.click(screen.getByLabelText('For everybody'));
    await user.click(await found('Keep it'));
    await waitFor(() => expect(house.told[0]?.body).toEqual({ name: 'Late', query: 'due=late', shared: true }));
  });
});

describe('one act on the ticked orders', () => {
  it('says first how many take it and which do not, then does it', async () => {
    const refused = [{ id: 2, title: 'Trouble 2', reason: 'The order is done.' }];
    house.answer(previewBulk, () => ({ done: 1, refused }));
    house.answer(actOnMany, () => ({ done: 1, refused }));
    const { user } = house.open(<OrdersRoom />);
    for (const n of [1, 2]) await user.click(await screen.findByLabelText(`Tick WO-1000${n}`));
    expect(screen.getByText('2 ticked')).toBeDefined();
    await user.click(await found('Call off…'));
    const dialog = within(await screen.findByRole('dialog'));
    expect(dialog.getByRole('button', { name: 'Call them off' })).toHaveProperty('disabled', true);
    await user.type(dialog.getByLabelText('Why'), 'sold');
    expect(await dialog.findByText(/1 order will take it, 1 will not/)).toBeDefined();
    expect(dialog.getByText(/Trouble 2: The order is done\./)).toBeDefined();
    await user.click(dialog.getByRole('button', { name: 'Call 1 order off' }));
    await dialogClosed();
    expect(house.told.at(-1)).toMatchObject({
      path: '/api/orders/bulk',
      body: { ids: [1, 2], act: { kind: 'called off', text: 'sold' } },
    });
    expect(screen.queryByText('2 ticked')).toBeNull();
  });
});
