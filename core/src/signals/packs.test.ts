import { decode, encode } from 'cborg';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { HOUR, instant } from '../time/index.ts';
import { packOfCbor, packOfRows, readPack, RETENTION_MS } from './index.ts';

const now = instant(Date.UTC(2026, 10, 24, 12));
const bytesOf = (hex: string): Uint8Array =>
  Uint8Array.from(hex.match(/../g) ?? [], (byte) => Number.parseInt(byte, 16));
const ofCbor = (bytes: Uint8Array): unknown => packOfCbor(decode(bytes, { useMaps: true }));
const labels = ['n', 'u', 'v', 'vs', 'vb', 's', 't', 'ut', 'vd'];
const bases = ['bver', 'bn', 'bt', 'bu', 'bv', 'bs'];
/** A pack as a device would encode it. */
const toCbor = (pack: readonly object[]): Uint8Array =>
  encode(
    pack.map(
      (record) =>
        new Map(
          Object.entries(record).map(([key, value]): [number, unknown] => [
            bases.includes(key) ? -1 - bases.indexOf(key) : labels.indexOf(key),
            value,
          ]),
        ),
    ),
  );

describe('SenML in CBOR', () => {
  // RFC 8428, section 6: its example, the pack of section 5.1.2 with seven records.
  it('reads the example of the standard', () => {
    const hex =
      '87a721781b75726e3a6465763a6f773a3130653230373361303130383030363a22fb41d303a15b0010622361412005' +
      '0067766f6c7461676501615602fb405e066666666666a3006763757272656e74062402fb3ff3333333333333' +
      'a3006763757272656e74062302fb3ff4cccccccccccda3006763757272656e74062202fb3ff6666666666666' +
      'a3006763757272656e74062102f93e00a3006763757272656e74062002fb3ff999999999999a' +
      'a3006763757272656e74060002fb3ffb333333333333';
    const read = readPack(ofCbor(bytesOf(hex)), instant(Date.UTC(2010, 5, 9)));
    if (!read.ok) throw new Error(read.refusals[0]?.message);
    expect(read.value.readings.map((r) => [r.name.split(':').at(-1), r.unit, r.at, r.value])).toEqual([
      ['voltage', 'V', 1276020076001, 120.1],
      ...[1.2, 1.3, 1.4, 1.5, 1.6, 1.7].map((v, i) => ['current', 'A', 1276020071001 + i * 1000, v]),
    ]);
  });

  it('says the same as JSON, whatever is sent', () => {
    const record = fc.record(
      {
        bn: fc.constantFrom('d1:', 'd2/'),
        bt: fc.integer({ min: 1_790_000_000, max: 1_795_000_000 }),
        n: fc.constantFrom('chamber', 'door', ''),
        u: fc.constantFrom('Cel', 'K'),
        t: fc.integer({ min: -600, max: 0 }),
        v: fc.double({ noNaN: true, noDefaultInfinity: true }),
        vs: fc.string({ maxLength: 5 }),
        vb: fc.boolean(),
      },
      { requiredKeys: ['n'] },
    );
    fc.assert(
      fc.property(fc.array(record, { maxLength: 5 }), (pack) => {
        expect(readPack(ofCbor(toCbor(pack)), now)).toEqual(readPack(JSON.parse(JSON.stringify(pack)), now));
      }),
      { numRuns: 300 },
    );
  });

  it('keeps data as the text of section 4.2, and sets NaN and infinity aside by name', () => {
    const pack = [
      { n: 'd:tag', vd: Uint8Array.from([0x68, 0x69, 0xfb, 0xff]) },
      { n: 'd:a', v: NaN },
      { n: 'd:b', v: Infinity },
    ];
    const read = readPack(ofCbor(toCbor(pack)), now);
    expect(read).toMatchObject({
      value: {
        readings: [{ value: 'aGn7_w' }],
        setAside: [
          { message: expect.stringContaining('Record 2: v has the wrong type') as string, field: 'pack.1' },
          { field: 'pack.2' },
        ],
      },
    });
  });
});

