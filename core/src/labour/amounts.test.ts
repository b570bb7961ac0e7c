import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { shareEvenly } from '../share-out.ts';
import { asId, type CraftId } from '../ids.ts';
import type { Currency } from '../money.ts';
import { readCalendar, weekdaysOpen } from '../calendars/index.ts';
import { asLocalDate, asZone, instant } from '../time/index.ts';
import {
  billedMinutes,
  checkRateCard,
  checkShares,
  costOf,
  divideEntry,
  HOURS_KINDS,
  labourCharges,
  placeHoursOf,
  rateOn,
  readEntry,
  withoutRate,
  type PlaceHours,
  type RateCard,
  type Worked,
} from './index.ts';

const d = asLocalDate;
const [TECHNICIAN, SENIOR, APPRENTICE] = [asId<CraftId>(1), asId<CraftId>(2), asId<CraftId>(3)] as const;
const CARD: RateCard = {
  name: 'Standard',
  currency: 'EUR' as Currency,
  rates: [
    { craftId: TECHNICIAN, from: d('2026-01-01'), cost: 3_200, sales: 7_200 },
    { craftId: TECHNICIAN, from: d('2026-11-01'), cost: 3_400, sales: 7_500 },
    { craftId: SENIOR, from: d('2026-01-01'), cost: 4_100, sales: 9_600 },
  ],
  surcharges: { night: { sales: 150, cost: 125 }, holiday: { sales: 200, cost: 100 } },
  billing: {
    work: { step: 15, minimum: 60 },
    travel: { step: 15, minimum: 0 },
    waiting: { step: 1, minimum: 0 },
  },
  night: { from: 1320, to: 360 },
  callOut: 4_500,
  travel: { by: 'time' },
};
const worked = (over: Partial<Worked>): Worked => ({
  ...{ lineId: 1, personId: 7, craftId: TECHNICIAN, kind: 'work', hours: 'normal', day: d('2026-11-24'), minutes: 60 },
  ...over,
});
const charges = (...all: Partial<Worked>[]) => labourCharges(all.map(worked), CARD);
const rows = (...all: Partial<Worked>[]) =>
  charges(...all).map((c) => [c.lineId, c.kind, c.hours, c.minutes, c.billed, c.cost, c.list]);

describe('billed minutes', () => {
  it.each([
    [1, 60],
    [60, 60],
    [61, 75],
    [75, 75],
    [76, 90],
    [0, 0],
    [-5, 0],
  ])('%i minutes are billed as %i by steps of 15 and at least 60', (minutes, billed) => {
    expect(billedMinutes(minutes, { step: 15, minimum: 60 })).toBe(billed);
  });
});

