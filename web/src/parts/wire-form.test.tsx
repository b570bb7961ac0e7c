// @vitest-environment jsdom
// The form over a contract: shape refused at its field before sending, the server's refusal at its field after, nothing lost.
import { cleanup, render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { createMemoryRouter, Link, RouterProvider } from 'react-router';
import * as v from 'valibot';
import { afterEach, beforeAll, describe, expect, it, vi } from 'vitest';
import type { Problem } from '#api/shapes.ts';
import { useWireForm, WireForm, WireLongText, WireSelect, WireText, WireTick } from './wire-form.tsx';

const contract = {
  body: v.object({
    name: v.pipe(v.string(), v.trim(), v.minLength(1, 'This is needed.')),
    phone: v.nullable(v.string()),
    kind: v.picklist(['mail', 'push']),
    text: v.string(),
    active: v.boolean(),
  }),
};
const START = { name: 'Ana', phone: null, kind: 'mail' as const, text: '', active: true };
type Send = (body: v.InferOutput<typeof contract.body>) => Promise<{ data?: object; error?: unknown }>;

function Shown({ send, onDone }: { send: Send; onDone: () => void }) {
  const form = useWireForm(contract, START);
  return (
    <WireForm form={form} name="Person" save="Save" send={send} onDone={onDone}>
      <WireText name="name" label="Name" />
      <WireText name="phone" label="Phone" empty={null} />
      <WireSelect
        name="kind"
        label="Told by"
        options={[
          ['mail', 'mail'],
          ['push', 'push'],
        ]}
      />
      <WireLongText name="text" label="Text" />
      <WireTick name="active" label="May sign in" />
      <Link to="/away">Away</Link>
    </WireForm>
  );
}

function open(send: Send) {
  const onDone = vi.fn();
  const routes = [
    { path: '/', element: <Shown send={send} onDone={onDone} /> },
    { path: '/away', element: <p>Elsewhere</p> },
  ];
  render(<RouterProvider router={createMemoryRouter(routes)} />);
  return { onDone, user: userEvent.setup() };
}
const problem = (errors: Problem['errors'], detail = 'Not so.'): Problem => ({
  type: 'urn:stavok:problem:x',
  title: 'x',
  status: 422,
  code: 'x',
  detail,
  errors,
});

beforeAll(() => {
  // jsdom has no dialogs that float.
  Object.assign(HTMLDialogElement.prototype, {
    showModal(this: HTMLDialogElement) {
      this.open = true;
    },
    close(this: HTMLDialogElement) {
      this.open = false;
    },
  });
});
afterEach(cleanup);

describe('a form over a contract', () => {
  it('sends what was typed as the schema reads it, and is done', async () => {
    const send = vi.fn<Send>().mockResolvedValue({ data: {} });
    const { user, onDone } = open(send);
    await user.type(screen.getByLabelText('Name'), '  Maria ');
    await user.type(screen.getByLabelText('Phone'), '12');
    await user.clear(screen.getByLabelText('Phone'));
    await user.selectOptions(screen.getByLabelText('Told by'), 'push');
    await user.click(screen.getByLabelText('May sign in'));
    await user.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(onDone).toHaveBeenCalledOnce());
    expect(send).toHaveBeenCalledExactlyOnceWith({
      name: 'Ana  Maria',
      phone: null,
      kind: 'push',
      text: '',
      active: false,
    });
  });

  it('says at the field what is wrong with its shape, and sends nothing', async () => {
    const send = vi.fn<Send>();
    const { user } = open(send);
    await user.clear(screen.getByLabelText('Name'));
    await user.click(screen.getByRole('button', { name: 'Save' }));
    expect(await screen.findByText(/This is needed\./)).toBeDefined();
    expect(screen.getByLabelText('Name').getAttribute('aria-invalid')).toBe('true');
    expect(send).not.toHaveBeenCalled();
  });

  it('puts what the server refuses at its field, keeps everything typed, and can be sent again', async () => {
    const send = vi
      .fn<Send>()
      .mockResolvedValueOnce({ error: problem([{ field: 'name', message: 'That name is taken.', code: 'taken' }]) })
      .mockResolvedValueOnce({ data: {} });
    const { user, onDone } = open(send);
    await user.type(screen.getByLabelText('Text'), 'long words');
    await user.click(screen.getByRole('button', { name: 'Save' }));
    expect(await screen.findByText(/That name is taken\./)).toBeDefined();
    expect(screen.getByLabelText<HTMLTextAreaElement>('Text').value).toBe('long words');
    expect(onDone).not.toHaveBeenCalled();
    await user.type(screen.getByLabelText('Name'), ' B');
    await user.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(onDone).toHaveBeenCalledOnce());
  });

  it('says above its buttons what belongs to no field of it', async () => {
    const send = vi.fn<Send>().mockResolvedValue({
      error: problem([{ field: 'elsewhere', message: 'The order is done.', code: 'x' }]),
    });
    const { user } = open(send);
    await user.click(screen.getByRole('button', { name: 'Save' }));
    expect((await screen.findByRole('alert')).textContent).toContain('The order is done.');
  });

  it('asks before something typed is left behind, and not before', async () => {
    const { user } = open(vi.fn<Send>());
    await user.type(screen.getByLabelText('Name'), 'x');
    await user.click(screen.getByText('Away'));
    await user.click(await screen.findByText('Stay here'));
    expect(screen.getByLabelText<HTMLInputElement>('Name').value).toBe('Anax');
    await user.click(screen.getByText('Away'));
    await user.click(await screen.findByText('Leave it'));
    expect(await screen.findByText('Elsewhere')).toBeDefined();
  });

  it('lets go at once when nothing was typed', async () => {
    const { user } = open(vi.fn<Send>());
    await user.click(screen.getByText('Away'));
    expect(await screen.findByText('Elsewhere')).toBeDefined();
  });
});
