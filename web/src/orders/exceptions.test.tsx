// @vitest-environment jsdom
// The table of exceptions: filters stand in the address, who decided leads to what they decided, and an empty list says why.
import { cleanup, screen, waitFor } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { listExceptions } from '#api/order-lists.ts';
import { readReference } from '#api/setup.ts';
import { testHouse, type TestHouse } from '../shell/testing.tsx';
import { ExceptionsRoom } from './exceptions.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const LEFT = {
  ...{ id: 9, at: NOW - 3_600_000, kind: 'task left', text: 'left: Clean filter (none in the van)' },
  ...{ who: { id: 4, name: 'Ilse Verhagen' }, order: { id: 77, title: 'Freezer quarterly', stage: 'done' } },
  customer: 'Horta Nova Biobank',
};

let house: TestHouse;
/** What was asked for last. */
let asked = new URLSearchParams();
const say = (items: unknown[]) =>
  house.answer(listExceptions, ({ query }) => {
    asked = query;
    return { items, next: null };
  });
beforeEach(() => {
  house = testHouse(NOW, 'coordinator');
  house.answer(readReference, () => ({ depots: [{ id: 3, name: 'Ribeira' }] }));
  say([LEFT]);
});
afterEach(cleanup);

describe('the table of exceptions', () => {
  it('says what was decided about which order, and by whom; only theirs is one press away, and back', async () => {
    const { user } = house.open(<ExceptionsRoom />);
    expect(await screen.findByText('left: Clean filter (none in the van)')).toBeDefined();
    expect(screen.getByText('Freezer quarterly', { exact: false })).toBeDefined();
    await user.click(screen.getByRole('link', { name: 'Ilse Verhagen' }));
    await waitFor(() => expect(asked.get('who')).toBe('4'));
    expect(await screen.findByText(/Only what Ilse Verhagen decided/)).toBeDefined();
    await user.click(screen.getByRole('button', { name: 'Everybody’s' }));
    await waitFor(() => expect(screen.queryByText(/Only what/)).toBeNull());
  });

  it('is filtered by kind, depot and days; where none answers the filter is lifted by one press', async () => {
    const { user } = house.open(<ExceptionsRoom />);
    await screen.findByText('left: Clean filter (none in the van)');
    say([]);
    await user.selectOptions(screen.getByLabelText('Exception'), 'nobody signed');
    await waitFor(() => expect(asked.get('kind')).toBe('not signed for'));
    await user.selectOptions(screen.getByLabelText('Depot'), await screen.findByRole('option', { name: 'Ribeira' }));
    await user.click(screen.getByLabelText('From'));
    await user.paste('1 Nov 2026');
    await waitFor(() => expect(asked.get('from')).toBe('2026-11-01'));
    expect(asked.get('depot')).toBe('3');
    await user.click(await screen.findByRole('button', { name: 'Lift the filter' }));
    await waitFor(() => expect(screen.queryByText('None answers the filter.', { exact: false })).toBeNull());
  });
});
