// @vitest-environment jsdom
// Field beyond the order itself: where one is, cards, swaps, machines found, work for later, the van’s asks and arrivals, other versions.
import { cleanup, screen, waitFor } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { FieldOrder } from '#api/field.ts';
import { daysAsNow, orderAsNow } from './phone/before.ts';
import {
  daysWith,
  go,
  NOW,
  onOnePhone,
  openPhone,
  press,
  ready,
  repair,
  sent,
  vanPart,
  vanWith,
  write,
  type PhoneHouse,
} from './testing.tsx';

onOnePhone();
afterEach(() => {
  vi.restoreAllMocks();
  Reflect.deleteProperty(navigator, 'geolocation');
});

/** A phone that knows where it is; gives how often it was asked. */
function located(): { asked: () => number } {
  const getCurrentPosition = vi.fn((found: PositionCallback) =>
    found({ coords: { latitude: 38.7, longitude: -9.1, accuracy: 12 } } as GeolocationPosition),
  );
  Object.defineProperty(navigator, 'geolocation', { configurable: true, value: { getCurrentPosition } });
  return { asked: () => getCurrentPosition.mock.calls.length };
}
const kinds = (house: PhoneHouse): string[] => house.bodies().map((b) => b.kind);

describe('where somebody is', () => {
  it('is asked of the phone only once they allowed it, with what they do, and no more when they take it back', async () => {
    const where = located();
    const house = await openPhone('/order/7');
    await press(house, 'I am there');
    expect([where.asked(), kinds(house)]).toEqual([0, ['order']]);
    cleanup();
    const other = await openPhone('/me');
    await press(other, 'Say where I am with what I do');
    await screen.findByRole('button', { name: /Say it no more/ });
    cleanup();
    const allowing = { ...daysWith([repair()]).person, allowsPosition: true };
    const allowed = await openPhone('/order/7', { days: { person: allowing } });
    await press(allowed, 'I am there');
    await waitFor(() => expect(kinds(allowed)).toEqual(['order', 'was at']));
    const [arrived, said] = allowed.phone.state().queue.map((w) => w.act);
    expect(said?.body).toMatchObject({ deed: arrived?.deed, orderId: 7, latitude: 38.7, accuracy: 12 });
    expect(said?.needs).toEqual([arrived?.deed]);
    // A tick of a task says nothing of it.
    await press(allowed, /look for leaks/);
    await waitFor(() => expect(kinds(allowed)).toEqual(['order', 'was at', 'order']));
    expect(where.asked()).toBe(1);
    await sent(allowed);
  });
});

describe('being told', () => {
  const ADDRESS = 'https://push.example.com/abc';
  /** A browser that gives an address, or does not. */
  function browserThat(grants: 'granted' | 'denied'): void {
    let told: object | null = null;
    const subscription = {
      endpoint: ADDRESS,
      getKey: () => new Uint8Array([1, 2, 255]).buffer,
      unsubscribe: () => Promise.resolve((told = null) === null),
    };
    const pushManager = {
      getSubscription: () => Promise.resolve(told),
      subscribe: () => Promise.resolve((told = subscription)),
    };
    vi.stubGlobal('PushManager', class {});
    vi.stubGlobal('Notification', { requestPermission: () => Promise.resolve(grants) });
    const getRegistration = () => Promise.resolve({ pushManager });
    Object.defineProperty(navigator, 'serviceWorker', { configurable: true, value: { getRegistration } });
  }
  afterEach(() => void Reflect.deleteProperty(navigator, 'serviceWorker'));

  it('begins when somebody says so, and ends with it, or when they sign out: nobody else is told on their phone', async () => {
    browserThat('granted');
    const house = await openPhone('/me', { days: { pushKey: 'K' }, net: 'there' });
    await press(house, 'Tell me on this phone');
    await press(house, 'Tell me no more on this phone');
    await press(house, 'Tell me on this phone');
    await screen.findByRole('button', { name: 'Tell me no more on this phone' });
    await press(house, 'Sign out');
    await screen.findByRole('heading', { name: 'Sign in' });
    expect(house.office.push).toEqual([`POST ${ADDRESS}`, `DELETE ${ADDRESS}`, `POST ${ADDRESS}`, `DELETE ${ADDRESS}`]);
    expect(house.office.person).toBeNull();
  });

  it('is said to be impossible where the phone does not allow it, and not offered where the house tells none', async () => {
    browserThat('denied');
    const house = await openPhone('/me', { days: { pushKey: 'K' }, net: 'there' });
    await press(house, 'Tell me on this phone');
    expect(await screen.findByText(/does not let Field tell you things/)).toBeTruthy();
    expect(house.office.push).toEqual([]);
    cleanup();
    await openPhone('/me', { net: 'there' });
    await screen.findByRole('heading', { name: 'Where you are' });
    expect(screen.queryByRole('button', { name: 'Tell me on this phone' })).toBeNull();
  });
});

