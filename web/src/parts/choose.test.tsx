// @vitest-environment jsdom
// Choosing one of many: asked while typing, walked with the keys, given up without loss, never a list of everything.
import { useState } from 'react';
import { cleanup, render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { Choose, type Choice } from './choose.tsx';

const ALL: Choice[] = [
  { id: 1, name: 'Horta Nova Biobank', beside: 'Rua da Horta 55' },
  { id: 2, name: 'Alvorim Hospitals' },
  { id: 3, mark: 'Q0101', name: 'Ultra-low freezer' },
];
afterEach(cleanup);

function Shown({
  first = null,
  onChoose,
  asked,
}: {
  first?: Choice | null;
  onChoose: (c: Choice | null) => void;
  asked: (typed: string) => void;
}) {
  const [chosen, setChosen] = useState<Choice | null>(first);
  return (
    <>
      <Choose
        label="Customer"
        chosen={chosen}
        onChoose={(c) => {
          setChosen(c);
          onChoose(c);
        }}
        none="every customer"
        useFind={(typed, isOpen) => {
          if (isOpen) asked(typed);
          const fitting = ALL.filter((c) => c.name.toLowerCase().includes(typed.toLowerCase()));
          return { choices: fitting.slice(0, 2), more: fitting.length > 2, isLooking: false };
        }}
      />
      <button>Elsewhere</button>
    </>
  );
}
function open(first: Choice | null = null) {
  const [onChoose, asked] = [vi.fn(), vi.fn()];
  render(<Shown first={first} onChoose={onChoose} asked={asked} />);
  return {
    onChoose,
    asked,
    user: userEvent.setup(),
    field: screen.getByRole<HTMLInputElement>('combobox', { name: 'Customer' }),
  };
}
const names = () => screen.queryAllByRole('option').map((o) => o.textContent);

describe('choosing', () => {
  it('asks nobody before it is opened, and says that there are more', async () => {
    const { asked, user, field } = open();
    expect(asked).not.toHaveBeenCalled();
    await user.click(field);
    await waitFor(() => expect(names()).toHaveLength(2));
    expect(screen.getByText(/There are more/)).toBeDefined();
  });

  it('finds by what is typed and takes the one the keys stand at', async () => {
    const { onChoose, user, field } = open();
    await user.type(field, 'alvo');
    await waitFor(() => expect(names()).toEqual(['Alvorim Hospitals']));
    await user.keyboard('{ArrowDown}{Enter}');
    expect(onChoose).toHaveBeenLastCalledWith(ALL[1]);
    expect(field.value).toBe('Alvorim Hospitals');
    expect(names()).toEqual([]);
  });

  it('says what to do when nothing answers', async () => {
    const { user, field } = open();
    await user.type(field, 'zzz');
    expect(await screen.findByText(/Nothing answers to “zzz”/)).toBeDefined();
  });

  it('left in the middle says again what was chosen before', async () => {
    const { onChoose, user, field } = open(ALL[2]);
    expect(field.value).toBe('Q0101 Ultra-low freezer');
    await user.clear(field);
    await user.type(field, 'ho');
    await user.click(screen.getByText('Elsewhere'));
    await waitFor(() => expect(field.value).toBe('Q0101 Ultra-low freezer'));
    expect(onChoose).not.toHaveBeenCalled();
  });

  it('is taken back where nothing may be chosen', async () => {
    const { onChoose, user, field } = open(ALL[0]);
    await user.click(screen.getByRole('button', { name: 'Customer: every customer' }));
    expect(onChoose).toHaveBeenLastCalledWith(null);
    expect([field.value, field.placeholder]).toEqual(['', 'every customer']);
  });
});