describe('labour of an order', () => {
  it('is costed by the minute and sold by the step', () => {
    // 100 min at 34.00 = 56.67; 105 min at 75.00 = 131.25.
    expect(rows({ minutes: 100 })).toEqual([[1, 'work', 'normal', 100, 105, 5667, 13125]]);
  });

  it('is rounded up after summing over lines and days, never each by itself', () => {
    // 50 + 25 = 75: nothing is added.
    expect(rows({ lineId: 1, minutes: 50 }, { lineId: 2, minutes: 25 })).toEqual([
      [1, 'work', 'normal', 50, 50, 2833, 6250],
      [2, 'work', 'normal', 25, 25, 1417, 3125],
    ]);
  });

  it('spreads what rounding adds by the minutes of the lines, the earlier line first', () => {
    // 40 + 22 = 62 → 75: 13 more, 13·40/62 = 8.39 and 4.61: 8 and 5.
    expect(rows({ lineId: 1, minutes: 40 }, { lineId: 2, minutes: 22 }).map((r) => [r[3], r[4]])).toEqual([
      [40, 48],
      [22, 27],
    ]);
  });

  it('adds to the cheapest piece of a line, of equal ones to that of the later day', () => {
    const day = [d('2026-10-31'), d('2026-11-02')] as const;
    // 61 minutes at night and 10 in normal hours: the 4 that are added are normal ones.
    expect(rows({ minutes: 61, hours: 'night' }, { minutes: 10 }).map((r) => [r[2], r[3], r[4]])).toEqual([
      ['night', 61, 61],
      ['normal', 10, 14],
    ]);
    // October’s rate is lower.
    expect(rows({ minutes: 40, day: day[0] }, { minutes: 22, day: day[1] }).map((r) => r[4])).toEqual([53, 22]);
    expect(charges({ minutes: 40, day: d('2026-11-03') }, { minutes: 22, day: d('2026-11-04') })).toHaveLength(1);
  });

  it('multiplies the rate of the minutes in an hours kind, the cost by its own factor', () => {
    expect(rows({ minutes: 60, hours: 'night' })).toEqual([[1, 'work', 'night', 60, 60, 4250, 11250]]);
    expect(rows({ minutes: 60, hours: 'holiday' })).toEqual([[1, 'work', 'holiday', 60, 60, 3400, 15000]]);
    expect(rows({ minutes: 60, hours: 'outside' })).toEqual([[1, 'work', 'outside', 60, 60, 3400, 7500]]);
  });

  it('rounds each person and kind by themselves', () => {
    expect(
      rows(
        { minutes: 10, kind: 'travel' },
        { minutes: 7, kind: 'waiting' },
        { minutes: 10, kind: 'travel', personId: 8 },
      ).map((r) => [r[1], r[3], r[4]]),
    ).toEqual([
      ['travel', 10, 15],
      ['waiting', 7, 7],
      ['travel', 10, 15],
    ]);
  });

  it('takes counter-entries off first: what is taken back wholly is not billed, not even the minimum', () => {
    expect(charges({ minutes: 90 }, { minutes: -90 })).toEqual([]);
    expect(rows({ minutes: 90 }, { minutes: -60 })).toEqual([[1, 'work', 'normal', 30, 60, 1700, 7500]]);
    expect(rows({ minutes: 30 }, { minutes: -40, hours: 'night' }).map((r) => r[4])).toEqual([0, 0]);
  });

  it('costs the same when each of its charges is a whole number of cents, and never a charge’s cent more otherwise', () => {
    const some = [worked({ minutes: 100 }), worked({ minutes: 100 }), worked({ minutes: 60, hours: 'night' })];
    // 200 min at 34.00 are 113.33 in one sum; an hour of night at ×1.25 is 42.50.
    expect(costOf(some, CARD)).toBe(11_333 + 4_250);
    expect(costOf([worked({ minutes: 90 }), worked({ minutes: -90 })], CARD)).toBe(0);
    expect(costOf([worked({ craftId: APPRENTICE })], CARD)).toBe(0);
    // A rate that changed within: each day at its own.
    expect(costOf([worked({ day: d('2026-10-31') }), worked({ day: d('2026-11-01') })], CARD)).toBe(3_200 + 3_400);
  });

  it('says of which craft no rate is known, and costs it nothing', () => {
    const odd = worked({ craftId: APPRENTICE });
    expect(withoutRate([odd, odd, worked({})], CARD)).toEqual([
      { personId: 7, craftId: APPRENTICE, day: '2026-11-24' },
    ]);
    expect(withoutRate([worked({ day: d('2025-12-31') }), worked({ craftId: null })], CARD)).toHaveLength(2);
    expect(labourCharges([odd], CARD)).toMatchObject([{ cost: 0, list: 0, billed: 60 }]);
    expect(rateOn(CARD.rates, TECHNICIAN, d('2026-11-01'))?.sales).toBe(7_500);
    expect(rateOn(CARD.rates, TECHNICIAN, d('2026-10-31'))?.sales).toBe(7_200);
  });

  it('bills by person and kind exactly what the sum of their minutes is billed, whatever the lines', () => {
    const some = fc.record({
      lineId: fc.integer({ min: 1, max: 4 }),
      personId: fc.integer({ min: 1, max: 2 }),
      hours: fc.constantFrom(...HOURS_KINDS),
      day: fc.constantFrom(d('2026-10-30'), d('2026-11-01'), d('2026-11-02')),
      minutes: fc.integer({ min: 1, max: 300 }),
      kind: fc.constantFrom('work', 'travel', 'waiting'),
    });
    fc.assert(
      fc.property(fc.array(some, { maxLength: 20 }), (entries) => {
        const all = entries.map((e) => worked(e as Partial<Worked>));
        const found = labourCharges(all, CARD);
        for (const person of [1, 2])
          for (const kind of ['work', 'travel', 'waiting'] as const) {
            const own = (of: readonly { personId: number; kind: string }[]) =>
              of.filter((x) => x.personId === person && x.kind === kind) as never[];
            const sum = (of: readonly { minutes: number }[]) => of.reduce((a, b) => a + b.minutes, 0);
            const done = sum(own(all));
            expect(sum(own(found))).toBe(done);
            const billed = (own(found) as { billed: number }[]).reduce((a, b) => a + b.billed, 0);
            expect(billed).toBe(billedMinutes(done, CARD.billing[kind]));
          }
        return found.every((c) => c.billed >= c.minutes && c.list >= 0);
      }),
    );
  });
});

