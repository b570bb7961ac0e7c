// The plain functions behind the screens: words, lengths, typed times, trees.
import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import type { ClockOut } from '#api/orders.ts';
import { asInstant, asLocalDate, asZone } from '#core/time/index.ts';
import { orderNumber, orderOfNumber } from '#api/shapes.ts';
import { addressOf } from './shell/calls.ts';
import { readAsset } from '#api/register.ts';
import { previewRun } from '#api/upkeep.ts';
import { readWall } from './parts/time-of-event.tsx';
import { namesBeside, ringsFor } from './parts/rings.tsx';
import { readMeterLines } from './setup/catalogue.tsx';
import { foldAlike } from './parts/fold.ts';
import { laneStretch, stretchWithin } from './parts/ribbon-sheet.tsx';
import { subtreeCounts } from './places/tree.tsx';
import { readLength, writeLength } from './setup/service-levels.tsx';
import { sayLeft, sayMargin } from './parts/margin-bar.tsx';
import { sayRibbon } from './parts/ribbon.tsx';
import { plural, sayMoment, sayShare, sayShortDate, sayZone } from './parts/words.ts';

const lisbon = asZone('Europe/Lisbon');
const madrid = asZone('Europe/Madrid');
const now = asInstant('2026-11-24T09:20:00Z');

describe('moments in words', () => {
  it.each([
    ['2026-11-24T11:40:00Z', '11:40'],
    ['2026-11-25T08:10:00Z', 'Wed 08:10'],
    ['2026-11-21T08:10:00Z', 'Sat 08:10'],
    ['2026-12-09T08:10:00Z', 'Wed 9 Dec 08:10'],
    ['2025-12-09T08:10:00Z', 'Tue 9 Dec 2025 08:10'],
  ])('%s is “%s”', (at, said) => expect(sayMoment(asInstant(at), now, lisbon)).toBe(said));
  it('speak in the place’s own time', () =>
    expect([sayMoment(now, now, madrid), sayZone('America/New_York')]).toEqual(['10:20', 'New York']));
  it('leave the year out when it is the reader’s', () =>
    expect([
      sayShortDate(asLocalDate('2026-03-01'), asLocalDate('2026-11-24')),
      sayShortDate(asLocalDate('2027-03-01'), asLocalDate('2026-11-24')),
    ]).toEqual(['1 Mar', '1 Mar 2027']));
  it('count in words', () =>
    expect([
      plural(1, 'visit'),
      plural(3, 'visit'),
      plural(2, 'entry', 'entries'),
      sayShare(null),
      sayShare(1),
      sayShare(5 / 7),
    ]).toEqual(['1 visit', '3 visits', '2 entries', '–', '100 %', '71.4 %']));
});

describe('a clock in words', () => {
  const clock = (over: Partial<ClockOut>): ClockOut => ({
    orderId: 1,
    assetId: 1,
    tag: 'Q1',
    target: 'arrival',
    state: 'running',
    promisedMinutes: 480,
    warnPercent: 25,
    measure: 'Office hours',
    startedAt: now,
    dueAt: asInstant('2026-11-24T11:40:00Z'),
    stoppedAt: null,
    left: 190 * 60_000,
    over: null,
    note: null,
    zone: lisbon,
    ...over,
  });
  it.each<[Partial<ClockOut>, string]>([
    [{}, '3 h 10 min of 8 h left, until 11:40'],
    [{ zone: madrid }, '3 h 10 min of 8 h left, until 12:40 (Madrid)'],
    [{ state: 'paused', note: 'paused: no access', dueAt: null }, 'paused: no access, 3 h 10 min of 8 h left'],
    [{ state: 'missed', left: null, over: 40 * 60_000 }, 'missed by 40 min, still open, was due 11:40'],
    [{ state: 'met', stoppedAt: asInstant('2026-11-24T10:00:00Z') }, 'met, 3 h 10 min of 8 h to spare, at 10:00'],
    [{ state: 'void', note: 'order called off' }, 'no longer owed: order called off'],
  ])('%o', (over, said) => expect(sayMargin(clock(over), now, lisbon)).toBe(said));
  it('without the moment', () =>
    expect(sayLeft(clock({ measure: 'elapsed time', left: 50 * 3_600_000, promisedMinutes: 4320 }))).toBe(
      '2 d 2 h of 72 h left',
    ));
});

