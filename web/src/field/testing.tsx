// A phone for tests of its screens: the real phone and its pages, over an office that answers by contract, can be out of reach, and
// remembers what it took. What the phone keeps is kept in memory; its room can end.
import { cleanup, render, screen, waitFor, type RenderResult } from '@testing-library/react';
import userEvent, { type UserEvent } from '@testing-library/user-event';
import * as v from 'valibot';
import { afterEach, beforeEach, expect, vi } from 'vitest';
import {
  phoneAct,
  type FieldBody,
  type FieldDays,
  type FieldOrder,
  type PhoneActOut,
  type VanPart,
} from '#api/field.ts';
import type { OrderEvent } from '#core/orders/index.ts';
import { asInstant, instant, MINUTE, type Instant } from '#core/time/index.ts';
import { Field } from './field.tsx';
import { NOTHING, type Held, type Keep } from './phone/keep.ts';
import { Phone } from './phone/phone.ts';

export const NOW: Instant = asInstant('2026-11-24T09:20:00Z');
export const ME = { id: 5, name: 'Renata Valdês', email: 'renata@example.org', zone: 'Europe/Lisbon' };
const OTHER = { id: 6, name: 'Duarte Moura', email: 'duarte@example.org', zone: 'Europe/Lisbon' };

/** Like the phone’s own database, in memory; `isFull`: nothing more goes in. */
export function memoryKeep(begin: Partial<Held> = {}, orders: readonly FieldOrder[] = []) {
  let held: Held = { ...NOTHING, ...begin };
  let kept = new Map(orders.map((o) => [o.page.id, o]));
  const photos = new Map<string, Parameters<Keep['keepPhoto']>[0]>();
  const drafts = new Map<string, unknown>();
  const room = { isFull: false };
  const mustFit = (): void => {
    if (room.isFull) throw new DOMException('no room', 'QuotaExceededError');
  };
  const keep: Keep = {
    read: () => Promise.resolve({ held, orders: kept }),
    change(how, change) {
      const next = how(held);
      if (next.queue.length > held.queue.length) mustFit();
      held = next;
      if (change) {
        const all = new Map([...kept, ...change.put.map((o) => [o.page.id, o] as const)]);
        kept = new Map([...all].filter(([id]) => change.keep.has(id)));
      }
      return Promise.resolve(held);
    },
    changeQueue(how) {
      return keep.change((now) => ({ ...now, queue: how(now.queue) })).then((now) => now.queue);
    },
    keepPhoto: async (photo) => {
      await Promise.resolve();
      mustFit();
      photos.set(photo.id, photo);
    },
    photo: (id) => Promise.resolve(photos.get(id)),
    forgetPhotos: (ids) => Promise.resolve(ids.forEach((id) => photos.delete(id))),
    draft: (key) => Promise.resolve(drafts.get(key)),
    keepDraft: async (key, value) => {
      await Promise.resolve();
      if (value === null) drafts.delete(key);
      else drafts.set(key, value);
    },
    wipe: () => {
      held = NOTHING;
      kept = new Map();
      photos.clear();
      drafts.clear();
      return Promise.resolve();
    },
    close: () => undefined,
  };
  return { keep, room, photos, held: () => held };
}

export const vanPart = (over: Partial<VanPart> = {}): VanPart => ({
  ...{ partId: 31, number: 'TN-GS-540', name: 'Door gasket', unit: 'piece', serialTracked: false },
  ...{ onHand: 4000, free: 3000, bin: 'L2', serials: [], ...over },
});

const LINE = {
  ...{ id: 11, assetId: 3, tag: 'Q0119', serial: 'PLF410-Q1119', className: 'Plasma freezer', model: 'PLF-410' },
  ...{ off: false, handedOn: null, place: 'Store 1', verdict: null, plan: null, found: null },
  words: { symptom: ['fan noisy'], fault: ['fan bearing worn'], cause: ['wear'], remedy: ['fan replaced'] },
};
const planned: OrderEvent = {
  ...{ at: instant(NOW - 60 * MINUTE), recordedAt: instant(NOW - 60 * MINUTE) },
  act: { kind: 'planned', technicianId: ME.id as never, technician: ME.name, date: '2026-11-24' as never },
};

