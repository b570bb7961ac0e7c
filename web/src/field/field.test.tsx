// @vitest-environment jsdom
// Field's screens over the real phone: what is done without a network is shown and kept, sent in order when there is one, and what is
// refused, full, locked or another's is said and loses nothing.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { lineScanned, partScanned } from './scan.tsx';
import { ME, openPhone, repair, vanPart, type PhoneHouse } from './testing.tsx';

// One window: others of the phone are told nothing.
beforeEach(() => void vi.stubGlobal('BroadcastChannel', undefined));
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const press = async ({ user }: PhoneHouse, name: string | RegExp): Promise<void> =>
  user.click(await screen.findByRole('button', { name }));
const go = async ({ user }: PhoneHouse, name: string | RegExp): Promise<void> =>
  user.click(await screen.findByRole('link', { name }));
/** A button that was pressed just now takes nothing for a moment. */
const ready = (name: string): Promise<void> =>
  waitFor(() => expect(screen.getByRole('button', { name }).hasAttribute('disabled')).toBe(false));
const write = async ({ user }: PhoneHouse, label: string | RegExp, text: string): Promise<void> => {
  const field = await screen.findByLabelText(label);
  await user.clear(field);
  if (text !== '') await user.type(field, text);
};
const status = (): string => screen.getByRole('status', { name: 'Sending' }).textContent;
const sent = async (house: PhoneHouse): Promise<void> => {
  house.office.net = 'there';
  house.phone.look();
  await waitFor(() => expect(house.phone.state().queue).toEqual([]));
};

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

  it('an answer that was lost is asked for again with the same id, and taken once', async () => {
    const house = await openPhone('/order/7');
    await press(house, 'I am there');
    const [waiting] = house.phone.state().queue;
    // It arrived, and nothing was heard of it.
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
    await press(house, 'Try it again');
    await waitFor(() => expect(house.office.came).toHaveLength(3));
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

describe('on site', () => {
  it('a form refuses at its question, says what is expected, and keeps the answers', async () => {
    const house = await openPhone('/order/7');
    await press(house, 'I am there');
    await go(house, /Pressure/);
    await press(house, 'Keep the answers');
    expect(await screen.findByText(/✕/)).toBeTruthy();
    await write(house, /Shown/, '4,5');
    expect(await screen.findByText('▲ expected 1 to 3 bar')).toBeTruthy();
    await press(house, 'Keep the answers');
    await waitFor(() =>
      expect(house.bodies().at(-1)).toMatchObject({ kind: 'order', act: { kind: 'form', formId: 90, answers: [4.5] } }),
    );
  });

  it('another cost is an amount above nothing, and what it was for', async () => {
    const house = await openPhone('/order/7/cost');
    await press(house, 'Parking');
    await write(house, /^Paid/, '0');
    await press(house, 'Keep the cost');
    expect(await screen.findByText(/Write what was paid/)).toBeTruthy();
    await write(house, /^Paid/, '4,50');
    await ready('Keep the cost');
    await press(house, 'Keep the cost');
    await waitFor(() =>
      expect(house.bodies()).toMatchObject([
        {
          kind: 'cost',
          orderId: 7,
          lineId: 11,
          text: 'Parking',
          cost: 450,
          price: 450,
          day: '2026-11-24',
          receipt: null,
        },
      ]),
    );
    await sent(house);
  });

  it('a part is used out of the van with what is left; more than there is, is refused', async () => {
    const house = await openPhone('/order/7');
    await press(house, 'I am there');
    await go(house, 'Part');
    await press(house, /Door gasket/);
    await write(house, /^How many/, '5');
    await press(house, 'Used here');
    expect(await screen.findByText(/Only 4 pieces in your van/)).toBeTruthy();
    await write(house, /^How many/, '1');
    expect(screen.getByText('3 pieces left in your van')).toBeTruthy();
    await press(house, 'Used here');
    await waitFor(() => expect(house.bodies().at(-1)).toMatchObject({ kind: 'part', thousandths: 1000, storeId: 40 }));
    await go(house, 'Van');
    expect(within(await screen.findByRole('link', { name: /Door gasket/ })).getByText('3 pieces')).toBeTruthy();
    await sent(house);
  });

  it('a scanned code is found by its label, number or serial, or is nothing here', () => {
    const order = repair() as never;
    expect(lineScanned(order, 'https://x.example/assets/tag/Q0119').lineId).toBe(11);
    expect(lineScanned(order, 'plf410 q1119').lineId).toBe(11);
    expect(lineScanned(order, 'https://x.example/stores/scan/Q0119').lineId).toBeNull();
    const parts = [vanPart(), vanPart({ partId: 32, number: 'CR-DH-15', serialTracked: true, serials: ['S-9'] })];
    expect(partScanned(parts, 'https://x.example/stores/scan/TN-GS-540').part?.partId).toBe(31);
    expect(partScanned(parts, 'S-9')).toMatchObject({ serial: 'S-9', part: { partId: 32 } });
    expect(partScanned(parts, 'https://x.example/assets/tag/S-9').part).toBeNull();
    expect(partScanned(parts, 'nothing').part).toBeNull();
  });
});

describe('the van and the week', () => {
  it('parts are handed over as far as they are free, and only where somebody said where to', async () => {
    const house = await openPhone('/van/31/hand-over');
    await write(house, /^How many/, '4');
    await press(house, 'It is handed over');
    expect(await screen.findByText(/3 pieces are free/)).toBeTruthy();
    await write(house, /^How many/, '2');
    await ready('It is handed over');
    await press(house, 'It is handed over');
    expect(await screen.findByText(/Choose where it goes/)).toBeTruthy();
    await write(house, /To whose van/, 'pedra');
    expect(screen.queryByRole('button', { name: 'Van 2' })).toBeNull();
    await press(house, 'Pedralonga');
    await ready('It is handed over');
    await press(house, 'It is handed over');
    await waitFor(() =>
      expect(house.bodies()).toMatchObject([
        { kind: 'handed over', toId: 41, lines: [{ partId: 31, thousandths: 2000 }] },
      ]),
    );
    await sent(house);
  });

  it('a count says what differs, and of what is kept by serial which are there', async () => {
    const tracked = vanPart({
      partId: 32,
      name: 'Heater',
      serialTracked: true,
      serials: ['S-1', 'S-2'],
      onHand: 2000,
      free: 2000,
    });
    const van = { id: 40, name: 'Van 8', more: false, parts: [vanPart(), tracked] };
    const house = await openPhone('/van/31/count', { days: { van } });
    await press(house, 'So many are there');
    expect(await screen.findByText(/Write how many there are/)).toBeTruthy();
    await write(house, /^How many/, '3');
    expect(screen.getByText(/1 piece less/)).toBeTruthy();
    await ready('So many are there');
    await press(house, 'So many are there');
    await waitFor(() => expect(house.bodies()).toMatchObject([{ kind: 'counted', partId: 31, thousandths: 3000 }]));
    cleanup();
    const other = await openPhone('/van/32/count', { days: { van } });
    await press(other, 'S-2');
    await press(other, 'So many are there');
    await waitFor(() =>
      expect(other.bodies()).toMatchObject([{ kind: 'counted', partId: 32, thousandths: 1000, serials: ['S-2'] }]),
    );
    await sent(other);
  });

  it('a week is handed in after the hours that wait for it', async () => {
    const house = await openPhone('/order/7/hours');
    await write(house, 'From', '08:00');
    await write(house, 'To', '9.10');
    await press(house, 'Keep the hours');
    await waitFor(() => expect(house.bodies()).toHaveLength(1));
    await go(house, 'Week');
    expect(await screen.findByText('more hours wait to be sent')).toBeTruthy();
    await press(house, 'Hand the week in');
    expect(await screen.findByText('Handed in')).toBeTruthy();
    const [hours, week] = house.phone.state().queue;
    expect(week?.act.needs).toEqual([hours?.act.deed]);
    await sent(house);
  });

  it('an absence ends after it begins, and is asked for as whole days', async () => {
    const house = await openPhone('/absence');
    await press(house, 'leave');
    await write(house, 'First day', '2026-12-15');
    await write(house, 'Last day', '2026-12-14');
    await press(house, 'Ask for it');
    expect(await screen.findByText(/ends before it begins/)).toBeTruthy();
    await write(house, 'Last day', '2026-12-16');
    await ready('Ask for it');
    await press(house, 'Ask for it');
    await waitFor(() =>
      expect(house.bodies()).toEqual([
        {
          kind: 'absent',
          absence: { kind: 'leave', from: '2026-12-15T00:00:00.000Z', to: '2026-12-17T00:00:00.000Z', text: '' },
        },
      ]),
    );
    await sent(house);
  });
});
