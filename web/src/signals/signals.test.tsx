// @vitest-environment jsdom
// Signals: which alerts go on, what raised them, and which devices fell silent.
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { readReadings, readSignals, type AlertOut, type DeviceOut } from '#api/signals.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { SignalsRoom } from './signals.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const HOUR = 3_600_000;
const alert = (id: number, over: Partial<AlertOut> = {}): AlertOut =>
  ({
    ...{ id, rule: 'Chamber too warm', assetId: id, tag: `Q00${id}`, model: 'ULF-540', customer: 'Horta Nova' },
    ...{ place: 'Vault 1', channel: 'chamber', text: 'chamber −55.07 °C, limit above −65 °C' },
    ...{ startedAt: NOW - HOUR, endedAt: null, orderId: 1512, joined: false },
    ...over,
  }) as AlertOut;
const device = (id: number, lastAt: number | null): DeviceOut =>
  ({
    ...{ id, key: `urn:dev:mac:${id}`, assetId: id, tag: `Q00${id}`, model: 'ULF-540', customer: 'Horta Nova', lastAt },
    channels: [{ channel: 'chamber', unit: 'Cel', value: '-78.2', at: NOW }],
  }) as DeviceOut;

let house: TestHouse;
let channels: string[];
beforeEach(() => {
  channels = [];
  house = testHouse(NOW);
  house.answer(readSignals, () => ({
    alerts: [
      alert(41),
      alert(42, { rule: 'Door open', endedAt: (NOW - HOUR / 2) as never, orderId: null }),
      alert(43, { rule: 'Vacuum low', joined: true }),
    ],
    ...{ activeAlerts: 2, devices: [device(41, NOW - 5 * HOUR), device(42, NOW - 60_000), device(43, null)], now: NOW },
  }));
  house.answer(readReadings, ({ path, query }) => {
    channels.push(`${path} ${query.get('channel')}`);
    return {
      unit: 'Cel',
      points: [-78, -70, -55].map((value, i) => ({ at: NOW - (3 - i) * HOUR, value })),
      limits: [{ limit: -65, side: 'above' }],
    };
  });
});
afterEach(cleanup);
const rowOf = (name: RegExp, table: string): HTMLElement =>
  within(screen.getByRole('table', { name: table })).getByRole('row', { name });

describe('alerts', () => {
  it('are counted, and say what they reached, of which limit, and the order each raised or joined', async () => {
    house.open(<SignalsRoom />);
    expect(await screen.findByText(/2 active alerts · 3 devices listed, 2 silent for over an hour/)).toBeDefined();
    const active = rowOf(/Chamber too warm/, 'Alerts');
    expect(active.textContent).toContain('chamber −55.07 °C, limit above −65');
    expect(within(active).getByText('still active')).toBeDefined();
    expect(within(active).getByRole('link', { name: 'WO-11512' }).getAttribute('href')).toBe('/orders/1512');
    expect(rowOf(/Door open/, 'Alerts').textContent).toContain('none');
    expect(within(rowOf(/Vacuum low/, 'Alerts')).getByText('joined')).toBeDefined();
  });

  it('show the line of the chosen one, the first until another is chosen', async () => {
    const { user } = house.open(<SignalsRoom />);
    const chosen = within(await screen.findByRole('region', { name: 'Chosen alert' }));
    expect(await chosen.findByRole('img', { name: 'chamber: last −55.0 °C' })).toBeDefined();
    expect(chosen.getByText('limit above −65 °C')).toBeDefined();
    await user.click(screen.getByRole('button', { name: /Door open/ }));
    expect(await chosen.findByText('Door open')).toBeDefined();
    expect(channels).toEqual(['/api/assets/41/readings chamber', '/api/assets/42/readings chamber']);
  });

  it('of which there are too few readings say so instead of drawing nothing', async () => {
    house.answer(readReadings, () => ({ unit: 'Cel', points: [], limits: [] }));
    house.open(<SignalsRoom />);
    expect(await screen.findByText('Too few readings for a line yet.')).toBeDefined();
  });
});

describe('devices', () => {
  it('say since when they are silent, and that one was never heard', async () => {
    house.open(<SignalsRoom />);
    await screen.findByRole('table', { name: 'Devices' });
    expect(rowOf(/urn:dev:mac:41/, 'Devices').textContent).toContain('○ silent for 5 h');
    expect(rowOf(/urn:dev:mac:42/, 'Devices').textContent).toContain('● 09:19');
    expect(rowOf(/urn:dev:mac:43/, 'Devices').textContent).toContain('never');
  });
});

describe('a house without signals', () => {
  it('says what connects the first device', async () => {
    house.answer(readSignals, () => ({ alerts: [], activeAlerts: 0, devices: [], now: NOW }));
    house.open(<SignalsRoom />);
    expect(await screen.findByText(/No device is connected yet: register one on an asset’s page/)).toBeDefined();
    expect(screen.queryByRole('table')).toBeNull();
  });

  it('that cannot be read is tried again by a button', async () => {
    house.answer(readSignals, () => refusal(null, 'The database is away.', { status: 503 }));
    const { user } = house.open(<SignalsRoom />);
    expect((await screen.findByRole('alert')).textContent).toContain('The database is away.');
    house.answer(readSignals, () => ({ alerts: [], activeAlerts: 0, devices: [], now: NOW }));
    await user.click(screen.getByRole('button', { name: 'Try again' }));
    expect(await screen.findByText(/No alert in the last seven days\./)).toBeDefined();
  });
});