describe('records that cannot be read are set aside, and the rest goes on', () => {
  it.each<[string, object, string]>([
    ['no value', { n: 'd:a' }, 'needs a value'],
    ['a time a day ahead', { n: 'd:a', v: 1, t: 86_400 }, 'future'],
    ['a time years back', { n: 'd:a', v: 1, t: -RETENTION_MS / 1000 - 60 }, '400 days back'],
    ['a name with a blank', { n: 'd: a', v: 1 }, 'not allowed'],
    ['a time that is a word', { n: 'd:a', v: 1, t: 'noon' }, 't must be a number'],
  ])('%s', (_, record, said) => {
    const read = readPack([{ n: 'd:x', v: 1 }, record, { n: 'd:y', v: 2 }], now);
    expect(read).toMatchObject({
      value: {
        readings: [
          { name: 'd:x', record: 0 },
          { name: 'd:y', record: 2 },
        ],
        setAside: [{ field: 'pack.1', message: expect.stringContaining(said) as string }],
      },
    });
  });

  it('not so with a base that is wrong: it concerns all that follow', () => {
    expect(
      readPack(
        [
          { n: 'd:x', v: 1 },
          { bt: 'noon', n: 'd:y', v: 1 },
        ],
        now,
      ),
    ).toMatchObject({ ok: false });
    // A base time and a time of its own that lead out of what is known together.
    expect(readPack([{ bn: 'd:', bt: 2e9, n: 'x', v: 1 }], now)).toMatchObject({ ok: false });
    expect(readPack([{ bn: 'd:', bt: 2e9, n: 'x', v: 1, t: now / 1000 - 2e9 }], now)).toMatchObject({
      value: { readings: [{ at: now }] },
    });
  });
});

describe('tables of data loggers', () => {
  const read = (rows: string[][], device: string | null = null) => {
    const pack = packOfRows(rows, device);
    if (!pack.ok) return pack.refusals[0]?.message;
    const of = readPack(pack.value, now);
    return of.ok ? of.value.readings.map((r) => [r.name, r.unit, r.at - now, r.value]) : of.refusals[0]?.message;
  };
  it('one row for each value, with its device', () => {
    expect(
      read([
        ['Time', 'Device', 'Channel', 'Value', 'Unit'],
        ['2026-11-24T11:00:00Z', 'logger-7', 'chamber', '-78,5', 'Cel'],
        ['2026-11-24 12:30+01:00', 'logger-7', 'door', 'true', ''],
        [String(now / 1000), 'logger-8', 'state', 'defrost', ''],
        ['2026-11-24T11:50:00Z', 'logger-8', 'state', '', ''],
      ]),
    ).toEqual([
      ['logger-7:chamber', 'Cel', -HOUR, -78.5],
      ['logger-7:door', null, -HOUR / 2, true],
      ['logger-8:state', null, 0, 'defrost'],
    ]);
  });
  it('one column for each channel, all of one device', () => {
    expect(
      read(
        [
          ['time', 'chamber [Cel]', 'pressure [Pa]', ''],
          ['2026-11-24T11:00:00Z', '4.5', '1.2e5', 'x'],
          ['2026-11-24T12:00:00Z', '', '.5', ''],
        ],
        'logger-9',
      ),
    ).toEqual([
      ['logger-9:chamber', 'Cel', -HOUR, 4.5],
      ['logger-9:pressure', 'Pa', -HOUR, 120_000],
      ['logger-9:pressure', 'Pa', 0, 0.5],
    ]);
  });
  it.each<[string, string[][], string]>([
    [
      'without times',
      [
        ['device', 'chamber'],
        ['a', '1'],
      ],
      '“time”',
    ],
    [
      'without devices',
      [
        ['time', 'chamber'],
        ['2026-11-24T11:00:00Z', '1'],
      ],
      '“device”',
    ],
    [
      'without values',
      [
        ['time', 'device'],
        ['2026-11-24T11:00:00Z', 'a'],
      ],
      'a column for each channel',
    ],
    [
      'whose times lack their offset',
      [
        ['time', 'device', 'c'],
        ['2026-11-24 11:00', 'a', '1'],
      ],
      't must be a number',
    ],
    ['that are empty', [], '“time”'],
  ])('%s are refused by name', (_, rows, said) => {
    expect(read(rows)).toContain(said);
  });
});