describe('names beside places', () => {
  it('lie on nothing, and what fits nowhere is not named', () => {
    const spot = (key: string, x: number, y: number, isStrong = false) => ({
      ...{ key, name: 'A place of some name', says: '', radius: 5, latitude: 0, longitude: 0, x, y, isStrong },
    });
    const near = [spot('a', 100, 100), spot('b', 104, 101), spot('c', 102, 104), spot('d', 100, 103)];
    const found = namesBeside([...near, spot('far', 400, 300), spot('chosen', 104, 104, true)]);
    expect(found.get('far')).toMatchObject({ anchor: 'start', y: 304 });
    expect(found.has('chosen')).toBe(true);
    expect(found.size).toBeLessThan(6);
    const ends = [...found.values()].map(({ y, anchor, x }) => `${Math.round(x)} ${Math.round(y)} ${anchor}`);
    expect(new Set(ends).size).toBe(ends.length);
  });
});

describe('typed values', () => {
  it.each([
    ['30 min', 30],
    ['4 h', 240],
    ['4', 240],
    ['1,5 h', 90],
    ['2d', 2880],
    ['45m', 45],
  ])('the length “%s” is %i minutes', (text, minutes) => expect(readLength(text)).toBe(minutes));
  it.each([30, 60, 90, 240, 1440, 2880, 4320])('%i minutes are written as they are read', (minutes) =>
    expect(readLength(writeLength(minutes))).toBe(minutes),
  );
  it.each(['', 'soon', '4 weeks', '-1 h'])('the length “%s” cannot be read', (text) =>
    expect(readLength(text)).toBeNull(),
  );
  it('times are read in the order’s zone', () => {
    expect(readWall('2026-11-24', '10:20', madrid)).toBe(now);
    expect(readWall('2026-11-24', '9.20', lisbon)).toBe(now);
    for (const [d, t] of [
      ['2026-11-31', '10:00'],
      ['2026-11-24', '25:00'],
      ['2026-11-24', '10:75'],
      ['', '10:00'],
      ['2026-11-24', 'noon'],
    ] as const)
      expect(readWall(d, t, lisbon)).toBeNull();
  });
  it('numbers of orders are found again', () => {
    expect(orderOfNumber(orderNumber(42))).toBe(42);
    expect(['wo 10007', 'WO-9999', 'Q0042'].map(orderOfNumber)).toEqual([7, null, null]);
  });
  it('rings stand at 1, 2 or 5 times a power of ten and reach the farthest site', () => {
    for (const km of [0.4, 3, 7.5, 29.8, 480]) {
      const rings = ringsFor(km);
      expect(rings.at(-1)).toBeGreaterThanOrEqual(km);
      expect(rings.length).toBeLessThanOrEqual(6);
      expect([1, 2, 5]).toContain(Number((rings[0] as number).toExponential().split('e')[0]));
    }
  });
  it('a stretch of the sheet stays inside the whole one and is at least two weeks long', () => {
    const outer = { from: 100, to: 500 };
    expect(stretchWithin(90, 130, outer)).toEqual([100, 140]);
    expect(stretchWithin(490, 600, outer)).toEqual([390, 500]);
    expect(stretchWithin(200, 201, outer)).toEqual([200, 214]);
    expect(stretchWithin(0, 9999, outer)).toEqual([100, 500]);
  });
  it('meters of a class are read a line each, and the line that cannot be read is named', () => {
    expect(readMeterLines('run hours; h\n\ncycles;n;counter\nstarts; n; starts; 65536')).toEqual([
      { name: 'run hours', unit: 'h', channel: null, wrapsAt: null },
      { name: 'cycles', unit: 'n', channel: 'counter', wrapsAt: null },
      { name: 'starts', unit: 'n', channel: 'starts', wrapsAt: 65_536 },
    ]);
    expect(readMeterLines('run hours; h\ncycles')).toBe(2);
    // A count begins anew only where a device counts, and at a number.
    expect(['cycles; n; ; 100', 'cycles; n; counter; never', 'cycles; n; counter; 0'].map(readMeterLines)).toEqual([
      1, 1, 1,
    ]);
  });
});

