import { describe, expect, it } from 'vitest';
import { instant } from '../time/index.ts';
import { nearestRules, nearness, readPack, sayExcess, sayRule, splitName, type Condition } from './index.ts';

const now = instant(Date.UTC(2026, 10, 24, 12));
const good = (pack: unknown, at = now) => {
  const read = readPack(pack, at);
  if (!read.ok) throw new Error(read.refusals.map((r) => r.message).join(' '));
  return read.value.readings.map(({ name, unit, at, value }) => ({ name, unit, at, value }));
};
const bad = (pack: unknown): string => {
  const read = readPack(pack, now);
  return read.ok ? 'accepted' : read.refusals.map((r) => `${r.code} ${r.message}`).join(' ');
};

// RFC 8428, section 5: its example packs (JSON).
describe('the examples of RFC 8428', () => {
  it('5.1.1 single data point, without a time: now', () => {
    expect(good([{ n: 'urn:dev:ow:10e2073a01080063', u: 'Cel', v: 23.1 }])).toEqual([
      { name: 'urn:dev:ow:10e2073a01080063', unit: 'Cel', at: now, value: 23.1 },
    ]);
  });
  it('5.1.2 multiple data points with a base name, base time and relative times', () => {
    const readings = good(
      [
        { bn: 'urn:dev:ow:10e2073a0108006:', bt: 1.276020076001e9, bu: 'A', bver: 5, n: 'voltage', u: 'V', v: 120.1 },
        { n: 'current', t: -5, v: 1.2 },
        { n: 'current', t: -4, v: 1.3 },
        { n: 'current', v: 1.7 },
      ],
      instant(Date.UTC(2010, 5, 9)),
    );
    expect(readings.map((r) => [r.name, r.unit, r.at, r.value])).toEqual([
      ['urn:dev:ow:10e2073a0108006:voltage', 'V', 1276020076001, 120.1],
      ['urn:dev:ow:10e2073a0108006:current', 'A', 1276020071001, 1.2],
      ['urn:dev:ow:10e2073a0108006:current', 'A', 1276020072001, 1.3],
      ['urn:dev:ow:10e2073a0108006:current', 'A', 1276020076001, 1.7],
    ]);
  });
  it('5.1.4 different data types', () => {
    expect(
      good([
        { bn: 'urn:dev:ow:10e2073a01080063:', n: 'temp', u: 'Cel', v: 23.1 },
        { n: 'label', vs: 'Machine Room' },
        { n: 'open', vb: false },
        { n: 'nfc-reader', vd: 'aGkgCg' },
      ]).map((r) => r.value),
    ).toEqual([23.1, 'Machine Room', false, 'aGkgCg']);
  });
  it('adds the base value, and takes times below 2^28 as relative to now', () => {
    expect(good([{ bn: 'd:', bv: 20, n: 'a', v: 3.5, t: -60 }])).toEqual([
      { name: 'd:a', unit: null, at: now - 60_000, value: 23.5 },
    ]);
  });
});

describe('malformed packs are refused as a whole', () => {
  it.each<[unknown, string]>([
    [{}, 'array of records'],
    [[], 'array of records'],
    [[{ n: 'x' }], 'needs a value'],
    [[{ n: 'x', v: 'high' }], 'wrong type'],
    [[{ n: 'x', v: 1, vs: 'a' }], 'one value'],
    [[{ bver: 11, n: 'x', v: 1 }], 'bver'],
    [[{ n: 'x', v: 1, mine_: 2 }], 'mine_'],
    [[{ v: 1 }], 'name'],
    [[{ n: ' x', v: 1 }], 'name'],
    [[{ n: 'x', v: 1, t: 3600 }], 'future'],
    [[{ n: 'x', v: 1, bt: 4e9 }], 'future'],
    [[null], 'object'],
    [Array.from({ length: 1001 }, () => ({ n: 'x', v: 1 })), 'too-large'],
    [[{ bn: 'x', bver: 10 }], 'no reading'],
    [[{ n: 'x', v: 1, bt: 400_000_000 }], 'more than 400 days back'],
  ])('%j', (pack, said) => {
    expect(bad(pack)).toContain(said);
  });
  it('names are split into device and channel at the last separator', () => {
    expect(splitName('urn:dev:os:stv:Q0412:chamber')).toEqual({ device: 'urn:dev:os:stv:Q0412', channel: 'chamber' });
    expect([splitName('chamber'), splitName('a:'), splitName(':a')]).toEqual([null, null, null]);
  });
});

describe('rules and alerts in words', () => {
  const rule = {
    channel: 'chamber',
    unit: 'Cel',
    condition: { kind: 'limit', side: 'above', limit: -65, deadband: 2 },
  } as const;
  const of = (condition: Condition, channel = 'door', unit = '') => ({ channel, unit, condition });
  it('have the unit as people write it and a true minus sign', () =>
    expect(sayExcess(rule, -60.3)).toBe('chamber −60.3 °C, limit above −65 °C'));
  it('have no unit where the channel is a ratio', () =>
    expect(sayExcess(of({ kind: 'limit', side: 'above', limit: 0.9, deadband: 0 }, 'load', '/'), 1.2)).toBe(
      'load 1.2, limit above 0.9',
    ));
  it.each<[Condition, number | null, string, string]>([
    [{ kind: 'band', low: 2, high: 8, deadband: 1 }, 9, 'door outside 2 to 8', 'door 9, outside 2 to 8'],
    [
      { kind: 'rate', side: 'falling', perHour: 6, deadband: 0, spanSeconds: 900 },
      -7.5,
      'door falling more than 6 an hour, over 15 min',
      'door falling 7.5 an hour, at most 6',
    ],
    [{ kind: 'silence', spanSeconds: 7200 }, null, 'door says nothing for 2 h', 'door says nothing for 2 h'],
    [{ kind: 'state', equals: 'open' }, null, 'door is “open”', 'door is “open”'],
    [
      { kind: 'count', equals: 'open', most: 10, spanSeconds: 90 },
      12,
      'door becomes “open” more than 10 times in 90 s',
      'door “open” 12 times, at most 10 in 90 s',
    ],
  ])('%j', (condition, worst, said, excess) => {
    expect([sayRule(of(condition)), sayExcess(of(condition), worst)]).toEqual([said, excess]);
  });
});

describe('the rules of a machine', () => {
  const MACHINE = { id: 7, classId: 1, model: 'ULF-720' };
  const made = (name: string, over: object = {}) => ({
    ...{ name, assetClassId: 1, model: null, assetId: null, watched: true },
    ...over,
  });
  const named = (...rules: ReturnType<typeof made>[]) => nearestRules(rules, MACHINE).map((r) => nearness(r, MACHINE));
  it('are the nearest of each name: its own, its model’s, its class’s', () => {
    const [klass, model, own] = [made('Warm'), made('warm', { model: 'ulf-720' }), made('Warm', { assetId: 7 })];
    expect(named(klass)).toEqual([1]);
    expect(named(model, klass)).toEqual([2]);
    expect(named(klass, own, model)).toEqual([3]);
    expect(named(klass, made('Cold', { model: 'ULF-720' }))).toEqual([1, 2]);
    expect(
      named(made('Warm', { assetClassId: 2 }), made('Warm', { model: 'ULF-540' }), made('Warm', { assetId: 8 })),
    ).toEqual([]);
  });
  it('leave out what a nearer one says is not watched', () => {
    expect(named(made('Warm'), made('Warm', { assetId: 7, watched: false }))).toEqual([]);
    expect(named(made('Warm'), made('Warm', { assetId: 8, watched: false }))).toEqual([1]);
  });
});
