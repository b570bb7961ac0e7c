// @vitest-environment jsdom
// A time of day by words and keys, a period, and tabs walked with the arrows.
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { afterEach, describe, expect, it, vi } from 'vitest';

vi.mock('../shell/store.ts', () => ({
  server: { useReadSessionQuery: () => ({ data: { now: Date.UTC(2026, 10, 24, 9, 20), person: { zone: 'UTC' } } }) },
}));

// Loaded when first opened; here before, for a busy machine takes its time.
await import('./month.tsx');
const { PeriodField } = await import('./period-field.tsx');
const { Tabs } = await import('./tabs.tsx');
const { TimeField } = await import('./time-field.tsx');

afterEach(cleanup);

describe('a time of day', () => {
  function Shown({ start }: { start: string }) {
    const [value, setValue] = useState(start);
    return <TimeField label="Time" value={value} onChange={setValue} />;
  }
  const field = (): HTMLInputElement => screen.getByLabelText('Time');

  it('is said as a clock shows it once it is left, and kept as typed where it cannot be read', async () => {
    const user = userEvent.setup();
    render(<Shown start="" />);
    await user.type(field(), '940');
    expect(field().value).toBe('940');
    await user.tab();
    expect(field().value).toBe('09:40');
    await user.clear(field());
    await user.type(field(), '99:99');
    await user.tab();
    expect(field().value).toBe('99:99');
  });

  it('goes to the next quarter of an hour with the arrow keys, past midnight too', async () => {
    const user = userEvent.setup();
    render(<Shown start="23:50" />);
    await user.type(field(), '{ArrowUp}');
    expect(field().value).toBe('00:00');
    await user.type(field(), '{ArrowDown}{ArrowDown}');
    expect(field().value).toBe('23:30');
  });
});

describe('a period', () => {
  it('hands on each day as it is typed, and both as they are picked on the calendar', async () => {
    const user = userEvent.setup();
    const changed = vi.fn();
    render(
      <PeriodField from={{ label: 'From', value: '2026-11-02' }} to={{ label: 'To', value: '' }} onChange={changed} />,
    );
    await user.type(screen.getByLabelText('To'), '17/12');
    expect(changed).toHaveBeenLastCalledWith({ to: '2026-12-17' });
    await user.click(screen.getByRole('button', { name: 'Pick both days' }));
    await user.click(await screen.findByRole('button', { name: /[^1-9]9(th)? November 2026/ }, { timeout: 5000 }));
    expect(changed).toHaveBeenLastCalledWith({ from: '2026-11-02', to: '2026-11-09' });
  });
});

describe('tabs', () => {
  function Shown() {
    const [part, setPart] = useState<'one' | 'two'>('one');
    return (
      <Tabs
        label="Parts"
        tabs={[
          ['one', 'First'],
          ['two', 'Second'],
        ]}
        chosen={part}
        onChoose={setPart}
      >
        what is in {part}
      </Tabs>
    );
  }

  it('show one part, chosen by pointer or arrows', async () => {
    const user = userEvent.setup();
    render(<Shown />);
    expect(screen.getByRole('tabpanel').textContent).toBe('what is in one');
    await user.click(screen.getByRole('tab', { name: 'Second' }));
    expect(screen.getByRole('tabpanel').textContent).toBe('what is in two');
    await user.keyboard('{ArrowLeft}');
    expect(screen.getByRole('tab', { name: 'First' }).getAttribute('aria-selected')).toBe('true');
  });
});
