// @vitest-environment jsdom
// What floats: the keys go in, stay in, and come back.
import { useState } from 'react';
import { cleanup, render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, describe, expect, it } from 'vitest';
import { Dialog } from './dialog.tsx';

afterEach(cleanup);

function Shown({ vanishes = false }: { vanishes?: boolean }) {
  const [open, setOpen] = useState(false);
  const [gone, setGone] = useState(false);
  return (
    <main>
      <section>
        {!gone && <button onClick={() => setOpen(true)}>Retire</button>}
        <button>Next</button>
      </section>
      {open && (
        <Dialog
          title="Retire it"
          onClose={() => {
            setOpen(false);
            setGone(vanishes);
          }}
        >
          <button>Before the field</button>
          <input aria-label="Why" />
          <button
            onClick={() => {
              setOpen(false);
              setGone(vanishes);
            }}
          >
            Do it
          </button>
        </Dialog>
      )}
    </main>
  );
}

describe('a dialog', { timeout: 30_000 }, () => {
  it('takes the keys to its first field, keeps them, and gives them back when closed by Esc', async () => {
    const user = userEvent.setup();
    render(<Shown />);
    await user.click(screen.getByRole('button', { name: 'Retire' }));
    expect(screen.getByRole('dialog', { name: 'Retire it' })).toBeDefined();
    expect(document.activeElement).toBe(screen.getByLabelText('Why'));
    for (let i = 0; i < 6; i += 1) {
      await user.tab();
      expect(screen.getByRole('dialog').contains(document.activeElement)).toBe(true);
    }
    expect(screen.queryByRole('button', { name: 'Next' })).toBeNull();
    await user.keyboard('{Escape}');
    expect(screen.queryByRole('dialog')).toBeNull();
    await waitFor(() => expect(document.activeElement).toBe(screen.getByRole('button', { name: 'Retire' })));
  });

  it('is closed by Esc also when its button took the keys with it', async () => {
    const user = userEvent.setup();
    render(<Shown />);
    await user.click(screen.getByRole('button', { name: 'Retire' }));
    const field = screen.getByLabelText<HTMLInputElement>('Why');
    field.blur();
    expect(document.activeElement).toBe(document.body);
    await user.keyboard('{Escape}');
    expect(screen.queryByRole('dialog')).toBeNull();
  });

  it('gives them to the next act of the same part where its own button is gone', async () => {
    const user = userEvent.setup();
    render(<Shown vanishes />);
    await user.click(screen.getByRole('button', { name: 'Retire' }));
    await user.click(screen.getByRole('button', { name: 'Do it' }));
    await waitFor(() => expect(document.activeElement).toBe(screen.getByRole('button', { name: 'Next' })));
  });
});
