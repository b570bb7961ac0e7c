// Stand-in devices: a simulated set that goes on sending SenML readings, with a few things that go wrong.
import { connect } from 'mqtt';

export const SCENARIOS = [
  ...['healthy', 'slowly fails', 'door left open', 'stops mid-cycle', 'power cut', 'falls silent'],
  ...['stuck probe', 'probe drifts', 'compressor dies', 'chatters'],
] as const;
export type DeviceScenario =
  | 'healthy'
  | 'slowly fails'
  | 'door left open'
  | 'stops mid-cycle'
  | 'power cut'
  | 'falls silent'
  | 'stuck probe'
  | 'probe drifts'
  | 'compressor dies'
  | 'chatters';
export type SimulatedDevice = {
  readonly key: string;
  readonly kind: 'freezer' | 'refrigerator' | 'steriliser' | 'cabinet';
  readonly setPoint: number;
  readonly scenario: DeviceScenario;
};

type SenmlRecord = { bn?: string; bt?: number; n: string; u?: string; v?: number; vb?: boolean };

/** Where in its round a device is, so that they do not all do the same at once. */
function phaseOf(key: string): number {
  let hash = 7;
  for (const c of key) hash = (hash * 31 + c.charCodeAt(0)) % 9973;
  return hash;
}

/** A small wobble that is the same for the same device and minute. */
function wobble(key: string, minutes: number): number {
  const hash = phaseOf(key);
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
    case 'probe drifts':
      return minutes * 0.05;
    case 'compressor dies':
      return Math.min(45, minutes * 0.6);
    case 'chatters':
      // Over its limit and back every twenty seconds.
      return Math.floor(minutes * 3) % 2 === 0 ? 24 : 0;
    case 'stuck probe':
    case 'healthy':
    case 'falls silent':
      return 0;
  }
}

/** What a healthy machine does by itself: twice a day it defrosts for a quarter of an hour, and now and then somebody opens it. */
function routine(key: string, minutes: number): { readonly warmer: number; readonly door: boolean } {
  const own = (((minutes + phaseOf(key)) % 720) + 720) % 720;
  const opened = (((minutes + phaseOf(key) * 7) % 95) + 95) % 95;
  return { warmer: (own < 15 ? 2.5 * Math.sin((own / 15) * Math.PI) : 0) + (opened < 2 ? 1.2 : 0), door: opened < 1 };
}

/** Minutes into the simulation; the failing freezer has been at it for half an hour when the demo opens. */
export const START_AFTER: Record<DeviceScenario, number> = {
  healthy: Infinity,
  'slowly fails': -28,
  'door left open': 2,
  'stops mid-cycle': 3,
  'power cut': 4,
  'falls silent': 5,
  ...{ 'stuck probe': 1, 'probe drifts': 1, 'compressor dies': 1, chatters: 1 },
};

/** One pack of a device, `minutes` into the simulation; null when it says nothing. */
export function packOf(
  device: SimulatedDevice,
  minutes: number,
  atSeconds: number,
  trouble = minutes - START_AFTER[device.scenario],
): SenmlRecord[] | null {
  if (device.scenario === 'falls silent' && trouble > 0) return null;
  const isStuck = device.scenario === 'stuck probe' && trouble > 0;
  const wobbling = isStuck ? 0 : wobble(device.key, minutes);
  const base = { bn: `${device.key}:`, bt: atSeconds };
  const round = (n: number): number => Math.round(n * 100) / 100;
  if (device.kind === 'cabinet')
    return [{ ...base, n: 'airspeed', u: 'm/s', v: round(device.setPoint + wobbling * 0.01) }];
  const chamber = round(device.setPoint + wobbling + drift(device.scenario, trouble));
  if (device.kind === 'steriliser') return [{ ...base, n: 'chamber', u: 'Cel', v: chamber }];
  const powered =
    !(device.scenario === 'power cut' && trouble > 0 && trouble < 40) &&
    !(device.scenario === 'compressor dies' && trouble > 0);
  return [
    { ...base, n: 'chamber', u: 'Cel', v: chamber },
    { n: 'compressor', u: 'A', v: powered ? round(4.1 + wobbling * 0.3) : 0 },
    { n: 'door', vb: device.scenario === 'door left open' && trouble > 0 && trouble < 25 },
  ];
}

const SEND_EVERY_MS = 10_000;

/** What somebody started goes on until they start something else: of these no more than so many minutes of it have passed. */
const GOES_ON: Partial<Record<DeviceScenario, number>> = {
  'power cut': 39,
  'door left open': 24,
  'stops mid-cycle': 89,
};
const minutesOf = ({ scenario, at, speed }: Started, now: number): number =>
  Math.min(((now - at) / 60_000) * speed, GOES_ON[scenario] ?? Infinity);

/** A trouble that somebody started, when, and how many times faster it goes. */
export type Started = { readonly scenario: DeviceScenario; readonly at: number; readonly speed: number };
export type Simulation = {
  readonly devices: readonly SimulatedDevice[];
  /** What was started by hand, by device. */
  readonly started: ReadonlyMap<string, Started>;
  start(keys: readonly string[], scenario: DeviceScenario, speed: number): void;
  stop(): Promise<void>;
};

/** Sends until stopped; devices take turns so that packs do not come all at once. */
export function startDevices(brokerUrl: string, devices: readonly SimulatedDevice[]): Simulation {
  const client = connect(brokerUrl, { reconnectPeriod: 2000 });
  const begun = Date.now();
  const started = new Map<string, Started>();
  let turn = 0;
  const say = (device: SimulatedDevice): void => {
    if (!client.connected) return;
    const [now, own] = [Date.now(), started.get(device.key)];
    const minutes = (now - begun) / 60_000;
    const pack = own
      ? packOf({ ...device, scenario: own.scenario }, minutes, Math.floor(now / 1000), minutesOf(own, now))
      : packOf(device, minutes, Math.floor(now / 1000));
    if (!pack) return;
    const { warmer, door } = routine(device.key, minutes);
    const isCooled = device.kind === 'freezer' || device.kind === 'refrigerator';
    const records = isCooled
      ? pack.map((r) =>
          r.n === 'chamber'
            ? { ...r, v: Math.round(((r.v ?? 0) + warmer * (device.kind === 'freezer' ? 1 : 0.4)) * 100) / 100 }
            : r.n === 'door'
              ? { ...r, vb: r.vb === true || door }
              : r,
        )
      : pack;
    client.publish(`readings/${device.key}`, JSON.stringify(records), { qos: 1 });
  };
  const timer = setInterval(
    () => {
      const device = devices[turn % devices.length];
      turn += 1;
      if (device) say(device);
    },
    SEND_EVERY_MS / Math.max(1, devices.length),
  );
  return {
    devices,
    started,
    start(keys, scenario, speed) {
      for (const key of keys) started.set(key, { scenario, at: Date.now(), speed });
      for (const device of devices) if (keys.includes(device.key)) say(device);
    },
    async stop() {
      clearInterval(timer);
      await client.endAsync(true);
    },
  };
}
