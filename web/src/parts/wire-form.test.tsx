// @vitest-environment jsdom
// The form over a contract: shape refused at its field before sending, the server's refusal at its field after, nothing lost.
import { cleanup, render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { createMemoryRouter, Link, RouterProvider } from 'react-router';
import * as v from 'valibot';
import { afterEach, beforeAll, describe, expect, it, vi } from 'vitest';
import type { Problem } from '#api/shapes.ts';
import { Dialog } from '../shell/dialog.tsx';
import { AskBeforeLeaving } from '../shell/leaving.tsx';
import { WireLongText, WireNumber, WireSelect, WireText, WireTick } from './wire-fields.tsx';
import { useWireForm, Wire, WireForm } from './wire-form.tsx';

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
    {
      path: '/',
      element: (
        <>
          <Shown send={send} onDone={onDone} />
          <AskBeforeLeaving />
        </>
      ),
    },
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
  it('sends what was typed, for the server to read by the same schema, and is done', async () => {
    const send = vi.fn<Send>().mockResolvedValue({ data: {} });
    const { user, onDone } = open(send);
    await user.type(screen.getByLabelText('Name'), '  Maria ');
    await user.type(screen.getByLabelText('Phone'), '12');
    await user.clear(screen.getByLabelText('Phone'));
    await user.selectOptions(screen.getByLabelText('Told by'), 'push');
    await user.click(screen.getByLabelText('May sign in'));
    await user.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(onDone).toHaveBeenCalledOnce());
    expect(send).toHaveBeenCalledOnce();
    expect(send.mock.calls[0]?.[0]).toEqual({
      name: 'Ana  Maria ',
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

describe('a form whose parts lie deep', () => {
  const deep = {
    body: v.object({
      version: v.number(),
      terms: v.object({
        months: v.nullable(v.pipe(v.number(), v.integer(), v.minValue(1, 'At least one month.'))),
        shares: v.pipe(v.array(v.pipe(v.number(), v.maxValue(100, 'At most 100 %.')))),
      }),
    }),
  };
  type Deep = v.InferInput<typeof deep.body>;
  type SendDeep = (body: Deep, seen: number | undefined) => Promise<{ data?: object; error?: unknown }>;

  function ShownDeep({ send, onDone }: { send: SendDeep; onDone: () => void }) {
    const form = useWireForm(deep, { version: 3, terms: { months: 12, shares: [50, 200] } });
    return (
      <WireForm form={form} name="Terms" save="Save" send={send} onDone={onDone}>
        <WireNumber name="terms.months" label="Months" empty={null} />
        <WireNumber name="cents" label="Unrelated" per={100} />
        <Wire<number[]> name="terms.shares">
          {({ value, change, errorAt }) =>
            value.map((share, i) => (
              <label key={i}>
                Share {i}
                <input
                  value={share}
                  onChange={(e) => change(value.map((s, n) => (n === i ? Number(e.target.value) : s)))}
                />
                {errorAt(String(i))}
              </label>
            ))
          }
        </Wire>
      </WireForm>
    );
  }
  const openDeep = (send: SendDeep) => {
    const onDone = vi.fn();
    render(
      <RouterProvider
        router={createMemoryRouter([{ path: '/', element: <ShownDeep send={send} onDone={onDone} /> }])}
      />,
    );
    return { onDone, user: userEvent.setup() };
  };

  it('says at the part what is wrong with it, before and after it was sent', async () => {
    const send = vi.fn<SendDeep>().mockResolvedValue({
      error: problem([{ field: 'terms.shares.0', message: 'Too much for labour.', code: 'x' }]),
    });
    const { user } = openDeep(send);
    await user.click(screen.getByRole('button', { name: 'Save' }));
    expect(await screen.findByText(/At most 100 %\./)).toBeDefined();
    expect(send).not.toHaveBeenCalled();
    await user.clear(screen.getByLabelText(/Share 1/));
    await user.type(screen.getByLabelText(/Share 1/), '20');
    await user.click(screen.getByRole('button', { name: 'Save' }));
    expect(await screen.findByText(/Too much for labour\./)).toBeDefined();
    expect(screen.queryByRole('alert')).toBeNull();
  });

  it('keeps numbers as numbers, nothing as what stands for nothing, and gives the keys to what is wrong', async () => {
    const send = vi.fn<SendDeep>().mockResolvedValue({ data: {} });
    const { user, onDone } = openDeep(send);
    await user.clear(screen.getByLabelText(/Share 1/));
    await user.clear(screen.getByLabelText('Months'));
    await user.type(screen.getByLabelText('Months'), '0');
    await user.click(screen.getByRole('button', { name: 'Save' }));
    expect(await screen.findByText(/At least one month\./)).toBeDefined();
    expect(document.activeElement).toBe(screen.getByLabelText('Months'));
    await user.clear(screen.getByLabelText('Months'));
    await user.type(screen.getByLabelText('Unrelated'), '1.5');
    await user.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(onDone).toHaveBeenCalledOnce());
    expect(send.mock.calls[0]?.[0]).toEqual({ version: 3, terms: { months: null, shares: [50, 0] }, cents: 150 });
  });

  it('is sent over somebody else’s change once that was said', async () => {
    const stale = { ...problem([], 'Somebody changed this meanwhile.'), code: 'stale', current: { version: 8 } };
    const send = vi.fn<SendDeep>().mockResolvedValueOnce({ error: stale }).mockResolvedValueOnce({ data: {} });
    const { user, onDone } = openDeep(send);
    await user.clear(screen.getByLabelText(/Share 1/));
    await user.click(screen.getByRole('button', { name: 'Save' }));
    expect((await screen.findByRole('alert')).textContent).toContain('Somebody changed this meanwhile.');
    await user.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(onDone).toHaveBeenCalledOnce());
    expect(send.mock.calls.map(([body, seen]) => [body.version, seen])).toEqual([
      [3, undefined],
      [8, 8],
    ]);
  });
});

describe('a form that floats', () => {
  function Floating({ onClose }: { onClose: () => void }) {
    const form = useWireForm(contract, START);
    return (
      <Dialog title="Person" onClose={onClose}>
        <WireForm form={form} name="Person" save="Save" send={() => Promise.resolve({ data: {} })} onDone={onClose}>
          <WireText name="name" label="Name" />
        </WireForm>
      </Dialog>
    );
  }

  it('closes by Esc as long as nothing is typed, and asks once something is', async () => {
    const onClose = vi.fn();
    const user = userEvent.setup();
    render(<Floating onClose={onClose} />);
    await user.type(screen.getByLabelText('Name'), 'x');
    await user.keyboard('{Escape}');
    await user.click(await screen.findByText('Stay here'));
    expect(onClose).not.toHaveBeenCalled();
    expect(screen.getByLabelText<HTMLInputElement>('Name').value).toBe('Anax');
    await user.type(screen.getByLabelText('Name'), '{Backspace}');
    await user.keyboard('{Escape}');
    expect(onClose).toHaveBeenCalledOnce();
  });
});
