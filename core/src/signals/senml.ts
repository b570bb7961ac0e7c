// Readings on the wire: SenML packs (RFC 8428) resolved into plain readings.
import { DAY, instant, type Instant } from '../time/index.ts';
import { decided, refusal, refused, type Decided, type Refusal } from '../refusal.ts';

export type Reading = {
  /** Resolved name: base name and name joined. */
  readonly name: string;
  readonly unit: string | null;
  readonly at: Instant;
  readonly value: number | boolean | string;
};

/** A pack holds at most this many records. */
export const MAX_RECORDS = 1000;
/** Readings are kept for so long. */
export const RETENTION_MS = 400 * DAY;
/** A reading may be this far ahead of the server's clock. */
export const FUTURE_TOLERANCE_MS = 10 * 60_000;

const SUPPORTED_VERSION = 10;
const KNOWN = new Set(['bn', 'bt', 'bu', 'bv', 'bs', 'bver', 'n', 'u', 'v', 'vs', 'vb', 'vd', 's', 't', 'ut']);
/** Times below 2^28 are relative to now (RFC 8428, section 4.5.3). */
const RELATIVE_BELOW = 2 ** 28;

type Base = {
  name: string;
  time: number;
  unit: string | null;
  value: number;
  sum: number | null;
  version: number | null;
};

const text = (v: unknown): v is string => typeof v === 'string';
const number = (v: unknown): v is number => typeof v === 'number' && Number.isFinite(v);

function readBase(base: Base, record: Record<string, unknown>, say: (message: string) => void): void {
  const take = <T>(key: string, fits: (v: unknown) => v is T, set: (v: T) => void, kind: string): void => {
    const value = record[key];
    if (value === undefined) return;
    if (fits(value)) set(value);
    else say(`${key} must be a ${kind}`);
  };
  take('bn', text, (v) => (base.name = v), 'text');
  take('bt', number, (v) => (base.time = v), 'number');
  take('bu', text, (v) => (base.unit = v), 'text');
  take('bv', number, (v) => (base.value = v), 'number');
  take('bs', number, (v) => (base.sum = v), 'number');
  take(
    'bver',
    number,
    (v) => {
      if (v > SUPPORTED_VERSION || v < 1) say(`bver ${v} is not supported; use ${SUPPORTED_VERSION}`);
      if (base.version !== null && base.version !== v) say('bver may not change within a pack');
      base.version = v;
    },
    'number',
  );
}

function valueOf(base: Base, record: Record<string, unknown>, say: (message: string) => void): Reading['value'] | null {
  const given = ['v', 'vs', 'vb', 'vd'].filter((key) => record[key] !== undefined);
  if (given.length > 1) say(`one value per record, not ${given.join(' and ')}`);
  if (number(record.v)) return base.value + record.v;
  if (text(record.vs)) return record.vs;
  if (typeof record.vb === 'boolean') return record.vb;
  if (text(record.vd)) return record.vd;
  if (given.length > 0) say(`${given[0]} has the wrong type`);
  else if (record.s !== undefined || base.sum !== null) say('sums (s, bs) without a value are not used here; send v');
  else if (record.n !== undefined || record.t !== undefined) say('a record needs a value: v, vs, vb or vd');
  return null;
}

/** What a pack gave: readings with the records they stand in, counted from 0, and records that were set aside, each with why. */
export type ReadPack = { readonly readings: readonly RecordRead[]; readonly setAside: readonly Refusal[] };
export type RecordRead = Reading & { readonly record: number };

/** Why a reading is not taken for its time; null: it is. Source: settled questions, Signals. */
export function wrongTime(at: number, now: Instant): string | null {
  if (at > now + FUTURE_TOLERANCE_MS) return 'its time lies in the future; check the device’s clock';
  if (!(at >= now - RETENTION_MS))
    return `its time lies more than ${RETENTION_MS / DAY} days back, longer than readings are kept; check the device’s clock`;
  return null;
}