describe('one entry over several orders', () => {
  const LISBON = asZone('Europe/Lisbon');
  const hoursOf = (from: number, to: number): PlaceHours => {
    const read = readCalendar({
      name: 'Hours',
      zone: LISBON,
      weekly: weekdaysOpen(from, to),
      closed: [],
      extraOpen: [],
    });
    if (!read.ok) throw new Error(read.refusals[0]?.message);
    return placeHoursOf(read.value, LISBON);
  };
  const [early, late] = [hoursOf(480, 1000), hoursOf(600, 1200)];
  /** Tuesday, 15:00 to 16:45: in the early place normal for 100 minutes. */
  const read = readEntry(
    { day: d('2026-11-24'), kind: 'work', from: 900, to: 1005, minutes: null, hours: null },
    LISBON,
    instant(Date.parse('2026-11-25T00:00Z')),
  );
  const entry = read.ok ? read.value : (null as never);
  const divided = (...over: (readonly [PlaceHours, number])[]) =>
    divideEntry(
      entry,
      over.map(([place, share]) => ({ place, night: null, share })),
      LISBON,
    ).map((own) => own.map((p) => [p.hours, p.minutes]));

  it('divides every piece by itself, of equal remainders the earlier order gets the minute', () => {
    expect(divided([early, 1], [early, 1], [early, 1])).toEqual([
      [
        ['normal', 34],
        ['outside', 2],
      ],
      [
        ['normal', 33],
        ['outside', 2],
      ],
      [
        ['normal', 33],
        ['outside', 1],
      ],
    ]);
    expect(divided([early, 3], [early, 1]).map((own) => own.map(([, minutes]) => minutes))).toEqual([
      [75, 4],
      [25, 1],
    ]);
    expect(divided([early, 1], [early, 0])[1]).toEqual([]);
  });

  it('finds the hours of each place by itself, and keeps the sum', () => {
    expect(divided([early, 1], [late, 1])).toEqual([
      [
        ['normal', 50],
        ['outside', 3],
      ],
      [
        ['normal', 50],
        ['normal', 2],
      ],
    ]);
  });

  it('cuts where the night of either card begins, also at one place', () => {
    // 15:00 to 16:45 on closed hours from 08:00 to 14:00: outside, until a night that begins at 16:00 under one of the cards.
    const closed = hoursOf(480, 840);
    const over = [null, { from: 960, to: 360 }].map((night) => ({ place: closed, night, share: 1 }));
    expect(divideEntry(entry, over, LISBON).map((own) => own.map((p) => [p.hours, p.minutes]))).toEqual([
      [
        ['outside', 30],
        ['outside', 23],
      ],
      [
        ['outside', 30],
        ['night', 22],
      ],
    ]);
  });

  it('divides a plain sum by what each place says of the day', () => {
    const sunday = { ...entry, day: d('2026-11-22'), span: null, minutes: 7, hours: null };
    const over = [early, late].map((place) => ({ place, night: null, share: 1 }));
    expect(divideEntry(sunday, over, LISBON)).toEqual([
      [{ day: '2026-11-22', hours: 'holiday', minutes: 4 }],
      [{ day: '2026-11-22', hours: 'holiday', minutes: 3 }],
    ]);
  });

  it('keeps the minutes of the entry, whatever the shares and places', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom(early, late), fc.nat(9)), { minLength: 1, maxLength: 6 }),
        (over) =>
          over.every(([, share]) => share === 0) ||
          divided(...over).reduce((sum, own) => sum + own.reduce((a, [, minutes]) => a + (minutes as number), 0), 0) ===
            105,
      ),
    );
  });

  it('is refused without an order, and with shares that are none', () => {
    expect(checkShares([]).map((r) => r.field)).toEqual(['lines']);
    expect(checkShares([0, 0]).map((r) => r.field)).toEqual(['lines.0.share']);
    expect(checkShares([1, -1, 0.5]).map((r) => r.field)).toEqual(['lines.1.share', 'lines.2.share']);
    expect(checkShares(Array.from({ length: 51 }, () => 1))[0]?.message).toContain('50');
    expect(checkShares([2, 1])).toEqual([]);
  });
});

describe('a rate card', () => {
  it('is refused with what would be right, each at its field', () => {
    const fields = (over: Partial<RateCard>) => checkRateCard({ ...CARD, ...over }).map((r) => r.field);
    expect(fields({})).toEqual([]);
    expect(fields({ name: ' ', rates: [] })).toEqual(['name', 'rates']);
    const [first] = CARD.rates as [RateCard['rates'][number]];
    expect(fields({ rates: [first, { ...first, cost: -1, sales: 0.5 }] })).toEqual([
      'rates.1.cost',
      'rates.1.sales',
      'rates.1.from',
    ]);
    expect(fields({ billing: { ...CARD.billing, work: { step: 0, minimum: -1 } } })).toEqual([
      'billing.work.step',
      'billing.work.minimum',
    ]);
    expect(fields({ surcharges: { night: { sales: 1001, cost: -1 } } })).toEqual([
      'surcharges.night.sales',
      'surcharges.night.cost',
    ]);
    expect(fields({ night: { from: 60, to: 60 }, callOut: -1, travel: { by: 'flat', price: 0.1 } })).toEqual([
      'night.to',
      'callOut',
      'travel.price',
    ]);
  });

  it('divides call-out equally over the lines attended', () => {
    expect(shareEvenly(4_500, 4)).toEqual([1125, 1125, 1125, 1125]);
    expect(shareEvenly(100, 3)).toEqual([34, 33, 33]);
    expect(shareEvenly(100, 0)).toEqual([]);
  });
});
