// @vitest-environment jsdom
// A date is typed loosely or picked; nothing typed is lost.
import { useState } from 'react';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, describe, expect, it, vi } from 'vitest';

vi.mock('../shell/store.ts', () => ({
  server: {
    useReadSessionQuery: () => ({
      data: { person: { zone: 'Europe/Lisbon' }, now: Date.parse('2026-11-24T09:20:00Z') },
    }),
  },
}));
const { DateField } = await import('./date-field.tsx');
// Loaded when the calendar is first opened; here before, so that no test waits for it.
await import('./month.tsx');

afterEach(cleanup);

function open(first = '') {
  const changes: string[] = [];
  function Shown() {
    const [value, setValue] = useState(first);
    return (
      <DateField
        label="From"
        value={value}
        onChange={(v) => {
          changes.push(v);
          setValue(v);
        }}
      />
    );
  }
  render(<Shown />);
  return { user: userEvent.setup(), changes, field: screen.getByLabelText<HTMLInputElement>('From') };
}

describe('a date', { timeout: 30_000 }, () => {
  it.each([
    ['17 mar 2026', '2026-03-17'],
    ['17/3/2026', '2026-03-17'],
    ['2026-03-17', '2026-03-17'],
  ])('typed as %s is handed on as %s and shown in words once left', async (typed, handed) => {
    const { user, changes, field } = open();
    await user.type(field, typed);
    expect(changes.at(-1)).toBe(handed);
    expect(field.value).toBe(typed);
    await user.tab();
    expect(field.value).toBe('Tue 17 Mar 2026');
  });

  it('that cannot be read stays as typed, with what would be right', async () => {
    const { user, changes, field } = open();
    await user.type(field, '31 feb 2026');
    await user.tab();
    expect([changes.at(-1), field.value]).toEqual(['31 feb 2026', '31 feb 2026']);
    expect(screen.getByText('Write it as 17 Mar 2026 or 17/3/2026.', { exact: false })).toBeDefined();
  });

  it('is picked from its month, by the keys too, and the calendar closes', async () => {
    const { user, changes, field } = open('2026-03-17');
    await user.click(screen.getByRole('button', { name: 'Open the calendar' }));
    await screen.findByRole('grid', {}, { timeout: 10_000 });
    expect(screen.getAllByRole('columnheader', { hidden: true })[0]?.textContent).toBe('Mo');
    await user.click(screen.getByRole('button', { name: /19 March 2026|March 19/ }));
    expect(changes).toEqual(['2026-03-19']);
    expect(field.value).toBe('Thu 19 Mar 2026');
    expect(screen.queryByRole('grid')).toBeNull();
    await user.click(screen.getByRole('button', { name: 'Open the calendar' }));
    await screen.findByRole('grid', {}, { timeout: 10_000 });
    await user.keyboard('{ArrowDown}{Enter}');
    expect(changes.at(-1)).toBe('2026-03-26');
  });

  it('opens at today’s month where nothing is chosen, in the reader’s zone', async () => {
    const { user } = open();
    await user.click(screen.getByRole('button', { name: 'Open the calendar' }));
    await screen.findByRole('grid', {}, { timeout: 10_000 });
    expect(screen.getByRole<HTMLSelectElement>('combobox', { name: /year/i }).value).toBe('2026');
  });
});
