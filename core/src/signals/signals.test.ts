import { describe, expect, it } from 'vitest';
import { instant, MINUTE } from '../time/index.ts';
import {
  NORMAL,
  readPack,
  sayExcess,
  splitName,
  watch,
  type AlertChange,
  type LimitRule,
  type RuleState,
} from './index.ts';

const now = instant(Date.UTC(2026, 10, 24, 12));
const good = (pack: unknown) => {
  const read = readPack(pack, now);
  if (!read.ok) throw new Error(read.refusals.map((r) => r.message).join(' '));
  return read.value;
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
    const readings = good([
      { bn: 'urn:dev:ow:10e2073a0108006:', bt: 1.276020076001e9, bu: 'A', bver: 5, n: 'voltage', u: 'V', v: 120.1 },
      { n: 'current', t: -5, v: 1.2 },
      { n: 'current', t: -4, v: 1.3 },
      { n: 'current', v: 1.7 },
    ]);
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
    [{}, 'JSON array'],
    [[], 'JSON array'],
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
    [[{ n: 'x', v: 1, bt: 400_000_000 }], 'before the year 2000'],
  ])('%j', (pack, said) => {
    expect(bad(pack)).toContain(said);
  });
  it('names are split into device and channel at the last separator', () => {
    expect(splitName('urn:dev:os:stv:Q0412:chamber')).toEqual({ device: 'urn:dev:os:stv:Q0412', channel: 'chamber' });
    expect([splitName('chamber'), splitName('a:'), splitName(':a')]).toEqual([null, null, null]);
  });
});

// IEC 62682: on-delay and deadband.
describe('a limit rule', () => {
  const rule: LimitRule = { side: 'above', limit: -65, deadband: 2, onDelayMs: 5 * MINUTE };
  const run = (samples: [minute: number, value: number][], r = rule): { changes: AlertChange[]; state: RuleState } => {
    let state: RuleState = NORMAL;
    const changes: AlertChange[] = [];
    for (const [minute, value] of samples) {
      const next = watch(r, state, { at: instant(now + minute * MINUTE), value });
      state = next.state;
      if (next.change) changes.push(next.change);
    }
    return { changes, state };
  };

  it('waits for the on-delay, then is active from the moment it ran out', () => {
    expect(
      run([
        [0, -70],
        [1, -64],
        [4, -63],
      ]).changes,
    ).toEqual([]);
    expect(
      run([
        [0, -70],
        [1, -64],
        [4, -63],
        [7, -62],
      ]).changes,
    ).toEqual([{ kind: 'became active', since: now + 6 * MINUTE, worst: -62 }]);
  });
  it('forgets a condition that came back before the delay ran out', () => {
    expect(
      run([
        [1, -64],
        [3, -66],
        [5, -64],
        [9, -64],
      ]).changes,
    ).toEqual([]);
  });
  it('returns to normal only beyond the deadband, and keeps the worst value', () => {
    const { changes, state } = run([
      [0, -64],
      [5, -64],
      [6, -60],
      [7, -66],
      [8, -66.9],
      [9, -67],
    ]);
    expect(changes[1]).toEqual({ kind: 'returned', since: now + 5 * MINUTE, at: now + 9 * MINUTE, worst: -60 });
    expect(state).toEqual(NORMAL);
  });
  it('does not chatter inside the deadband', () => {
    expect(
      run([
        [0, -64],
        [5, -64],
        [6, -66],
        [7, -64],
        [8, -66],
        [9, -64],
      ]).changes,
    ).toHaveLength(1);
  });
  it('watches the low side as well, without delay when none is set', () => {
    const low: LimitRule = { side: 'below', limit: 0.4, deadband: 0.05, onDelayMs: 0 };
    expect(
      run(
        [
          [0, 0.45],
          [1, 0.39],
          [2, 0.44],
          [3, 0.46],
        ],
        low,
      ).changes.map((c) => c.kind),
    ).toEqual(['became active', 'returned']);
  });
});

describe('an alert in words', () => {
  const rule = { channel: 'chamber', unit: 'Cel', side: 'above', threshold: -65 };
  it('has the unit as people write it and a true minus sign', () =>
    expect(sayExcess(rule, -60.3)).toBe('chamber −60.3 °C, limit above −65 °C'));
  it('has no unit where the channel is a ratio', () =>
    expect(sayExcess({ ...rule, channel: 'load', unit: '/', threshold: 0.9 }, 1.2)).toBe('load 1.2, limit above 0.9'));
});