describe('addresses of calls', () => {
  it('carry parameters and leave empty filters out', () => {
    expect(addressOf({ contract: readAsset, sent: { params: { id: '7' } } })).toBe('/api/assets/7');
    expect(
      addressOf({ contract: previewRun, sent: { query: { to: '2026-12-01', after: undefined, customer: '' } } }),
    ).toBe('/api/upkeep?to=2026-12-01');
  });
});

describe('trees and ribbons', () => {
  it('count assets with everything below', () => {
    const node = (id: number, parentId: number | null, assets: number) => ({
      id,
      parentId,
      assets,
      name: `N${id}`,
      zone: null,
      address: null,
      version: 1,
    });
    expect([...subtreeCounts([node(1, null, 0), node(2, 1, 3), node(3, 2, 4), node(4, 1, 1)])]).toEqual([
      [1, 8],
      [2, 7],
      [3, 4],
      [4, 1],
    ]);
  });
  it('say what they show', () => {
    const mark = (state: 'planned' | 'in window' | 'not done') => ({
      due: asLocalDate('2026-11-24'),
      planned: asLocalDate('2026-11-24'),
      changed: false,
      windowFrom: asLocalDate('2026-11-20'),
      windowTo: asLocalDate('2026-11-28'),
      state,
      orderId: null,
      label: 'x',
    });
    const bar = (missed: boolean) => ({ orderId: 1, from: now, to: null, missed, label: 'x', notches: [] });
    expect(
      sayRibbon({
        cover: [],
        care: [mark('planned'), mark('in window'), mark('not done')],
        trouble: [bar(true), bar(false)],
      }),
    ).toBe('0 covers; 1 visits in window, 1 late or not done, 1 planned; 2 repairs, 1 with a promise missed');
  });
});

describe('a lane of readings on the time line', () => {
  const over = (...at: number[]) => laneStretch({ points: at.map((t) => ({ at: t, value: 1 })) }, 0, 1000);
  it('is drawn over the sheet’s stretch, or over its own where it would be a spike', () => {
    expect(over(0, 500, 900)).toEqual({ start: 0, end: 1000, isOwn: false });
    expect(over(950, 970, 990)).toEqual({ start: 950, end: 990, isOwn: true });
    expect(over(950)).toEqual({ start: 0, end: 1000, isOwn: false });
    expect(over(950, 950)).toEqual({ start: 0, end: 1000, isOwn: false });
    expect(over(-50, 950, 990)).toEqual({ start: 950, end: 990, isOwn: true });
  });
});

describe('rows that say the same', () => {
  it('stand as one, in the order of their first, and none is lost', () => {
    const folds = foldAlike(['b1', 'a1', 'b2', 'c1', 'a2'], (r) => r.slice(0, 1));
    expect(folds.map((f) => f.rows)).toEqual([['b1', 'b2'], ['a1', 'a2'], ['c1']]);
  });
});

describe('what rooms ask of the server', () => {
  it('has a name of its own in each: the second of one name would never be asked', async () => {
    const files = await readdir(import.meta.dirname, { recursive: true });
    const named = await Promise.all(
      files
        .filter((f) => f.endsWith('endpoints.ts'))
        .map(async (f) =>
          (await readFile(join(import.meta.dirname, f), 'utf8')).matchAll(/^ {4}(\w+): .*\b(?:read|write)\(/gm),
        ),
    );
    const names = named.flatMap((found) => [...found].map((m) => m[1]));
    expect(names.length).toBeGreaterThan(100);
    expect(names.filter((n, i) => names.indexOf(n) !== i)).toEqual([]);
  });
});
