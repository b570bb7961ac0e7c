import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type CraftId } from '../ids.ts';
import type { RateCard } from '../labour/index.ts';
import type { Currency } from '../money.ts';
import {
  addDays,
  asInstant,
  asLocalDate,
  asZone,
  instant,
  localDateAt,
  type Instant,
  type LocalDate,
} from '../time/index.ts';
import {
  comesTo,
  comesToByComing,
  comingOf,
  comingsOf,
  totalOf,
  type ChargedLine,
  type Coming,
  type DoneByComing,
} from './index.ts';

const UTC = asZone('UTC');
const at = (day: string, time = '09:00'): Instant => asInstant(`${day}T${time}:00Z`);
const came = (...times: readonly [day: string, time?: string][]): Coming[] =>
  times.map(([day, time]) => ({ at: at(day, time), on: asLocalDate(day) }));
const on = (day: string, until: Instant | null = null) => ({ on: asLocalDate(day), until });

describe('which appointment something belongs to', () => {
  const two = came(['2026-11-03'], ['2026-11-10']);

  it.each([
    ['its day’s', '2026-11-10', 1],
    ['the last before, on other days', '2026-11-07', 0],
    ['the last of all, after them', '2026-12-01', 1],
    ['the first, before all', '2026-10-30', 0],
  ])('%s', (_, day, expected) => {
    expect(comingOf(two, on(day))).toBe(expected);
  });

  it('of several on one day the last that had begun when it ended', () => {
    const day = came(['2026-11-03', '08:30'], ['2026-11-03', '14:00']);
    const until = (time: string) => comingOf(day, on('2026-11-03', at('2026-11-03', time)));
    // The way there ends before the arrival: it belongs to the first, as what nobody said the time of.
    expect([until('08:15'), until('13:59'), until('14:00'), until('18:00')]).toEqual([0, 0, 1, 1]);
    expect(comingOf(day, on('2026-11-03'))).toBe(0);
  });

  it('the first, where nobody came', () => {
    expect(comingOf([], on('2026-11-03', at('2026-11-03')))).toBe(0);
  });

  it('what ended between two arrivals always belongs to the one before it', () => {
    const arrivals = fc.uniqueArray(fc.integer({ min: 0, max: 20_000 }), { minLength: 1, maxLength: 6 });
    fc.assert(
      fc.property(arrivals, fc.nat(20_000), (minutes, ended) => {
        const start = at('2026-11-03', '00:00');
        const when = (minute: number): Instant => instant(start + minute * 60_000);
        const comings = minutes.toSorted((a, b) => a - b).map((m) => ({ at: when(m), on: localDateAt(UTC, when(m)) }));
        const until = when(ended);
        const found = comings[comingOf(comings, { on: localDateAt(UTC, until), until })] as Coming;
        const before = comings.filter((c) => c.at <= until).at(-1);
        const sameDayLater = comings.find((c) => c.on === localDateAt(UTC, until));
        // Unless nothing had begun that day, and somebody came on it later: then it is the way there.
        const expected = before?.on === localDateAt(UTC, until) ? before : (sameDayLater ?? before ?? comings[0]);
        expect(found).toBe(expected);
      }),
    );
  });
});

describe('the times somebody came', () => {
  const plan = (day: string, from: string, to: string) => ({
    ...{ from: at(day, from), to: at(day, to), on: asLocalDate(day) },
  });

  it('are appointments that were kept, those at the same time as one, and arrivals nobody had planned', () => {
    const planned = [
      plan('2026-11-03', '09:00', '11:00'),
      // A second person, from ten on.
      plan('2026-11-03', '10:00', '12:00'),
      // Nobody came.
      plan('2026-11-05', '09:00', '10:00'),
      plan('2026-11-10', '13:00', '15:00'),
    ];
    const arrivals = came(['2026-11-03', '09:10'], ['2026-11-07', '16:00']);
    const worked = [on('2026-11-10', at('2026-11-10', '14:30'))];
    expect(comingsOf(planned, arrivals, worked)).toEqual([
      { at: at('2026-11-03', '09:00'), on: '2026-11-03' },
      { at: at('2026-11-07', '16:00'), on: '2026-11-07' },
      { at: at('2026-11-10', '13:00'), on: '2026-11-10' },
    ]);
    expect(comingsOf([], [], worked)).toEqual([]);
  });

  it('without the appointments nobody kept, everything belongs to the same as before', () => {
    const day = fc.nat(8).map((n) => addDays(asLocalDate('2026-11-01'), n));
    const hour = fc.integer({ min: 6, max: 18 });
    const moment = fc.tuple(day, hour).map(([d, h]) => ({ on: d, at: at(d, `${`${h}`.padStart(2, '0')}:00`) }));
    const planned = fc.array(
      fc.tuple(moment, fc.integer({ min: 1, max: 4 })).map(([m, hours]) => ({
        ...{ from: m.at, to: instant(m.at + hours * 3_600_000), on: m.on },
      })),
      { maxLength: 6 },
    );
    const things = fc.array(
      moment.map((m) => ({ on: m.on, until: m.at })),
      { maxLength: 8 },
    );
    fc.assert(
      fc.property(planned, fc.array(moment, { maxLength: 3 }), things, (plans, arrivals, done) => {
        // Everything that was planned, as if all had been kept: a moment at the begin of each.
        const all = comingsOf(plans, arrivals, [...done, ...plans.map((p) => ({ on: p.on, until: p.from }))]);
        const kept = comingsOf(plans, arrivals, done);
        for (const when of done) expect(kept[comingOf(kept, when)]).toEqual(all[comingOf(all, when)]);
      }),
    );
  });
});