/** A repair that is planned for today, with a task that must be done and a form with a number in a range. */
export function repair(id = 7, over: Partial<FieldOrder['page']> = {}): FieldOrder {
  return {
    stamp: '1',
    page: {
      ...{ id, kind: 'repair', priority: 1, title: 'Fan noisy', customer: { id: 1, name: 'Costabela Blood Centre' } },
      ...{
        lines: [LINE],
        clocks: [],
        events: [],
        missing: [],
        callerSaid: '',
        address: null,
        accessNote: 'Ring twice',
      },
      ...{ reminders: [], notes: [], contact: null, caller: null },
      pauses: [{ reason: 'waiting for parts', counts: false }],
      ...over,
    } as never,
    facts: {
      ...{ kind: 'repair', startedAt: instant(NOW - 90 * MINUTE), lines: [{ id: 11 }] },
      tasks: [{ id: 70, lineId: 11, text: 'look for leaks', mandatory: true }],
      forms: [
        {
          ...{ id: 90, lineId: 11, name: 'Pressure' },
          questions: [{ text: 'Shown', kind: 'number', mandatory: true, unit: 'bar', from: 1, to: 3 }],
        },
      ],
    },
    events: [planned],
    position: { latitude: 38.7, longitude: -9.1 },
    machines: [
      {
        ...{ lineId: 11, assetId: 3, tag: 'Q0119', serial: 'PLF410-Q1119', last: [], parts: [] },
        meters: [{ id: 51, name: 'Run hours', unit: 'h', last: { at: NOW, value: 6567 } }],
      },
    ],
    ...{ alerts: [], bring: [], alsoHere: [], comesTo: null },
  };
}

export const vanWith = (parts: readonly VanPart[]): NonNullable<FieldDays['van']> => ({
  ...{ id: 40, name: 'Van 8', more: false, parts: [...parts], came: [], asked: [] },
});

export const daysWith = (orders: readonly FieldOrder[], over: Partial<FieldDays> = {}): FieldDays => ({
  ...{
    now: NOW,
    currency: 'EUR',
    from: '2026-11-24' as never,
    days: 3,
    person: { id: ME.id, name: ME.name, zone: ME.zone, allowsPosition: false },
    pushKey: null,
  },
  appointments: orders.map((o, i) => ({
    ...{
      id: 100 + i,
      version: 1,
      from: instant(NOW + (30 + i * 90) * MINUTE),
      to: instant(NOW + (90 + i * 90) * MINUTE),
    },
    ...{
      zone: ME.zone,
      told: null,
      sent: true,
      fixed: false,
      with: [],
      answer: null,
      late: null,
      orderIds: [o.page.id],
    },
  })),
  orders: orders.map((o) => ({ id: o.page.id, stamp: o.stamp })),
  van: vanWith([vanPart()]),
  stores: [
    { id: 41, name: 'Pedralonga' },
    { id: 42, name: 'Van 2' },
  ],
  weeks: [
    {
      ...{ week: '2026-11-23' as never, state: 'open', reason: null, entries: [] },
      days: [{ day: '2026-11-24' as never, minutes: 0, open: 540 }],
    },
  ],
  absences: [],
  ...over,
});

type Office = {
  /** Whether there is a network, and whether the office knows who this is. */
  net: 'there' | 'gone' | 'signed out';
  person: typeof ME | null;
  days: FieldDays;
  orders: readonly FieldOrder[];
  /** What the card terminal says; null: nothing is heard of it. */
  card: (body: { readonly requestKey: string; readonly amount: number }) => Response | null;
  /** Why an act is refused; null: it is taken. */
  refuse: (act: PhoneActOut) => string | null;
  /** The parts list, and where a part is besides the van. */
  listed: readonly { readonly id: number; readonly number: string; readonly name: string; readonly unit: string }[];
  elsewhere: { readonly stores: readonly object[]; readonly ordered: readonly object[] };
  /** Which phones it was asked to tell, and to tell no more. */
  readonly push: string[];
  readonly taken: PhoneActOut[];
  /** Acts as they came, each time they came. */
  readonly came: string[];
};

const problem = (status: number, code: string, detail: string): Response =>
  Response.json({ type: 'urn:x', title: code, status, code, detail, errors: [] }, { status });

