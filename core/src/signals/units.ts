// Units of readings: those of the SenML registry, and how one is converted into another of the same quantity.
import { decided, refusal, refused, type Decided } from '../refusal.ts';

/** In the base unit of its quantity a value is value × scale + offset. */
type Unit = { readonly base: string; readonly scale: number; readonly offset: number };
const unit = (base: string, scale = 1, offset = 0): Unit => ({ base, scale, offset });

/** Units that stand for themselves. Source: RFC 8428, section 12.1 (from memory). */
const PLAIN =
  'm kg s A K cd mol Hz rad sr N Pa J W C V F Ohm S Wb T H lm lx Bq Gy Sv kat m2 m3 m/s m/s2 m3/s W/m2 cd/m2 bit bit/s lat lon pH dB dBW Bspl count / %RH %EL EL 1/s beat/min beats S/m B VA VAs var vars J/m kg/m3 deg NTU';

/** Units with a base. Source: RFC 8428, section 12.1, and the secondary units of RFC 8798 (both from memory). */
const SCALED: Readonly<Record<string, Unit>> = {
  Cel: unit('K', 1, 273.15),
  g: unit('kg', 1 / 1000),
  l: unit('m3', 1 / 1000),
  'l/s': unit('m3/s', 1 / 1000),
  '1/min': unit('1/s', 1 / 60),
  '%': unit('/', 1 / 100),
  ms: unit('s', 1 / 1000),
  min: unit('s', 60),
  h: unit('s', 3600),
  MHz: unit('Hz', 1e6),
  kW: unit('W', 1000),
  kVA: unit('VA', 1000),
  kvar: unit('var', 1000),
  Ah: unit('C', 3600),
  Wh: unit('J', 3600),
  kWh: unit('J', 3_600_000),
  varh: unit('vars', 3600),
  kvarh: unit('vars', 3_600_000),
  kVAh: unit('VAs', 3_600_000),
  'Wh/km': unit('J/m', 3.6),
  KiB: unit('B', 1024),
  GB: unit('B', 1e9),
  'Mbit/s': unit('bit/s', 1e6),
  'B/s': unit('bit/s', 8),
  'MB/s': unit('bit/s', 8e6),
  mV: unit('V', 1 / 1000),
  mA: unit('A', 1 / 1000),
  dBm: unit('dBW', 1, -30),
  'ug/m3': unit('kg/m3', 1e-9),
  'mm/h': unit('m/s', 1 / 3_600_000),
  'm/h': unit('m/s', 1 / 3600),
  ppm: unit('/', 1e-6),
  '/100': unit('/', 1 / 100),
  '/1000': unit('/', 1 / 1000),
  hPa: unit('Pa', 100),
  mm: unit('m', 1 / 1000),
  cm: unit('m', 1 / 100),
  km: unit('m', 1000),
  'km/h': unit('m/s', 1 / 3.6),
};

const REGISTRY: ReadonlyMap<string, Unit> = new Map([
  ...PLAIN.split(' ').map((name) => [name, unit(name)] as const),
  ...Object.entries(SCALED),
]);
const DIGITS = 12;

export const isSenmlUnit = (name: string): boolean => REGISTRY.has(name);

/** Takes a value into the unit that is watched, to 12 significant digits. Refused by name: a unit that is not in the registry, one of another quantity. */
export function convertUnit(value: number, from: string, to: string): Decided<number> {
  if (from === to) return decided(value);
  const [given, wanted] = [REGISTRY.get(from), REGISTRY.get(to)];
  if (!given)
    return refused(
      refusal('unsupported', `“${from}” is not a unit of SenML; send ${to} or a unit that converts to it.`, 'u'),
    );
  if (!wanted || given.base !== wanted.base)
    return refused(refusal('unsupported', `${from} does not convert to ${to}, in which this channel is watched.`, 'u'));
  const converted = (value * given.scale + given.offset - wanted.offset) / wanted.scale;
  return decided(Number(converted.toPrecision(DIGITS)));
}
