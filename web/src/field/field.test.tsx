// @vitest-environment jsdom
// Field's screens over the real phone: what is done without a network is shown and kept, sent in order when there is one, and what is
// refused, full, locked or another's is said and loses nothing.
import { screen, waitFor } from '@testing-library/react';
import { describe, expect, it, vi } from 'vitest';
import { go, ME, NOW, onOnePhone, openPhone, press, ready, repair, sent, status, write } from './testing.tsx';

onOnePhone();

describe('a day without a network', () => {
  it('shows what is done at once, keeps it, and sends it in order when there is one', async () => {
    const house = await openPhone('/order/7');
    expect(await screen.findByText('Ring twice')).toBeTruthy();
    await press(house, 'I am there');
    await screen.findByRole('button', { name: 'Back in use' });
    await press(house, /look for leaks/);
    await go(house, 'Note');
    await write(house, /For the office/, 'key at the desk');
    await press(house, 'Keep the note');
    await waitFor(() => expect(status()).toContain('3 acts wait to be sent'));
    expect(house.office.taken).toEqual([]);
    await sent(house);
    expect(house.office.taken.map(({ body }) => (body.kind === 'order' ? body.act.kind : body.kind))).toEqual([
      ...['arrived', 'task', 'note'],
    ]);
    // What needs the arrival says so.
    expect(house.office.taken[1]?.needs).toEqual([house.office.taken[0]?.deed]);
  });

  it('a workaround is told where one is still owed, with how it works, and is no longer owed then', async () => {
    const dueAt = NOW + 60 * 60_000;
    const clock = {
      ...{ orderId: 7, assetId: 3, tag: 'Q0119', target: 'workaround', state: 'running', promisedMinutes: 240 },
      ...{ warnPercent: 25, measure: 'elapsed time', startedAt: NOW, dueAt, stoppedAt: null, left: 1, over: null },
      ...{ note: null, zone: 'Europe/Lisbon' },
    };
    const house = await openPhone('/order/7', { orders: [repair(7, { clocks: [clock] } as never)] });
    await press(house, 'I am there');
    await go(house, 'Works for now');
    expect((await screen.findByRole('button', { name: 'Say so' })).hasAttribute('disabled')).toBe(true);
    await write(house, /How it works/, 'second fan runs');
    await press(house, 'Say so');
    await screen.findByRole('button', { name: 'Back in use' });
    await waitFor(() => expect(screen.queryByRole('link', { name: 'Works for now' })).toBeNull());
    await sent(house);
    expect(house.office.taken.at(-1)?.body).toMatchObject({
      act: { kind: 'worked around', lineId: null, text: 'second fan runs' },
    });
  });

  it('an answer that was lost is asked for again with the same id, and taken once', async () => {
    const house = await openPhone('/order/7');
    await press(house, 'I am there');
    const [waiting] = house.phone.state().queue;
    // The phone turned to sending it by itself, in vain; then it arrived, and nothing was heard of it.
    await new Promise((is) => setTimeout(is, 150));
    house.office.net = 'there';
    const heard = globalThis.fetch;
    vi.stubGlobal('fetch', async (address: string, init: RequestInit) => {
      const said = await heard(address, init);
      if (address === '/api/field/acts' && house.office.came.length === 1) throw new TypeError('lost');
      return said;
    });
    house.phone.look();
    await waitFor(() => expect(house.office.came).toHaveLength(1));
    await waitFor(() => expect(house.phone.state().isSending).toBe(false));
    expect(house.phone.state().queue).toHaveLength(1);
    await sent(house);
    expect(house.office.came).toEqual([waiting?.act.id, waiting?.act.id]);
    expect(house.office.taken).toHaveLength(1);
  });

  it('refused, it stands with its reason; tried again or let go it is over, and others are not held up', async () => {
    const house = await openPhone('/order/7');
    await press(house, 'I am there');
    await go(house, 'Note');
    await write(house, /For the office/, 'sold');
    await press(house, 'Keep the note');
    house.office.refuse = ({ body }) =>
      body.kind === 'order' && body.act.kind === 'arrived' ? 'It was called off.' : null;
    house.office.net = 'there';
    house.phone.look();
    await waitFor(() => expect(status()).toContain('1 not taken'));
    expect(house.office.taken.map(({ body }) => (body.kind === 'order' ? body.act.kind : ''))).toEqual(['note']);
    await go(house, /not taken/);
    expect(await screen.findByText(/It was called off/)).toBeTruthy();
    const before = house.office.came.length;
    await press(house, 'Try it again');
    await waitFor(() => expect(house.office.came.length).toBeGreaterThan(before));
    await screen.findByText(/It was called off/);
    await press(house, /^Let it go/);
    await press(house, /Yes, let it go/);
    expect(await screen.findByText('Everything is at the office.')).toBeTruthy();
  });
});

