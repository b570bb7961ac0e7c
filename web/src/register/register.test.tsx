// @vitest-environment jsdom
// The register's assets: sorted and fetched by the server in pieces, walked by keys, ticked and changed together.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { changeMany, previewBulk } from '#api/assets.ts';
import { listCustomers } from '#api/customers.ts';
import { listAssets } from '#api/register.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { RegisterRoom } from './register.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const TOTAL = 120;
const row = (n: number) => ({
  ...{ id: n, tag: `Q${String(n).padStart(4, '0')}`, serial: `S-${n}`, className: 'Incubator', maker: 'Tarvo' },
  ...{ model: 'INC-2', customerName: 'Alvorim', place: 'Norvela · Lab', state: n === 3 ? 'scrapped' : 'in service' },
  ...{ coverNow: n % 2 === 0 ? 'AG-2004' : 'no cover', ribbon: { cover: [], care: [], trouble: [] } },
});

let house: TestHouse;
let asked: URLSearchParams[];
beforeEach(() => {
  // A screen as high as ten rows; jsdom has none.
  vi.spyOn(Element.prototype, 'clientHeight', 'get').mockReturnValue(470);
  vi.spyOn(Element.prototype, 'clientWidth', 'get').mockReturnValue(900);
  vi.spyOn(HTMLElement.prototype, 'offsetHeight', 'get').mockReturnValue(47);
  asked = [];
  house = testHouse(NOW);
  house.answer(listCustomers, () => ({ items: [{ id: 2, name: 'Alvorim', assets: TOTAL }], next: null, total: 1 }));
  house.answer(listAssets, ({ query }) => {
    asked.push(query);
    const [offset, limit] = [Number(query.get('offset') ?? 0), Number(query.get('limit'))];
    const found = query.get('search') === 'nothing' ? 0 : TOTAL;
    const ids = Array.from({ length: Math.max(0, Math.min(limit, found - offset)) }, (_, i) => offset + i + 1);
    return {
      items: ids.map((n) => row(query.get('down') ? TOTAL + 1 - n : n)),
      ...{ next: null, total: found, from: '2026-11-01', to: '2027-11-01', now: NOW },
    };
  });
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const head = (name: string): HTMLElement => screen.getByRole('columnheader', { name: new RegExp(`^${name}`) });
const sortBy = (name: string): HTMLElement => within(head(name)).getByRole('button', { name });
const shownTags = (): string[] => screen.getAllByRole('link', { name: /^Q0\d+$/ }).map((a) => a.textContent);
const file = (): string =>
  within(screen.getByRole('region', { name: 'Assets' }))
    .getByRole('link', { name: 'CSV' })
    .getAttribute('href') ?? '';

describe('the order of the register', () => {
  it('is asked of the server, upward, downward and as at first, and so is the file', async () => {
    const { user } = house.open(<RegisterRoom />);
    expect(await screen.findByText('120 assets')).toBeDefined();
    expect([asked.at(-1)?.get('sort'), head('Asset').getAttribute('aria-sort'), file()]).toEqual([
      null,
      null,
      '/api/assets.csv?',
    ]);
    await user.click(sortBy('Place'));
    await waitFor(() => expect(head('Place').getAttribute('aria-sort')).toBe('ascending'));
    await waitFor(() => expect([asked.at(-1)?.get('sort'), asked.at(-1)?.get('down')]).toEqual(['place', null]));
    await user.click(sortBy('Place'));
    await waitFor(() => expect(head('Place').getAttribute('aria-sort')).toBe('descending'));
    expect(file()).toBe('/api/assets.csv?sort=place&down=1');
    await waitFor(() => expect(shownTags()[0]).toBe('Q0120'));
    expect(document.activeElement).toBe(sortBy('Place'));
    await user.click(sortBy('Place'));
    await waitFor(() => expect(shownTags()[0]).toBe('Q0001'));
    expect([head('Place').getAttribute('aria-sort'), file()]).toEqual([null, '/api/assets.csv?']);
  });

  it('is offered only where the server can, and another column takes its place', async () => {
    const { user } = house.open(<RegisterRoom />);
    await screen.findByText('120 assets');
    expect(within(head('Cover today')).queryByRole('button', { name: 'Cover today' })).toBeNull();
    await user.click(sortBy('Place'));
    await user.click(sortBy('Asset'));
    await waitFor(() => expect(head('Asset').getAttribute('aria-sort')).toBe('ascending'));
    expect(head('Place').getAttribute('aria-sort')).toBeNull();
  });
});

describe('the rows of the register', () => {
  it('are fetched where they are seen, and the keys go past the piece that was fetched first', async () => {
    const { user } = house.open(<RegisterRoom />);
    await screen.findByText('Q0001');
    expect(new Set(asked.map((q) => q.get('offset')))).toEqual(new Set(['0']));
    const table = screen.getByRole('table', { name: 'Assets' });
    expect(table.getAttribute('aria-rowcount')).toBe('121');
    await user.keyboard('j'.repeat(60));
    await waitFor(() => expect(asked.some((q) => q.get('offset') === '50')).toBe(true));
    // Enter opens once the row is there.
    await waitFor(async () => {
      await user.keyboard('{Enter}');
      expect(screen.getByText('elsewhere')).toBeDefined();
    });
  });

  it('say a state that is not the usual one', async () => {
    house.open(<RegisterRoom />);
    const scrapped = (await screen.findByText('Q0003')).closest('[role="row"]') as HTMLElement;
    const usual = screen.getByText('Q0004').closest('[role="row"]') as HTMLElement;
    expect([within(scrapped).queryByText('scrapped'), within(usual).queryByText('in service')]).toEqual([
      expect.anything(),
      null,
    ]);
  });

  it('that fit no filter are said to be none, and the filter is lifted', async () => {
    const { user } = house.open(<RegisterRoom />);
    await user.type(await screen.findByLabelText('Tag, serial or model'), 'nothing');
    expect(await screen.findByText(/No asset fits this filter\./)).toBeDefined();
    await user.click(screen.getByRole('button', { name: 'Lift the filter' }));
    expect(await screen.findByText('Q0001')).toBeDefined();
    expect(screen.getByLabelText<HTMLInputElement>('Tag, serial or model').value).toBe('');
  });

  it('ticked ones are changed together, and just those', async () => {
    const effect = { will: 2, unchanged: 0, refused: [], remarks: [] };
    const ids: unknown[] = [];
    house.answer(previewBulk, () => effect);
    house.answer(changeMany, ({ body }) => {
      ids.push((body as { ids: unknown }).ids);
      return effect;
    });
    const { user } = house.open(<RegisterRoom />);
    for (const n of ['Q0002', 'Q0005', 'Q0006'])
      await user.click(await screen.findByRole('checkbox', { name: `Tick ${n}` }));
    await user.click(screen.getByRole('checkbox', { name: 'Tick Q0006' }));
    await user.click(screen.getByRole('button', { name: 'Change 2 ticked assets…' }));
    await user.selectOptions(await screen.findByLabelText('What changes'), 'owner');
    await user.click(await screen.findByRole('button', { name: 'Change 2 assets' }));
    expect(await screen.findByText('2 assets changed.')).toBeDefined();
    expect(ids).toEqual([[2, 5]]);
    // What was changed is ticked no more.
    expect(screen.queryByRole('button', { name: /ticked/ })).toBeNull();
  });

  it('are ticked with Shift up to the one before, and all at once with the box above', async () => {
    const { user } = house.open(<RegisterRoom />);
    const box = (name: string): Promise<HTMLInputElement> =>
      screen.findByRole<HTMLInputElement>('checkbox', { name: `Tick ${name}` });
    await user.click(await box('Q0003'));
    await user.keyboard('{Shift>}');
    await user.click(await box('Q0008'));
    await user.keyboard('{/Shift}');
    expect(await screen.findByRole('button', { name: 'Change 6 ticked assets…' })).toBeDefined();
    expect((await box('all 120')).indeterminate).toBe(true);
    // Back with Shift: they become as the last one does.
    await user.keyboard('{Shift>}');
    await user.click(await box('Q0005'));
    await user.keyboard('{/Shift}');
    expect(await screen.findByRole('button', { name: 'Change 2 ticked assets…' })).toBeDefined();
    await user.click(await box('all 120'));
    expect(await screen.findByRole('button', { name: 'Change 120 ticked assets…' })).toBeDefined();
    // Read from the server in as few pieces as it gives.
    expect(asked.filter((q) => q.get('limit') === '120').map((q) => q.get('offset'))).toEqual(['0']);
    await user.click(await box('all 120'));
    expect(screen.queryByRole('button', { name: /ticked/ })).toBeNull();
  });

  it('are ticked with Shift from the one before in the same order only', async () => {
    const { user } = house.open(<RegisterRoom />);
    await user.click(await screen.findByRole('checkbox', { name: 'Tick Q0002' }));
    await user.click(sortBy('Place'));
    await user.click(sortBy('Place'));
    await user.keyboard('{Shift>}');
    await user.click(await screen.findByRole('checkbox', { name: 'Tick Q0116' }));
    await user.keyboard('{/Shift}');
    expect(await screen.findByRole('button', { name: 'Change 2 ticked assets…' })).toBeDefined();
  });

  it('that cannot be read are said, and nothing is ticked', async () => {
    const { user } = house.open(<RegisterRoom />);
    await user.click(await screen.findByRole('checkbox', { name: 'Tick Q0001' }));
    house.answer(listAssets, () => refusal(null, 'The register rests for a minute.', { status: 503 }));
    await user.click(await screen.findByRole('checkbox', { name: 'Tick all 120' }));
    expect(await screen.findByText('✕ The register rests for a minute.')).toBeDefined();
    expect(screen.getByRole('button', { name: 'Change 1 ticked asset…' })).toBeDefined();
  });

  it('cannot be ticked by whoever may not change them', async () => {
    house = Object.assign(house, testHouse(NOW, 'technician'));
    house.answer(listCustomers, () => ({ items: [], next: null, total: 0 }));
    house.answer(listAssets, () => ({
      ...{ items: [row(1)], next: null, total: 1, from: '2026-11-01', to: '2027-11-01', now: NOW },
    }));
    house.open(<RegisterRoom />);
    expect(await screen.findByText('Q0001')).toBeDefined();
    expect(screen.queryByRole('checkbox')).toBeNull();
  });
});
