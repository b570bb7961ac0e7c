// @vitest-environment jsdom
// Signals: what is to be answered, what is done about it, the machines of a place, the figures, and devices nobody knows.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { listOrderAlerts, readAlertCurve, type OrderAlert } from '#api/order-alerts.ts';
import * as api from '#api/signals.ts';
import type { AlertOut, DeviceOut, UnknownOut, WatchedMachineOut } from '#api/signals.ts';
import { dialogClosed, refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { instant } from '#core/time/index.ts';
import { DevicesRoom } from './devices.tsx';
import { FiguresRoom } from './figures.tsx';
import { AlertsOf } from './of-order.tsx';
import { SignalsRoom } from './signals.tsx';
import { WatchRoom } from './watch.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const HOUR = 3_600_000;
const alert = (id: number, over: Partial<AlertOut> = {}): AlertOut =>
  ({
    ...{ id, rule: 'Chamber too warm', assetId: id, tag: `Q00${id}`, model: 'ULF-540', customer: 'Horta Nova' },
    ...{ place: 'Vault 1', channel: 'chamber', text: 'chamber −55.07 °C, limit above −65 °C', priority: 1 },
    ...{ startedAt: NOW - HOUR, endedAt: null, orderId: 1512, joined: false, toldAt: NOW - HOUR, heldBy: null },
    ...{
      acknowledged: null,
      shelf: null,
      withdrawn: false,
      flooded: false,
      chatters: false,
      noOrder: null,
      asks: false,
    },
    ...over,
  }) as AlertOut;
const device = (id: number, lastAt: number | null): DeviceOut =>
  ({
    ...{ id, key: `urn:dev:mac:${id}`, assetId: id, tag: `Q00${id}`, model: 'ULF-540', customer: 'Horta Nova', lastAt },
    channels: [{ channel: 'chamber', unit: 'Cel', value: '-78.2', at: NOW }],
  }) as DeviceOut;
const COUNTS = { toAnswer: 2, active: 2, heldBack: 1, noOrder: 0 };

let house: TestHouse;
let channels: string[];
let lists: string[];
beforeEach(() => {
  [channels, lists] = [[], []];
  house = testHouse(NOW);
  house.answer(api.listAlerts, ({ query }) => {
    lists.push(`${query.get('list')} ${query.get('search') ?? ''} ${query.get('after') ?? ''}`.trim());
    return {
      items: [
        alert(41),
        alert(42, { rule: 'Door open', endedAt: (NOW - HOUR / 2) as never, orderId: null, asks: false }),
        alert(43, { rule: 'Vacuum low', joined: true, acknowledged: { at: NOW as never, by: 'Rita Moura' } }),
        alert(44, {
          ...{ rule: 'Fan stopped', toldAt: null, heldBy: 'shelved', chatters: true },
          shelf: { id: 9, until: (NOW + HOUR) as never, reason: 'being moved', by: 'Rita Moura' },
        }),
        alert(45, { rule: 'Valve stuck', orderId: null, noOrder: 'The machine is retired.' }),
      ],
      ...{ next: 'more', counts: COUNTS, now: NOW },
    };
  });
  house.answer(api.readReadings, ({ path, query }) => {
    channels.push(`${path} ${query.get('channel')} ${query.get('days')}`);
    return {
      unit: 'Cel',
      points: [-78, -70, -55].map((value, i) => ({ at: NOW - (3 - i) * HOUR, value, low: value - 1, high: value + 1 })),
      limits: [{ limit: -65, side: 'above' }],
    };
  });
});
afterEach(cleanup);
const rowOf = (name: RegExp, table: string): HTMLElement =>
  within(screen.getByRole('table', { name: table })).getByRole('row', { name });

describe('the journal', () => {
  it('says what each alert reached, how it stands and which order it raised, joined or could not raise', async () => {
    house.open(<SignalsRoom />);
    expect(await screen.findByText('2 active alerts, 2 to answer')).toBeDefined();
    const active = rowOf(/Chamber too warm/, 'Alerts');
    expect(active.textContent).toContain('chamber −55.07 °C, limit above −65');
    expect(within(active).getByText('still active')).toBeDefined();
    expect(within(active).getByText('not acknowledged')).toBeDefined();
    expect(within(active).getByRole('link', { name: 'WO-11512' }).getAttribute('href')).toBe('/orders/1512');
    expect(rowOf(/Door open/, 'Alerts').textContent).toContain('gone, not acknowledged');
    expect(rowOf(/Vacuum low/, 'Alerts').textContent).toContain('acknowledged 09:20 by Rita Moura');
    expect(within(rowOf(/Vacuum low/, 'Alerts')).queryByRole('button', { name: 'acknowledge' })).toBeNull();
    expect(rowOf(/Fan stopped/, 'Alerts').textContent).toMatch(
      /chattering.*shelved until 10:20 by Rita Moura: being moved/,
    );
    expect(rowOf(/Valve stuck/, 'Alerts').textContent).toContain('✕ The machine is retired.');
  });

  it('is asked for list by list, by words and page by page', async () => {
    const { user } = house.open(<SignalsRoom />);
    await user.click(await screen.findByRole('button', { name: 'Held back 1' }));
    await user.click(await screen.findByRole('button', { name: 'Older' }));
    await user.type(await screen.findByLabelText('Rule, machine or customer'), 'Q');
    await screen.findByRole('table', { name: 'Alerts' });
    expect(lists).toEqual(['to answer', 'held back', 'held back  more', 'held back Q']);
  });

  it('shows the curve of the chosen one, over the span that is chosen', async () => {
    const { user } = house.open(<SignalsRoom />);
    const chosen = within(await screen.findByRole('region', { name: 'Chosen alert' }));
    expect(await chosen.findByRole('img', { name: 'chamber: last −55.0 °C' })).toBeDefined();
    expect(chosen.getByText('limit above −65 °C')).toBeDefined();
    await user.click(screen.getByRole('button', { name: /Door open/ }));
    await user.click(await chosen.findByRole('button', { name: 'a year' }));
    expect(await chosen.findByText('Door open')).toBeDefined();
    expect(channels).toEqual([
      '/api/assets/41/readings chamber 1',
      '/api/assets/42/readings chamber 1',
      '/api/assets/42/readings chamber 365',
    ]);
  });

  it('of which there are too few readings say so instead of drawing nothing', async () => {
    house.answer(api.readReadings, () => ({ unit: 'Cel', points: [], limits: [] }));
    house.open(<SignalsRoom />);
    expect(await screen.findByText('Too few readings for a line yet.')).toBeDefined();
  });

  it('is answered: one, all that are shown, a shelf with its reason, and an order where none could be raised', async () => {
    house.answer(api.acknowledgeAlerts, () => ({ acknowledged: 1 }));
    house.answer(api.shelveAlert, () => ({ id: 5 }));
    house.answer(api.endShelf, () => ({ done: true }));
    house.answer(api.raiseForAlert, () => refusal(null, 'The machine is retired.', { status: 409 }));
    const { user } = house.open(<SignalsRoom />);
    await screen.findByRole('table', { name: 'Alerts' });
    await user.click(within(rowOf(/Chamber too warm/, 'Alerts')).getByRole('button', { name: 'acknowledge' }));
    await user.click(await screen.findByRole('button', { name: 'Acknowledge the 3 shown' }));
    await user.click(within(rowOf(/Fan stopped/, 'Alerts')).getByRole('button', { name: 'off the shelf' }));
    await user.click(within(rowOf(/Valve stuck/, 'Alerts')).getByRole('button', { name: 'raise it' }));
    expect((await screen.findByRole('alert')).textContent).toContain('The machine is retired.');
    await user.click(within(rowOf(/Door open/, 'Alerts')).getByRole('button', { name: 'shelve' }));
    await user.click(await screen.findByRole('button', { name: 'Shelve' }));
    expect(await screen.findByText(/Say why, for whoever asks later/)).toBeDefined();
    await user.type(screen.getByLabelText('Why'), 'being moved');
    await user.click(screen.getByRole('button', { name: 'Shelve' }));
    await dialogClosed();
    expect(house.told.map((t) => [t.path, t.body])).toEqual([
      ['/api/alerts/acknowledge', { alertIds: [41] }],
      ['/api/alerts/acknowledge', { alertIds: [41, 42, 45] }],
      ['/api/alert-shelves/9/end', undefined],
      ['/api/alerts/45/order', undefined],
      ['/api/alerts/42/shelf', { hours: 8, reason: 'being moved' }],
    ]);
  });

  it('that is empty says so, and one that cannot be read is tried again by a button', async () => {
    house.answer(api.listAlerts, () => refusal(null, 'The database is away.', { status: 503 }));
    const { user } = house.open(<SignalsRoom />);
    expect((await screen.findByRole('alert')).textContent).toContain('The database is away.');
    house.answer(api.listAlerts, () => ({ items: [], next: null, counts: COUNTS, now: NOW }));
    await user.click(screen.getByRole('button', { name: 'Try again' }));
    expect(await screen.findByText(/Nothing to answer: every alert that was told/)).toBeDefined();
  });

  it('shows a technician what goes on, and nothing to be done about it', async () => {
    house = testHouse(NOW, 'technician');
    house.answer(api.listAlerts, () => ({ items: [alert(41)], next: null, counts: COUNTS, now: NOW }));
    house.answer(api.readReadings, () => ({ unit: 'Cel', points: [], limits: [] }));
    house.open(<SignalsRoom />);
    await screen.findByRole('table', { name: 'Alerts' });
    expect(screen.queryByRole('button', { name: 'acknowledge' })).toBeNull();
    expect(screen.queryByRole('button', { name: 'shelve' })).toBeNull();
  });
});

describe('the watch', () => {
  const machine = (over: Partial<WatchedMachineOut> = {}): WatchedMachineOut =>
    ({
      ...{ assetId: 41, tag: 'Q0041', model: 'ULF-540', where: 'Vault 1', lastAt: NOW - 60_000, outOfService: false },
      channels: [
        {
          ...{
            channel: 'chamber',
            unit: 'Cel',
            value: -55,
            word: null,
            at: NOW - 60_000,
            trend: 'rising',
            low: null,
            high: -65,
          },
          alert: { id: 7, rule: 'Chamber too warm', acknowledged: false, held: false },
        },
      ],
      ...over,
    }) as WatchedMachineOut;
  it('shows a place’s machines with what is active, silent or worked on; another place by a press', async () => {
    const asked: (string | null)[] = [];
    house.answer(api.readWatch, ({ query }) => {
      asked.push(query.get('place'));
      return {
        now: NOW,
        places: [
          { id: 1, name: 'Horta Nova', customer: 'Horta Nova', machines: 2, silent: 0, active: 1 },
          { id: 2, name: 'Encosta Depot', customer: 'Encosta', machines: 1, silent: 1, active: 0 },
        ],
        place: { id: 1, name: 'Horta Nova', customer: 'Horta Nova' },
        machines: [machine(), machine({ assetId: 42, tag: 'Q0042', lastAt: null, outOfService: true, channels: [] })],
      };
    });
    const { user } = house.open(<WatchRoom />);
    const shown = within(await screen.findByRole('region', { name: 'Horta Nova' }));
    expect(shown.getByText(/◆ Chamber too warm/)).toBeDefined();
    expect(shown.getByText('↗')).toBeDefined();
    expect(shown.getByText('○ never heard')).toBeDefined();
    expect(shown.getByText('worked on: not watched')).toBeDefined();
    await user.click(screen.getByRole('button', { name: /Encosta Depot/ }));
    await screen.findByRole('region', { name: 'Horta Nova' });
    expect(asked).toEqual([null, '2']);
  });
  it('says what is missing where nothing reports', async () => {
    house.answer(api.readWatch, () => ({ now: NOW, places: [], place: null, machines: [] }));
    house.open(<WatchRoom />);
    expect(await screen.findByText(/No machine reports yet/)).toBeDefined();
  });
});

describe('the figures', () => {
  it('are those of the chosen time; what never happened is a dash', async () => {
    const asked: (string | null)[] = [];
    house.answer(api.readAlertFigures, ({ query }) => {
      asked.push(query.get('days'));
      return {
        ...{ now: NOW, alerts: 12, perHour: 0.07, mostInTenMinutes: 11, floodShare: 0.001, standing: 1, chattering: 1 },
        ...{ withdrawn: 2, heldBack: 3, toAnswerSeconds: 240, told: 9, ordered: 6, settledOrders: 0, faults: 0 },
        top: [
          {
            ruleId: 1,
            rule: 'Door open',
            assetId: 4,
            tag: 'Q0041',
            model: 'ULF-540',
            alerts: 7,
            seconds: 3600,
            chatters: true,
          },
        ],
        days: [{ day: '2026-11-24', alerts: 12 }],
      };
    });
    const { user } = house.open(<FiguresRoom />);
    expect(await screen.findByText('66.7 %')).toBeDefined();
    expect(screen.getByText('4 min')).toBeDefined();
    expect(screen.getByText('0 of 0 orders')).toBeDefined();
    expect(rowOf(/Door open/, 'The ten that come most').textContent).toContain(
      'chattering: look at its delays and deadband',
    );
    await user.click(screen.getByRole('button', { name: '30 days' }));
    await screen.findByText(/12 alerts in 30 days/);
    expect(asked).toEqual(['7', '30']);
  });
});

describe('devices', () => {
  const unknown: UnknownOut = {
    ...{
      id: 3,
      key: 'stranger',
      firstAt: NOW as never,
      lastAt: NOW as never,
      records: 4,
      channels: 'chamber, door',
      refused: false,
    },
  };
  beforeEach(() => {
    const all = [device(43, null), device(41, NOW - 5 * HOUR), device(42, NOW - 60_000)];
    house.answer(api.listDevices, ({ query }) => ({
      items: all.filter((d) => d.key.includes(query.get('search') ?? '')),
      ...{ next: null, now: NOW },
    }));
    house.answer(api.listUnknownDevices, ({ query }) => ({
      items: query.get('refused') ? [] : [unknown],
      next: null,
    }));
  });
  it('say since when they are silent, and that one was never heard', async () => {
    const { user } = house.open(<DevicesRoom />);
    await screen.findByRole('table', { name: 'Devices' });
    expect(rowOf(/urn:dev:mac:41/, 'Devices').textContent).toContain('○ silent for 5 h');
    expect(rowOf(/urn:dev:mac:42/, 'Devices').textContent).toContain('● 09:19');
    expect(rowOf(/urn:dev:mac:43/, 'Devices').textContent).toContain('never');
    await user.type(screen.getByLabelText('Device or machine'), 'mac:42');
    await waitFor(() => expect(screen.queryByText('urn:dev:mac:43')).toBeNull());
    expect(rowOf(/urn:dev:mac:42/, 'Devices')).toBeDefined();
    await user.type(screen.getByLabelText('Device or machine'), '9');
    expect(await screen.findByText('No device or machine answers to “mac:429”.')).toBeDefined();
  });
  it('that nobody knows are refused, or tied to a machine', async () => {
    house.answer(api.refuseDevice, () => ({ done: true }));
    const { user } = house.open(<DevicesRoom />);
    const own = within(await screen.findByRole('region', { name: 'Devices nobody knows' }));
    expect(own.getByText('chamber, door')).toBeDefined();
    await user.click(own.getByRole('button', { name: 'refuse' }));
    expect(house.told.map((t) => [t.path, t.body])).toEqual([['/api/unknown-devices/3/refuse', { refused: true }]]);
    await user.click(own.getByRole('button', { name: 'those that were refused' }));
    expect(await own.findByText('None was refused.')).toBeDefined();
  });
  it('a house without any says what connects the first', async () => {
    house.answer(api.listDevices, () => ({ items: [], next: null, now: NOW }));
    house.open(<DevicesRoom />);
    expect(await screen.findByText(/No device is connected yet: register one on an asset’s page/)).toBeDefined();
  });
});

describe('the alerts behind an order', () => {
  const ago = (ms: number) => instant(NOW - ms);
  const of = (id: number, over: Partial<OrderAlert> = {}): OrderAlert => ({
    ...{
      id,
      rule: 'Chamber too warm',
      assetId: id,
      tag: `Q00${id}`,
      model: 'ULF-540',
      channel: 'chamber',
      unit: 'Cel',
    },
    ...{ said: 'chamber above −65 °C, for 5 min', text: 'chamber −55 °C, limit above −65 °C' },
    ...{ limits: [{ limit: -65, side: 'above' as const }], since: ago(HOUR), startedAt: ago(HOUR) },
    ...{ endedAt: null, withdrawn: false, told: [], acknowledged: null },
    ...over,
  });
  beforeEach(() => {
    house.answer(listOrderAlerts, () => ({
      items: [
        of(1, { told: [{ name: 'Rui', at: ago(HOUR / 2) }] }),
        of(2, { endedAt: ago(HOUR / 4), acknowledged: { at: ago(HOUR / 4), by: 'Inês' } }),
        of(3, { withdrawn: true, endedAt: ago(0) }),
      ],
    }));
    house.answer(readAlertCurve, ({ path }) => ({
      now: NOW,
      points: path.includes('/3/')
        ? []
        : [-79, -70, -55].map((value, i) => ({ at: NOW - HOUR + i, value, low: value, high: value })),
    }));
  });

  it('are listed, the first with its curve, the rule as it was, who was told and who answered', async () => {
    const { user } = house.open(<AlertsOf orderId={7} now={ago(0)} />);
    const own = within(await screen.findByRole('region', { name: 'Alerts' }));
    expect(own.getByRole('heading').textContent).toBe('3 alerts');
    expect((await own.findByText(/Told Rui/)).textContent).toContain('Told Rui 08:50. Not acknowledged yet.');
    expect(own.getByText('Rule then: chamber above −65 °C, for 5 min.')).toBeDefined();
    expect(own.getByRole('img').getAttribute('aria-label')).toContain('chamber of Q001 around');
    await user.click(own.getByRole('button', { name: /gone 09:05/ }));
    expect(await own.findByText(/Acknowledged 09:05 by Inês/)).toBeDefined();
    expect(own.queryByText(/Told Rui/)).toBeNull();
    await user.click(own.getByRole('button', { name: /withdrawn: told late, there was none/ }));
    expect(await own.findByText('Too few readings for a line.')).toBeDefined();
  });

  it('say nothing where an order has none', async () => {
    house.answer(listOrderAlerts, () => ({ items: [] }));
    house.open(<AlertsOf orderId={7} now={ago(0)} />);
    await waitFor(() => expect(house.told).toEqual([]));
    expect(screen.queryByRole('region', { name: 'Alerts' })).toBeNull();
  });
});