describe('nothing is lost', () => {
  it('where the phone is full it says so, keeps what was typed, and goes on when there is room', async () => {
    const house = await openPhone('/order/7/note');
    await write(house, /For the office/, 'the door sticks');
    house.kept.room.isFull = true;
    await press(house, 'Keep the note');
    expect(await screen.findByText(/no room left/)).toBeTruthy();
    expect(house.bodies()).toEqual([]);
    expect(screen.getByLabelText<HTMLTextAreaElement>(/For the office/).value).toBe('the door sticks');
    house.kept.room.isFull = false;
    await ready('Keep the note');
    await press(house, 'Keep the note');
    await waitFor(() => expect(house.bodies()).toHaveLength(1));
  });

  it('what was typed and not kept is there again', async () => {
    const house = await openPhone('/order/7');
    await press(house, 'I am there');
    await go(house, 'Help');
    await write(house, 'Who helped', 'Ilse');
    await write(house, /What they said/, 'turn the fan by hand');
    await go(house, /Fan noisy/);
    await go(house, 'Help');
    expect((await screen.findByLabelText<HTMLInputElement>('Who helped')).value).toBe('Ilse');
    await write(house, 'Minutes', 'x');
    await press(house, 'Keep it');
    expect(await screen.findByText(/Write whole minutes/)).toBeTruthy();
    await write(house, 'Minutes', '20');
    await ready('Keep it');
    await press(house, 'Keep it');
    await waitFor(() =>
      expect(house.bodies().slice(1)).toMatchObject([
        { kind: 'order', act: { kind: 'note', text: 'Help from Ilse, 20 min: turn the fan by hand' } },
      ]),
    );
  });

  it('signed out by the server the phone is locked; the same person goes on, another may not', async () => {
    const house = await openPhone('/order/7');
    await press(house, 'I am there');
    house.office.net = 'signed out';
    house.phone.look();
    await press(house, /Duarte Moura/);
    expect(await screen.findByText(/Work of Renata Valdês waits/)).toBeTruthy();
    expect(screen.queryByText('Fan noisy')).toBeNull();
    await press(house, /Renata Valdês/);
    await waitFor(() => expect(house.office.taken).toHaveLength(1));
    expect(house.office.taken[0]?.body).toMatchObject({ kind: 'order', orderId: 7, act: { kind: 'arrived' } });
  });

  it('signing out with something waiting asks first, and then leaves nothing behind', async () => {
    const house = await openPhone('/order/7');
    await press(house, 'I am there');
    await go(house, ME.name);
    await press(house, 'Sign out');
    expect(await screen.findByText(/1 act was not sent/)).toBeTruthy();
    await press(house, 'Stay');
    expect(house.bodies()).toHaveLength(1);
    await press(house, 'Sign out');
    await press(house, 'Sign out and throw them away');
    await waitFor(() => expect(house.kept.held()).toMatchObject({ owner: null, queue: [], days: null }));
  });

  it('a file that is no photo, and one that is too large, are refused by name', async () => {
    const house = await openPhone('/order/7');
    const input = await screen.findByLabelText('Take a photo: photo');
    const { upload } = house.user;
    await upload(input, new File(['x'], 'notes.txt', { type: 'text/plain' }));
    const huge = new File(['x'], 'huge.jpg', { type: 'image/jpeg' });
    Object.defineProperty(huge, 'size', { value: 41 * 1024 * 1024 });
    await upload(input, huge);
    expect(await screen.findByText(/larger than 40 MB/)).toBeTruthy();
    expect(house.bodies()).toEqual([]);
  });
});
