// @vitest-environment jsdom
// The finder: typed, chosen and opened by keys alone; what is opened is what was asked for, however fast somebody types.
import { cleanup, render, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Provider } from 'react-redux';
import { createMemoryRouter, RouterProvider, useLocation } from 'react-router';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { find, type Hit } from '#api/finder.ts';
import { ReaderProvider } from '../shell/reader.tsx';
import type { Room, TypedAhead } from '../shell/room.ts';
import { store } from '../shell/store.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { Finder } from './finder.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const OPENED: NonNullable<Room['found']> = [
  { kind: 'asset', group: 'Assets', open: (h) => `/assets/${h.id}`, act: (h) => `/call?asset=${h.id}` },
  { kind: 'customer', group: 'Customers', open: (h) => `/register?customer=${h.id}` },
];
const hit = (kind: Hit['kind'], id: number, title: string, over: Partial<Hit> = {}): Hit => ({
  ...{ kind, id, title, mark: `Q0${id}`, beside: 'Alvorim · Norvela', state: null, under: null, ribbon: null },
  matched: '',
  ...over,
});
const answer = (hits: Hit[]) => ({ hits, from: '2026-11-01', to: '2027-11-01', now: NOW });
const HITS: Readonly<Record<string, Hit[]>> = {
  q101: [hit('asset', 101, 'Freezer'), hit('customer', 4, 'Q1 Labs', { mark: '' })],
  q102: [hit('asset', 102, 'Centrifuge')],
  alv: [
    hit('asset', 7, 'Incubator', { state: 'no cover' }),
    hit('order', 9, 'Not shown here'),
    hit('customer', 2, 'Alvorim'),
  ],
};

let house: TestHouse;
const onClose = vi.fn();
/** Questions that are not answered yet, by what was asked. */
let held: Map<string, () => void>;
beforeEach(() => {
  onClose.mockClear();
  house = testHouse(NOW);
  held = new Map();
  house.answer(find, ({ query }) => answer(HITS[(query.get('q') ?? '').toLowerCase()] ?? []));
});
afterEach(cleanup);

/** From now on an answer waits until it is let go. */
function hold(): void {
  const answering = globalThis.fetch;
  vi.stubGlobal('fetch', async (address: string, init: RequestInit) => {
    const q = new URL(address, 'http://127.0.0.1').searchParams.get('q');
    if (q !== null) await new Promise<void>((go) => held.set(q, go));
    return answering(address, init);
  });
}
const letGo = async (q: string): Promise<void> => {
  await waitFor(() => expect(held.has(q)).toBe(true));
  held.get(q)?.();
};

const Where = () => {
  const { pathname, search } = useLocation();
  return <p data-testid="where">{pathname + search}</p>;
};
const where = (): string | null => screen.getByTestId('where').textContent;

function open(role: 'coordinator' | 'storekeeper' = 'coordinator', typedAhead: TypedAhead = { text: '', enter: null }) {
  const page = (
    <Provider store={store}>
      <ReaderProvider value={{ id: 7, name: 'Inês', email: 'i@example.org', zone: 'Europe/Lisbon', role }}>
        <Finder found={OPENED} onClose={onClose} typedAhead={typedAhead} />
        <Where />
      </ReaderProvider>
    </Provider>
  );
  render(<RouterProvider router={createMemoryRouter([{ path: '*', element: page }])} />);
  return { user: userEvent.setup({ delay: null }), field: screen.getByRole('textbox', { name: 'Find' }) };
}

describe('the finder', () => {
  it('takes the keys at once, and asks for two letters', async () => {
    const { user, field } = open();
    expect(document.activeElement).toBe(field);
    await user.keyboard('a');
    expect(screen.getByText('Two letters are enough to begin.')).toBeDefined();
  });

  it('shows what was found by group, in one list walked by the arrows; a kind nobody opens is left out', async () => {
    const { user } = open();
    await user.keyboard('alv');
    const list = await screen.findByRole('list');
    await waitFor(() => expect(within(list).getAllByRole('button')).toHaveLength(2));
    expect(
      within(list)
        .getAllByRole('heading')
        .map((h) => h.textContent),
    ).toEqual(['Assets', 'Customers']);
    await user.keyboard('{ArrowDown}{ArrowDown}{ArrowDown}{ArrowUp}{ArrowDown}');
    expect(screen.getByRole('button', { current: true }).textContent).toContain('Alvorim');
    await user.keyboard('{Enter}');
    expect([where(), onClose.mock.calls.length]).toEqual(['/register?customer=2', 1]);
  });

  it('opens with Enter and raises with Shift and Enter, for whom that is', async () => {
    const { user } = open();
    await user.keyboard('Q101');
    await screen.findByText('Freezer');
    await user.keyboard('{Shift>}{Enter}{/Shift}');
    expect(where()).toBe('/call?asset=101');
    cleanup();
    const other = open('storekeeper');
    await other.user.keyboard('Q101');
    await screen.findByText('Freezer');
    await other.user.keyboard('{Shift>}{Enter}{/Shift}');
    expect(where()).toBe('/assets/101');
  });

  it('typed and entered at once, as a scanner does, opens when the answer is there', async () => {
    hold();
    const { user } = open();
    await user.keyboard('Q102{Enter}');
    expect(where()).toBe('/');
    await letGo('Q102');
    await waitFor(() => expect(where()).toBe('/assets/102'));
  });

  it('does what was typed and entered before it stood', async () => {
    open('coordinator', { text: 'Q101', enter: 'Shift+Enter' });
    await waitFor(() => expect(where()).toBe('/call?asset=101'));
    cleanup();
    const { user } = open('coordinator', { text: 'Q10', enter: null });
    await user.keyboard('2{Enter}');
    await waitFor(() => expect(where()).toBe('/assets/102'));
  });

  it('never opens what was asked for before', async () => {
    const { user } = open();
    await user.keyboard('Q101');
    await screen.findByText('Freezer');
    await user.keyboard('{Backspace}2{Enter}');
    await waitFor(() => expect(where()).toBe('/assets/102'));
  });

  it('typed on after Enter opens nothing by itself, and a late answer to the first question is not shown', async () => {
    hold();
    const { user } = open();
    await user.keyboard('Q101{Enter}');
    await user.keyboard('{Backspace}2');
    await letGo('Q102');
    expect(await screen.findByText('Centrifuge')).toBeDefined();
    await letGo('Q101');
    await new Promise((later) => setTimeout(later, 50));
    expect([where(), screen.queryByText('Freezer')]).toEqual(['/', null]);
  });

  it('says that nothing answers, and opens nothing', async () => {
    const { user } = open();
    await user.keyboard('zz{Enter}');
    expect(await screen.findByText(/Nothing answers to “zz”\./)).toBeDefined();
    expect([where(), onClose.mock.calls.length]).toEqual(['/', 0]);
  });

  it('says what was refused, and goes on with the next question', async () => {
    house.answer(find, ({ query }) =>
      query.get('q') === 'bad' ? refusal(null, 'The index is being built.') : answer(HITS.q101 ?? []),
    );
    const { user } = open();
    await user.keyboard('bad{Enter}');
    expect(await screen.findByText('✕ The index is being built.')).toBeDefined();
    await user.keyboard('{Backspace}{Backspace}{Backspace}Q101');
    expect(await screen.findByText('Freezer')).toBeDefined();
    await user.keyboard('{Escape}');
    await waitFor(() => expect(onClose).toHaveBeenCalledOnce());
  });
});