/** A name a reading may have: of a device, with a channel behind it. RFC 8428, section 4.5.1. */
export const isName = (name: string): boolean => /^[A-Za-z0-9][A-Za-z0-9\-:./_]*$/.test(name) && name.length <= 200;

/**
 * Reads a parsed SenML pack and resolves base fields and relative times against `now`. Records that cannot be read are set aside by
 * themselves: without name or value, impossible names, times more than ten minutes ahead or older than readings are kept.
 * Refused as a whole: not an array, empty, over 1,000 records, base fields that are wrong (they concern all that follow), an unknown
 * version, fields ending in "_" that are not understood, and a pack of which nothing is left.
 * Source: RFC 8428, sections 4 to 4.6.
 */
export function readPack(pack: unknown, now: Instant): Decided<ReadPack> {
  if (!Array.isArray(pack) || pack.length === 0)
    return refused(refusal('malformed', 'A SenML pack is an array of records.', 'pack'));
  if (pack.length > MAX_RECORDS)
    return refused(
      refusal('too-large', `A pack holds at most ${MAX_RECORDS} records; this one has ${pack.length}.`, 'pack'),
    );
  const [refusals, setAside]: [Refusal[], Refusal[]] = [[], []];
  const readings: RecordRead[] = [];
  const base: Base = { name: '', time: 0, unit: null, value: 0, sum: null, version: null };
  pack.forEach((record: unknown, i) => {
    const say = (message: string) => refusal('malformed', `Record ${i + 1}: ${message}.`, `pack.${i}`);
    const leave = (message: string) => setAside.push(say(message));
    if (typeof record !== 'object' || record === null || Array.isArray(record)) return leave('must be an object');
    const fields = record as Record<string, unknown>;
    const strange = Object.keys(fields).find((key) => key.endsWith('_') && !KNOWN.has(key));
    if (strange) return refusals.push(say(`“${strange}” must be understood by the receiver and is not`));
    readBase(base, fields, (message) => refusals.push(say(message)));
    const before = setAside.length;
    const value = valueOf(base, fields, leave);
    if (setAside.length > before || value === null) return;
    if (fields.n !== undefined && !text(fields.n)) return leave('n must be a text');
    const name = base.name + (text(fields.n) ? fields.n : '');
    if (!isName(name))
      return leave(
        `the name “${name.slice(0, 60)}” is not allowed: start with a letter or digit, then letters, digits, - : . / _`,
      );
    if (fields.t !== undefined && !number(fields.t)) return leave('t must be a number');
    const seconds = base.time + (number(fields.t) ? fields.t : 0);
    const at = seconds < RELATIVE_BELOW ? now + seconds * 1000 : seconds * 1000;
    const wrong = wrongTime(at, now);
    if (wrong !== null) return leave(wrong);
    const unit = text(fields.u) ? fields.u : base.unit;
    return readings.push({ name, unit, at: instant(Math.round(at)), value, record: i });
  });
  if (refusals.length > 0) return refused(...refusals);
  if (readings.length > 0) return decided({ readings, setAside });
  return refused(...(setAside.length > 0 ? setAside : [refusal('malformed', 'The pack holds no reading.', 'pack')]));
}

/** Splits a resolved name into device key and channel at its last ":" or "/"; null when there is none. */
export function splitName(name: string): { readonly device: string; readonly channel: string } | null {
  const cut = Math.max(name.lastIndexOf(':'), name.lastIndexOf('/'));
  return cut > 0 && cut < name.length - 1 ? { device: name.slice(0, cut), channel: name.slice(cut + 1) } : null;
}

/** A SenML unit (RFC 8428, section 12.1) as people write it; a ratio or a count has none. */
export function sayUnit(unit: string | null): string {
  return unit === 'Cel' ? '°C' : unit === '/' || unit === null ? '' : unit;
}
