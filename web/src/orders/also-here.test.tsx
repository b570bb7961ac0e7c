// @vitest-environment jsdom
// Who else has an order open.
import { cleanup, screen, waitFor } from '@testing-library/react';
import { afterEach, expect, it } from 'vitest';
import { beHere } from '#api/orders.ts';
import { testHouse } from '../shell/testing.tsx';
import { AlsoHere } from './also-here.tsx';

afterEach(cleanup);

it('is said when the order is opened, and the others are named', async () => {
  const house = testHouse(Date.UTC(2026, 10, 24, 9));
  house.answer(beHere, () => ({ others: [{ id: 8, name: 'Núria Falcó' }] }));
  house.open(<AlsoHere orderId={12} />);
  expect(await screen.findByText('Also here: Núria Falcó.')).toBeDefined();
  await waitFor(() => expect(house.told.map((t) => t.path)).toEqual(['/api/orders/12/here']));
});