const CRAFT = asId<CraftId>(1);
const CARD: RateCard = {
  name: 'Standard',
  currency: 'EUR' as Currency,
  rates: [{ craftId: CRAFT, from: asLocalDate('2026-01-01'), cost: 3_000, sales: 8_000 }],
  surcharges: {},
  billing: { work: { step: 30, minimum: 60 }, travel: { step: 15, minimum: 0 }, waiting: { step: 15, minimum: 0 } },
  night: null,
  callOut: 4_500,
  travel: { by: 'time' },
};
const NOTHING = { share: 0, by: null, discount: 0 };
const line = (id: number): ChargedLine => ({
  id,
  attended: true,
  verdict: { elements: { labour: NOTHING, parts: NOTHING, consumables: NOTHING, travel: NOTHING }, surcharge: null },
});
const work = (coming: number, minutes: number, day = '2026-11-03') => ({
  ...{ coming, minutes, lineId: 1, personId: 7, craftId: CRAFT, kind: 'work' as const, hours: 'normal' as const },
  day: asLocalDate(day),
});
const done = (over: Partial<DoneByComing>): DoneByComing => ({
  ...{ worked: [], parts: [], others: [], visits: [], driven: [], comings: 0 },
  ...over,
});

describe('an order billed by appointment', () => {
  it('rounds each appointment up by itself: 40 and 70 minutes are 60 and 90, where the order’s 110 would be 120', () => {
    const twice = done({ worked: [work(0, 40), work(1, 70, '2026-11-10')], comings: 2 });
    const charges = comesToByComing(twice, CARD, [line(1)]);
    expect(charges.map((c) => [c.coming, c.what, c.labour?.billed ?? null, c.list])).toEqual([
      [0, 'work', 60, 8_000],
      [0, 'call-out', null, 4_500],
      [1, 'work', 90, 12_000],
      [1, 'call-out', null, 4_500],
    ]);
    expect(comesTo(twice, CARD, [line(1)]).map((c) => [c.what, c.labour?.billed ?? null, c.list])).toEqual([
      ['work', 120, 16_000],
      ['call-out', null, 9_000],
    ]);
  });

  it('has a visit’s own price with the last, and no call-out where nobody came', () => {
    const visits = [{ lineId: 1, price: 25_000 }];
    const charges = comesToByComing(done({ worked: [work(1, 60)], visits, comings: 2 }), CARD, [line(1)]);
    expect(charges.filter((c) => c.what === 'visit').map((c) => [c.coming, c.list])).toEqual([[1, 25_000]]);
    expect(comesToByComing(done({ worked: [work(0, 60)], visits }), CARD, [line(1)]).map((c) => c.what)).toEqual([
      'work',
      'visit',
    ]);
  });

  it('loses nothing: cost, parts and other costs are those of the order, and what is billed of time is never less', () => {
    const day = fc.nat(30).map((n): LocalDate => addDays(asLocalDate('2026-11-01'), n));
    const coming = fc.nat(2);
    const entry = fc
      .record({ coming, minutes: fc.integer({ min: 1, max: 600 }), lineId: fc.integer({ min: 1, max: 2 }), day })
      .map((e) => ({ ...work(e.coming, e.minutes), ...e }));
    const other = fc
      .record({ coming, lineId: fc.integer({ min: 1, max: 2 }), cost: fc.nat(5_000), price: fc.nat(9_000) })
      .map((o) => ({ ...o, id: 1, oursBecause: null }));
    const of = fc.record({ worked: fc.array(entry, { maxLength: 8 }), others: fc.array(other, { maxLength: 4 }) });
    fc.assert(
      fc.property(of, ({ worked, others }) => {
        const all = done({ worked, others, comings: 3 });
        const [apart, whole] = [comesToByComing, comesTo].map((f) => f(all, CARD, [line(1), line(2)]));
        const by = (charges: typeof apart, what: string) => totalOf((charges ?? []).filter((c) => c.what === what));
        expect(by(apart, 'other')).toEqual(by(whole, 'other'));
        expect(by(apart, 'call-out').list).toBe(by(whole, 'call-out').list);
        // Each is rounded to a cent once more often.
        const [apartCost, wholeCost] = [by(apart, 'work').cost, by(whole, 'work').cost];
        expect(Math.abs(apartCost - wholeCost)).toBeLessThanOrEqual(worked.length);
        expect(by(apart, 'work').list).toBeGreaterThanOrEqual(by(whole, 'work').list - worked.length);
      }),
    );
  });
});