describe('what it comes to', () => {
  const comes: FieldOrder['comesTo'] = {
    ...{ currency: 'EUR', pay: 10_000, withTax: 12_300, paid: 0, toInvoice: false },
    rows: [{ what: 'Hire of a lift', pay: 10_000 }],
  };
  const open = (over: Partial<NonNullable<FieldOrder['comesTo']>> | null = {}) =>
    openPhone('/order/7/pay', { orders: [{ ...repair(), comesTo: over && { ...comes, ...over } }], net: 'there' });

  it('is asked of the terminal again by the same key when no answer came, and said when it did', async () => {
    const house = await open();
    const keys: string[] = [];
    house.office.card = ({ requestKey, amount }) => {
      keys.push(`${requestKey} ${amount}`);
      return keys.length === 1 ? null : Response.json({ state: 'paid', receipt: 'receipt 1' });
    };
    await write(house, /^Amount/, '100');
    await press(house, 'Ask the terminal');
    expect(await screen.findByText(/was asked for, and no answer came/)).toBeTruthy();
    house.office.net = 'there';
    house.phone.look();
    await waitFor(() => expect(house.phone.state().net).toBe('there'));
    await press(house, 'Ask the terminal again');
    expect(await screen.findByText('Paid, receipt 1.')).toBeTruthy();
    expect(new Set(keys)).toEqual(new Set([keys[0]]));
    expect(keys[0]).toMatch(/ 10000$/);
    expect(screen.getByLabelText<HTMLInputElement>(/^Amount/).value).toBe('23.00');
  });

  it('is no more than an amount, needs a signal, and is invoiced without one', async () => {
    const house = await open();
    await write(house, /^Amount/, 'much');
    await press(house, 'Ask the terminal');
    expect(await screen.findByText(/Write an amount/)).toBeTruthy();
    house.office.net = 'gone';
    house.phone.look();
    await screen.findByText('The terminal needs a signal.');
    await press(house, 'To be invoiced');
    await waitFor(() => expect(house.bodies()).toMatchObject([{ kind: 'to invoice', orderId: 7 }]));
    await sent(house);
  });

  it('is not for every technician to show', async () => {
    await open(null);
    expect(await screen.findByText('The office shows customers what it comes to.')).toBeTruthy();
  });
});

describe('on site', () => {
  it('a machine is swapped for one that is scanned or written; its parts go where it is said', async () => {
    const parts = [{ assetId: 9, tag: 'Q0900', serial: 'CP-9', model: 'CP-2' }];
    const machines = repair().machines.map((m) => ({ ...m, parts }));
    const house = await openPhone('/order/7/swap/11', { orders: [{ ...repair(), machines }] });
    await write(house, 'Tag or serial', 'N-77');
    await press(house, 'It is swapped');
    expect(await screen.findByText(/Choose or scan what comes off/)).toBeTruthy();
    await press(house, / Q0119$/);
    await ready('It is swapped');
    await press(house, 'It is swapped');
    expect(await screen.findByText(/Say whether its parts go over/)).toBeTruthy();
    await press(house, /^Its parts go over/);
    await ready('It is swapped');
    await press(house, 'It is swapped');
    await waitFor(() =>
      expect(house.bodies()).toMatchObject([{ kind: 'swap', assetId: 3, code: 'N-77', fresh: null, partsMove: true }]),
    );
    await sent(house);
  });

  it('a new one of the same make is put in with its label; a part of a machine has nothing to ask', async () => {
    const parts = [{ assetId: 9, tag: 'Q0900', serial: 'CP-9', model: 'CP-2' }];
    const machines = repair().machines.map((m) => ({ ...m, parts }));
    const house = await openPhone('/order/7/swap/11', { orders: [{ ...repair(), machines }] });
    await press(house, 'CP-2 Q0900');
    await press(house, /It is new/);
    await write(house, 'Its serial', 'CP-10');
    expect(screen.getByRole('button', { name: 'It is swapped' }).hasAttribute('disabled')).toBe(true);
    await write(house, /^The tag you stick/, 'Q0901');
    await press(house, 'It is swapped');
    await waitFor(() =>
      expect(house.bodies()).toMatchObject([
        { kind: 'swap', assetId: 9, fresh: { tag: 'Q0901', serial: 'CP-10' }, partsMove: false },
      ]),
    );
    await sent(house);
  });

  it('another machine joins the order, by what is on its plate', async () => {
    const house = await openPhone('/order/7/machine?code=Q0444');
    expect((await screen.findByLabelText<HTMLInputElement>('Tag or serial')).value).toBe('Q0444');
    await write(house, 'Why', 'beside it');
    await press(house, 'Put it on this order');
    await waitFor(() => expect(house.bodies()).toMatchObject([{ kind: 'machine', code: 'Q0444', text: 'beside it' }]));
    await sent(house);
  });

  it('the rest is taken on oneself, or left with what is needed and when', async () => {
    const house = await openPhone('/order/7/rest');
    await press(house, 'I do, later today');
    await write(house, /What is left/, 'fan at noon');
    await press(house, 'I do it later today');
    await waitFor(() => expect(house.bodies()).toMatchObject([{ kind: 'rest', own: true, wishedOn: null }]));
    cleanup();
    const other = await openPhone('/order/7/rest');
    await write(other, /What is left/, 'needs a fan');
    await write(other, /What is needed/, '1 fan');
    await write(other, /When they want it/, '2026-11-26');
    await press(other, 'Leave it for another visit');
    await waitFor(() =>
      expect(other.bodies()).toMatchObject([{ kind: 'rest', own: false, parts: '1 fan', wishedOn: '2026-11-26' }]),
    );
    await sent(other);
  });

  it('what the office said meanwhile of what was found is shown beside one’s own, and said anew', async () => {
    const house = await openPhone('/order/7');
    await press(house, 'I am there');
    await go(house, /What was found/);
    await write(house, 'Why', 'dirt');
    await press(house, 'Keep it');
    await waitFor(() => expect(kinds(house)).toEqual(['order', 'order']));
    expect(house.bodies()[1]).toMatchObject({ was: { cause: null }, act: { cause: 'dirt' } });
    const line = {
      ...(repair().page.lines[0] as object),
      found: { symptom: null, fault: null, cause: 'wear', remedy: null },
    };
    house.office.orders = [{ ...repair(7, { lines: [line] as never }), stamp: '2' }];
    house.office.days = daysWith(house.office.orders);
    house.office.refuse = ({ body }) =>
      body.kind === 'order' && body.act.kind === 'found' && body.was?.cause === null
        ? 'The cause is “wear” meanwhile.'
        : null;
    house.office.net = 'there';
    house.phone.look();
    await waitFor(() => expect(house.phone.state().queue[0]?.state.kind).toBe('refused'));
    await go(house, /not taken/);
    await go(house, 'Put it right');
    expect(await screen.findByText('The office has “wear”')).toBeTruthy();
    expect(screen.getByLabelText<HTMLInputElement>('Why').value).toBe('dirt');
    await ready('Keep it');
    await press(house, 'Keep it');
    await waitFor(() => expect(house.phone.state().queue).toEqual([]));
    expect(house.office.taken.at(-1)?.body).toMatchObject({ was: { cause: 'wear' }, act: { cause: 'dirt' } });
  });
});

