// @vitest-environment jsdom
// Fields that read while one types: counts, words between commas, amounts; none of them rewrites what is being typed.
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { afterEach, describe, expect, it } from 'vitest';
import { CountField, Ticks, WordsField } from './fields.tsx';
import { MoneyField } from './money-field.tsx';

afterEach(cleanup);
const field = (label: string): HTMLInputElement => screen.getByLabelText(label);

describe('a count', () => {
  function Shown() {
    const [n, setN] = useState(25);
    return (
      <>
        <CountField label="Day" value={n} onChange={setN} min={1} max={31} />
        <p data-testid="held">{n}</p>
      </>
    );
  }
  const held = (): string | null => screen.getByTestId('held').textContent;

  it('can be emptied and typed anew, and is held only when it is one', async () => {
    const user = userEvent.setup({ delay: null });
    render(<Shown />);
    await user.clear(field('Day'));
    expect([field('Day').value, held()]).toEqual(['', '25']);
    await user.type(field('Day'), '3');
    expect(held()).toBe('3');
    await user.type(field('Day'), '2');
    expect(screen.getByText(/A whole number from 1 to 31\./)).toBeDefined();
    expect([field('Day').value, held()]).toEqual(['32', '3']);
    await user.tab();
    expect([field('Day').value, screen.queryByText(/A whole number/)]).toEqual(['3', null]);
  });
});

describe('words between commas', () => {
  function Shown() {
    const [words, setWords] = useState<readonly string[]>(['gaskets']);
    return (
      <>
        <WordsField label="Parts" value={words} onChange={setWords} />
        <p data-testid="held">{JSON.stringify(words)}</p>
      </>
    );
  }
  it('are handed on without blanks and empty places, and written tidily once left', async () => {
    const user = userEvent.setup({ delay: null });
    render(<Shown />);
    await user.type(field('Parts'), ' ,,  UV lamp ,');
    expect(field('Parts').value).toBe('gaskets ,,  UV lamp ,');
    expect(screen.getByTestId('held').textContent).toBe('["gaskets","UV lamp"]');
    await user.tab();
    expect(field('Parts').value).toBe('gaskets, UV lamp');
  });
});

describe('an amount of money', () => {
  function Shown({ currency }: { currency: string }) {
    const [minor, setMinor] = useState<number | null>(125_000);
    return (
      <>
        <MoneyField label="Price" value={minor} currency={currency} onChange={setMinor} />
        <p data-testid="held">{String(minor)}</p>
      </>
    );
  }
  it.each([
    ['EUR', '1,180', '118000'],
    ['EUR', '0.5', '50'],
    ['EUR', '', 'null'],
    ['EUR', 'a lot', 'NaN'],
    ['JPY', '1180', '1180'],
  ])('in %s typed as “%s” is %s of its smallest units', async (currency, typed, minor) => {
    const user = userEvent.setup({ delay: null });
    render(<Shown currency={currency} />);
    await user.clear(field(`Price, ${currency}`));
    if (typed) await user.type(field(`Price, ${currency}`), typed);
    expect(screen.getByTestId('held').textContent).toBe(minor);
    expect(field(`Price, ${currency}`).value).toBe(typed);
  });
});

describe('ticks', () => {
  it('add and take away what they name, and nothing else', async () => {
    const user = userEvent.setup({ delay: null });
    const seen: string[][] = [];
    render(<Ticks label="Kinds" values={['one', 'two', 'three']} chosen={['three']} onChange={(c) => seen.push(c)} />);
    await user.click(screen.getByLabelText('one'));
    await user.click(screen.getByLabelText('three'));
    expect(seen).toEqual([['three', 'one'], []]);
  });
});
