// @vitest-environment jsdom
// Stock on screen: where a part is, what who sees no money is shown, and how it is received, carried and refused at its line.
import { cleanup, screen, waitFor } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { listStores, readMoves, readPartStock, receiveStock, transferStock } from '#api/stock.ts';
import { listParts } from '#api/stores.ts';
import { type TestHouse, dialogClosed, refusal, testHouse } from '../shell/testing.tsx';
import { PartOf } from './part.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20, 30);
const depot = { id: 1, name: 'Ribeira' };
const storeOf = (id: number, name: string, over: object = {}) => ({
  ...{ id, version: 1, name, kind: 'depot', depot, person: null, retired: false, parts: 1, value: 5200, ...over },
});
const PART = { id: 5, number: 'TN-CM-K2', name: 'Compressor', unit: 'piece', serialTracked: true, retired: false };
const LISTED = { ...PART, version: 1, listPrice: 9000, cost: 5200, consumable: false, taxId: null, tax: null };
const lies = {
  part: PART,
  stores: [
    {
      ...{ store: { id: 1, name: 'Ribeira' }, kind: 'depot', depot, person: null, bin: 'A2', version: 1 },
      ...{ onHand: 2000, reserved: 1000, free: 1000, minimum: 2000, maximum: 4000, average: 5200, value: 10_400 },
    },
  ],
  ordered: [],
  serials: [{ serial: 'K2-7', store: { id: 1, name: 'Ribeira' } }],
};

let house: TestHouse;
beforeEach(() => {
  house = testHouse(NOW);
  house.answer(readPartStock, () => lies);
  house.answer(readMoves, () => ({ items: [], next: null }));
  house.answer(listStores, () => ({ items: [storeOf(1, 'Ribeira'), storeOf(2, 'Van 4', { kind: 'van' })] }));
  house.answer(listParts, () => ({ items: [LISTED], next: null, total: 1 }));
});
afterEach(cleanup);

const open = () => house.open(<PartOf id="5" />);

describe('a part', () => {
  it('says where it is, how many of it are free, which units, and that they are too few', async () => {
    open();
    const row = await screen.findByRole('row', { name: /^Ribeira/ });
    expect(row.textContent).toMatch(/A2.*2.*1.*1.*too few.*52\.00.*K2-7/);
    expect(screen.getByRole('row', { name: /^In all, piece/ }).textContent).toMatch(/2.*1.*1/);
  });

  it('is carried with its serial; what is refused stands at its line, and nothing typed is lost', async () => {
    house.answer(transferStock, () => refusal('lines.0.serials', 'K2-9 is not in this store.'));
    const { user } = open();
    await user.click(await screen.findByRole('button', { name: 'Carry over…' }));
    await user.type(await screen.findByLabelText(/^Serials/), 'K2-9');
    await user.click(screen.getByRole('button', { name: 'Carry over' }));
    expect(await screen.findByText(/K2-9 is not in this store/)).toBeDefined();
    expect(house.told[0]?.body).toMatchObject({
      ...{ fromId: 1, toId: 2, lines: [{ partId: 5, thousandths: 1000, serials: ['K2-9'] }] },
    });
    house.answer(transferStock, () => ({ id: 1 }));
    await user.click(screen.getByRole('button', { name: 'Carry over' }));
    await dialogClosed();
    // Sent again after a refusal it is the same request.
    const keys = house.told.map((t) => (t.body as { requestKey: string }).requestKey);
    expect(new Set(keys).size).toBe(1);
  });

  it('is received with others, at a price or as last paid; a part that nobody chose is refused at its field', async () => {
    house.answer(receiveStock, () => ({ id: 1 }));
    const { user } = open();
    await user.click(await screen.findByRole('button', { name: 'Receive…' }));
    await user.type(await screen.findByLabelText(/^Paid for one/), '48.50');
    await user.type(screen.getByLabelText(/^Serials/), 'K2-8');
    await user.click(screen.getByRole('button', { name: 'another part' }));
    await user.click(screen.getByRole('button', { name: 'Receive' }));
    expect(await screen.findByText(/Choose one of those offered/)).toBeDefined();
    expect(house.told).toEqual([]);
    const [leave] = screen.getAllByRole('button', { name: 'leave out' }).slice(-1);
    await user.click(leave as HTMLElement);
    await user.click(screen.getByRole('button', { name: 'Receive' }));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(house.told[0]?.body).toMatchObject({
      ...{ storeId: 1, lines: [{ partId: 5, unitPrice: 4850, serials: ['K2-8'] }] },
    });
  });
});