describe('the van', () => {
  const line = { partId: 31, number: 'TN-GS-540', name: 'Door gasket', unit: 'piece', thousandths: 2000 };
  it('shows what others put in until one has seen it, and what became of what was asked for', async () => {
    const van = {
      ...vanWith([vanPart()]),
      came: [{ actId: 5, at: NOW, text: 'for tomorrow', who: 'Paulo Ventim', lines: [line] }],
      asked: [{ ...line, id: 1, state: 'declined' as const, answer: 'none left this year' }],
    };
    const house = await openPhone('/van', { days: { van } });
    expect(await screen.findByText(/for tomorrow/)).toBeTruthy();
    expect(screen.getByText('none left this year')).toBeTruthy();
    await press(house, 'It is all there');
    await waitFor(() => expect(house.bodies()).toMatchObject([{ kind: 'received', actId: 5 }]));
    await waitFor(() => expect(screen.queryByText(/for tomorrow/)).toBeNull());
    await sent(house);
  });

  it('is asked for a part without an order, also out of reach', async () => {
    const house = await openPhone('/van');
    await go(house, 'Ask for a part');
    await write(house, 'Number or name', 'gasket');
    await press(house, /Door gasket/);
    await write(house, /^How many/, '0');
    await press(house, 'Ask for it');
    expect(await screen.findByText(/above 0/)).toBeTruthy();
    await write(house, /^How many/, '2,5');
    await ready('Ask for it');
    await press(house, 'Ask for it');
    await waitFor(() => expect(house.bodies()).toMatchObject([{ kind: 'asked for', partId: 31, thousandths: 2500 }]));
    await sent(house);
  });
});

const without = <T extends object>(of: T, ...keys: (keyof T)[]): Partial<T> =>
  Object.fromEntries(Object.entries(of).filter(([key]) => !keys.includes(key as keyof T))) as Partial<T>;

describe('what an earlier version kept, or an earlier office gives', () => {
  it('is shown with nothing where something came later', async () => {
    const { machines } = repair();
    const before = {
      ...without(repair(), 'alsoHere', 'comesTo'),
      machines: machines.map((m) => without(m, 'parts')),
    } as unknown as FieldOrder;
    expect(orderAsNow(before)).toMatchObject({ alsoHere: [], comesTo: null, machines: [{ parts: [] }] });
    expect(orderAsNow(repair())).toEqual(repair());
    const days = without(daysWith([repair()]), 'pushKey');
    const van = without(vanWith([vanPart()]), 'came', 'asked');
    const person = without(daysWith([repair()]).person, 'allowsPosition');
    const now = daysAsNow({ ...days, person, van } as never);
    expect(now).toMatchObject({ pushKey: null, person: { allowsPosition: false }, van: { came: [], asked: [] } });
    const house = await openPhone('/van', { days: { ...days, person, van } as never, net: 'there' });
    expect(await screen.findByRole('heading', { name: 'Van 8' })).toBeTruthy();
    expect(house.phone.state().days?.van?.came).toEqual([]);
  });
});
