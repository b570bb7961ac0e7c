// Stand-in devices: a simulated set that goes on sending SenML readings, with a few things that go wrong.
import { connect } from 'mqtt';

export type DeviceScenario =
  'healthy' | 'slowly fails' | 'door left open' | 'stops mid-cycle' | 'power cut' | 'falls silent';
export type SimulatedDevice = {
  readonly key: string;
  readonly kind: 'freezer' | 'refrigerator' | 'steriliser' | 'cabinet';
  readonly setPoint: number;
  readonly scenario: DeviceScenario;
};

type SenmlRecord = { bn?: string; bt?: number; n: string; u?: string; v?: number; vb?: boolean };

/** A small wobble that is the same for the same device and minute. */
function wobble(key: string, minutes: number): number {
  let hash = 7;
  for (const c of key) hash = (hash * 31 + c.charCodeAt(0)) % 9973;
  return Math.sin(minutes / 9 + hash) * 0.6 + Math.sin(minutes / 2.3 + hash * 2) * 0.25;
}

/** Degrees above the set point, `minutes` after the trouble began (below zero: not yet). */
function drift(scenario: DeviceScenario, minutes: number): number {
  if (minutes <= 0) return 0;
  switch (scenario) {
    case 'slowly fails':
      return Math.min(22, minutes * 0.9);
    case 'door left open':
      return minutes < 25 ? Math.min(9, minutes * 0.7) : 0;
    case 'power cut':
      return minutes < 40 ? Math.min(24, minutes * 1.5) : 0;
    case 'stops mid-cycle':
      return minutes < 90 ? -40 : 0;
    case 'healthy':
    case 'falls silent':
      return 0;
  }
}

/** Minutes into the simulation; the failing freezer has been at it for half an hour when the demo opens. */
export const START_AFTER: Record<DeviceScenario, number> = {
  healthy: Infinity,
  'slowly fails': -28,
  'door left open': 2,
  'stops mid-cycle': 3,
  'power cut': 4,
  'falls silent': 5,
};

/** One pack of a device, `minutes` into the simulation; null when it says nothing. */
export function packOf(device: SimulatedDevice, minutes: number, atSeconds: number): SenmlRecord[] | null {
  const trouble = minutes - START_AFTER[device.scenario];
  if (device.scenario === 'falls silent' && trouble > 0) return null;
  const wobbling = wobble(device.key, minutes);
  const base = { bn: `${device.key}:`, bt: atSeconds };
  const round = (n: number): number => Math.round(n * 100) / 100;
  if (device.kind === 'cabinet')
    return [{ ...base, n: 'airspeed', u: 'm/s', v: round(device.setPoint + wobbling * 0.01) }];
  const chamber = round(device.setPoint + wobbling + drift(device.scenario, trouble));
  if (device.kind === 'steriliser') return [{ ...base, n: 'chamber', u: 'Cel', v: chamber }];
  const powered = !(device.scenario === 'power cut' && trouble > 0 && trouble < 40);
  return [
    { ...base, n: 'chamber', u: 'Cel', v: chamber },
    { n: 'compressor', u: 'A', v: powered ? round(4.1 + wobbling * 0.3) : 0 },
    { n: 'door', vb: device.scenario === 'door left open' && trouble > 0 && trouble < 25 },
  ];
}

const SEND_EVERY_MS = 10_000;

/** Sends until stopped; devices take turns so that packs do not come all at once. */
export function startDevices(brokerUrl: string, devices: readonly SimulatedDevice[]): { stop(): Promise<void> } {
  const client = connect(brokerUrl, { reconnectPeriod: 2000 });
  const started = Date.now();
  let turn = 0;
  const timer = setInterval(
    () => {
      const device = devices[turn % devices.length];
      turn += 1;
      if (!device || !client.connected) return;
      const pack = packOf(device, (Date.now() - started) / 60_000, Math.floor(Date.now() / 1000));
      if (pack) client.publish(`readings/${device.key}`, JSON.stringify(pack), { qos: 1 });
    },
    SEND_EVERY_MS / Math.max(1, devices.length),
  );
  return {
    async stop() {
      clearInterval(timer);
      await client.endAsync(true);
    },
  };
}