function answer(office: Office, url: URL, method: string, body: unknown): Response {
  const { person } = office;
  const session = { person: person && { ...person, role: 'technician' }, now: NOW, fixedNow: true, csrf: 'x' };
  const demo = [ME, OTHER].map((p) => ({ ...p, role: 'technician' }));
  if (url.pathname === '/api/session' && method === 'GET') return Response.json({ ...session, zones: [], demo });
  if (url.pathname === '/api/session/demo') {
    const { email } = body as { email: string };
    office.person = email === ME.email ? ME : OTHER;
    office.net = 'there';
    return Response.json({ ...session, person: { ...office.person, role: 'technician' }, zones: [], demo });
  }
  if (url.pathname === '/api/session') {
    office.person = null;
    return Response.json({ done: true });
  }
  if (office.net === 'signed out') return problem(401, 'signed-out', 'Sign in first.');
  if (url.pathname === '/api/field') return Response.json(office.days);
  if (url.pathname === '/api/field/orders') {
    const ids = (url.searchParams.get('ids') ?? '').split(',').map(Number);
    return Response.json({ orders: office.orders.filter((o) => ids.includes(o.page.id)) });
  }
  if (url.pathname === '/api/field/push') {
    office.push.push(`${method} ${(body as { endpoint: string }).endpoint}`);
    return Response.json({ done: true });
  }
  if (url.pathname.endsWith('/card')) {
    const said = office.card(body as Parameters<Office['card']>[0]);
    if (said === null) throw new TypeError('Failed to fetch');
    return said;
  }
  if (url.pathname.startsWith('/api/field/photos/')) return Response.json({ done: true });
  if (url.pathname === '/api/parts') {
    const q = (url.searchParams.get('q') ?? '').toLowerCase();
    const items = office.listed.filter((p) => `${p.number} ${p.name}`.toLowerCase().includes(q));
    return Response.json({ items, next: null, total: items.length });
  }
  if (/^\/api\/parts\/\d+\/stock$/.test(url.pathname)) return Response.json(office.elsewhere);
  const { acts } = body as { acts: unknown[] };
  const outcomes = acts.map((sent) => {
    // What a phone sends must be what the server reads.
    const act = v.parse(phoneAct, sent);
    office.came.push(act.id);
    const why = office.refuse(act);
    if (why !== null) return { id: act.id, kind: 'refused', refusals: [{ code: 'conflict', message: why }] };
    if (!office.taken.some((t) => t.id === act.id)) office.taken.push(act);
    return { id: act.id, kind: 'taken' };
  });
  return Response.json({ now: NOW, outcomes });
}

export type PhoneHouse = {
  readonly office: Office;
  readonly kept: ReturnType<typeof memoryKeep>;
  readonly phone: Phone;
  readonly user: UserEvent;
  readonly page: RenderResult;
  /** What waits to be sent. */
  readonly bodies: () => FieldBody[];
};

type Opened = {
  readonly orders?: readonly FieldOrder[];
  readonly days?: Partial<FieldDays>;
  readonly net?: Office['net'];
  readonly held?: Partial<Held>;
};

/** A phone that holds its day, at a path of Field. */
export async function openPhone(
  path: string,
  { orders = [repair()], days = {}, net = 'gone', held = {} }: Opened = {},
): Promise<PhoneHouse> {
  const office: Office = {
    ...{ net, person: ME, days: daysWith(orders, days), orders, refuse: () => null },
    card: () => null,
    ...{ taken: [], came: [], push: [], listed: [], elsewhere: { stores: [], ordered: [] } },
  };
  vi.stubGlobal('fetch', (address: string, init: RequestInit = {}): Promise<Response> => {
    if (office.net === 'gone') return Promise.reject(new TypeError('Failed to fetch'));
    const body: unknown = typeof init.body === 'string' ? JSON.parse(init.body) : init.body;
    return Promise.resolve(answer(office, new URL(address, 'http://127.0.0.1'), init.method ?? 'GET', body));
  });
  const kept = memoryKeep(
    { owner: ME, days: office.days, clock: { offset: 0, fixed: NOW }, heardAt: NOW, ...held },
    orders,
  );
  const phone = new Phone(kept.keep);
  window.history.pushState(null, '', `/field${path}`);
  const page = render(<Field phone={phone} />);
  await phone.start();
  return {
    ...{ office, kept, phone, page, user: userEvent.setup({ delay: null }) },
    bodies: () => phone.state().queue.map((w) => w.act.body),
  };
}

/** What somebody does on a page. */
export const press = async ({ user }: PhoneHouse, name: string | RegExp): Promise<void> =>
  user.click(await screen.findByRole('button', { name }));
export const go = async ({ user }: PhoneHouse, name: string | RegExp): Promise<void> =>
  user.click(await screen.findByRole('link', { name }));
/** A button that was pressed just now takes nothing for a moment. */
export const ready = (name: string): Promise<void> =>
  waitFor(() => expect(screen.getByRole('button', { name }).hasAttribute('disabled')).toBe(false));
export const write = async ({ user }: PhoneHouse, label: string | RegExp, text: string): Promise<void> => {
  const field = await screen.findByLabelText(label);
  await user.clear(field);
  if (text !== '') await user.type(field, text);
};
export const status = (): string => screen.getByRole('status', { name: 'Sending' }).textContent;
export const sent = async (house: PhoneHouse): Promise<void> => {
  house.office.net = 'there';
  house.phone.look();
  await waitFor(() => expect(house.phone.state().queue).toEqual([]));
};

/** One window: others of the phone are told nothing. After each test nothing is left on the page. */
export function onOnePhone(): void {
  beforeEach(() => void vi.stubGlobal('BroadcastChannel', undefined));
  afterEach(() => {
    cleanup();
    vi.unstubAllGlobals();
  });
}
