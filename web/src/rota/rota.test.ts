// The plain functions behind the rota's drawing: the axis with its nights left out, lanes, loose work at its latest start, and what a
// place would mean, said by the rule that the server asks by.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { LooseOrder, OrderWorkOut, RotaAppointment } from '#api/rota.ts';
import { PLAIN_ROADS } from '#core/rota/index.ts';
import { asInstant, asLocalDate, asZone, HOUR, instant, MINUTE } from '#core/time/index.ts';
import { asks, binds } from './ask-dialog.tsx';
import { axisOf, beginOf, DAYS_SHOWN, stepOf, VIEWS } from './axis.ts';
import { dayOf, freeOf, goersOf, lookAt, stretchesOf, workFrom, type Held, type Rota } from './days.ts';
import { expectedToday, sayExpected, whereOf } from './following.ts';
import { hang } from './loose.tsx';
import { lanesOf } from './plane.ts';

const lisbon = asZone('Europe/Lisbon');
const now = asInstant('2026-11-24T09:20:00Z');
const DAY = asLocalDate('2026-11-24');
const at = (time: string, date = '2026-11-24') => asInstant(`${date}T${time}:00Z`);
const axis = (view: (typeof VIEWS)[number] = 'day', date = DAY) =>
  axisOf({ view, date, zone: lisbon, now, length: 720, spans: [] });

describe('the axis', () => {
  it('shows the hours of a day, more where something lies outside them', () => {
    expect([axis().from, axis().to]).toEqual([at('07:00'), at('19:00')]);
    const late = axisOf({
      view: 'day',
      date: DAY,
      zone: lisbon,
      now,
      length: 720,
      spans: [{ from: at('20:10'), to: at('21:20') }],
    });
    expect(late.to).toBe(at('22:00'));
    expect(axis('hours').from).toBe(at('08:00'));
  });

  it('puts days one after the other with the nights left out', () => {
    const week = axis('week', asLocalDate('2026-11-23'));
    expect(week.segments).toHaveLength(7);
    expect(week.place(at('03:00'))).toBeCloseTo(week.segments[1]?.a ?? -1, 9);
    expect(week.place(at('23:00', '2026-11-23'))).toBeCloseTo(week.segments[1]?.a ?? -1, 9);
  });

  it('gives back the instant of a place, in steps, in every view and over a clock change', () => {
    const zones = fc.constantFrom(lisbon, asZone('Europe/Madrid'), asZone('America/New_York'));
    const dates = fc.constantFrom('2026-11-24', '2026-10-25', '2026-03-29', '2026-11-01').map(asLocalDate);
    fc.assert(
      fc.property(
        zones,
        dates,
        fc.constantFrom(...VIEWS),
        fc.double({ min: 0, max: 0.999, noNaN: true }),
        (zone, date, view, share) => {
          const a = axisOf({ view, date, zone, now, length: 1000, spans: [] });
          const found = a.at(share * 1000, 5);
          expect(found % (5 * MINUTE)).toBe(0);
          // Back on the axis it lies where it was asked for, but for half a step.
          expect(Math.abs(a.place(found) - share * 1000)).toBeLessThanOrEqual(2.5 * a.scale + 1e-6);
        },
      ),
    );
  });

  it('begins weeks on Mondays and months with their week, and steps by what it shows', () => {
    expect(VIEWS.map((v) => beginOf(v, DAY))).toEqual(['2026-11-24', '2026-11-24', '2026-11-23', '2026-10-26']);
    expect(VIEWS.map((v) => stepOf(v, DAY, 1))).toEqual(['2026-11-25', '2026-11-25', '2026-12-01', '2026-12-01']);
    expect(DAYS_SHOWN.month).toBe(35);
  });
});

describe('what lies over one another', () => {
  it('has lanes in which nothing meets, and no more than it needs', () => {
    const spans = fc
      .array(fc.tuple(fc.nat(100), fc.integer({ min: 1, max: 30 })), { maxLength: 30 })
      .map((all) => all.map(([a, n]) => ({ a, b: a + n })).sort((x, y) => x.a - y.a));
    fc.assert(
      fc.property(spans, (all) => {
        const lanes = lanesOf(all);
        all.forEach((x, i) =>
          all.forEach((y, k) => i < k && lanes[i] === lanes[k] && expect(x.b <= y.a || y.b <= x.a).toBe(true)),
        );
        const most = Math.max(0, ...all.map((x) => all.filter((y) => y.a <= x.a && x.a < y.b).length));
        expect(Math.max(0, ...lanes.map((l) => l + 1))).toBe(most);
      }),
    );
  });
});

const spot = { key: 'place 1', at: null };
const person = (id: number, over: object = {}) => ({
  ...{ id, name: ['', 'Lia', 'Rui'][id] ?? '', zone: 'Europe/Lisbon', depotId: 1, depot: 'Ribeira', hasCalendar: true },
  ...{ van: '', start: spot, skills: [], seen: null },
  days: [{ date: DAY, open: [{ from: at('09:00'), to: at('17:00') }], absences: [], asked: [] }],
  ...over,
});
const appointment = (over: Partial<RotaAppointment> = {}): RotaAppointment => ({
  ...{ id: 1, version: 1, from: at('10:00'), to: at('11:00'), personIds: [1], spot, zone: 'Europe/Lisbon', told: null },
  ...{ fixed: false, sent: false, overlapReason: '', late: null, answers: [] },
  orders: [
    {
      ...{
        orderId: 7,
        title: 'Warm',
        kind: 'repair',
        stage: 'planned',
        priority: 1,
        customer: 'Norvela',
        place: 'Lab',
      },
      ...{ tag: 'Q1', machines: 1, window: null },
      clocks: [{ target: 'arrival', dueAt: at('12:00'), stopsAt: 'arrival' }],
    },
  ],
  ...over,
});
const rota = (over: Partial<Rota> = {}): Rota => ({
  ...{
    now,
    from: DAY,
    to: DAY,
    people: [person(1), person(2)] as Rota['people'],
    appointments: [appointment()],
    roads: PLAIN_ROADS,
    ...over,
  },
});
const work: OrderWorkOut = {
  ...{
    ...(appointment().orders[0] as RotaAppointment['orders'][number]),
    zone: 'Europe/Lisbon',
    crew: 1,
    minutesBy: 'plan',
  },
  work: { spot, minutes: 60, skills: [], blocked: [], window: null, site: null, lacks: null },
};
const carried: Held = { what: 'appointment', of: appointment({ told: { from: at('10:00'), to: at('11:00') } }), by: 1 };

describe('what is carried', () => {
  it('is looked at without itself, and says what becomes late and who was told otherwise', () => {
    const near = lookAt(rota(), carried, work, { personId: 1, from: at('10:30') });
    expect([near.against, near.late, near.told]).toEqual([[], [], []]);
    const far = lookAt(rota(), carried, work, { personId: 1, from: at('12:30') });
    expect(far.late).toEqual(['arrival missed by 30 min: Warm']);
    expect(far.told).toEqual(['Norvela']);
    expect(asks(far)).toBe(true);
    expect(goersOf(carried, { personId: 2, from: now })).toEqual([2]);
  });

  it('onto somebody’s other appointment needs a reason, and nothing helps against what binds', () => {
    const other = appointment({ id: 2, personIds: [2], from: at('13:00'), to: at('14:00') });
    const over = lookAt(rota({ appointments: [appointment(), other] }), carried, work, {
      personId: 2,
      from: at('13:30'),
    });
    expect(over.against.map((r) => r.what)).toEqual(['overlap']);
    expect(binds(over)).toEqual([]);
    const sick = person(2, {
      days: [
        {
          date: DAY,
          open: [{ from: at('09:00'), to: at('17:00') }],
          absences: [{ from: at('00:00'), to: at('23:00'), why: 'sick' }],
          asked: [],
        },
      ],
    });
    const bound = lookAt(rota({ people: [person(1), sick] as Rota['people'] }), carried, work, {
      personId: 2,
      from: at('13:30'),
    });
    expect(binds(bound).map((r) => r.text)).toEqual(['sick']);
  });

  it('cannot begin exactly where the rule says so', () => {
    const day = dayOf(rota(), rota().people[0] as Rota['people'][number], DAY);
    const shown = { from: at('08:00'), to: at('18:00') };
    const stretches = stretchesOf(day, 'Lia', workFrom(work, 60), shown, 5, PLAIN_ROADS);
    const isShut = (t: number): boolean => stretches.some((s) => s.from <= t && t < s.to);
    for (let t = shown.from as number; t < shown.to; t += 5 * MINUTE) {
      const looked = lookAt(rota(), { what: 'loose', orderId: 9, title: 'x', minutes: 60, crew: 1 }, work, {
        personId: 1,
        from: instant(t),
      });
      expect(isShut(t)).toBe(looked.against.length > 0);
    }
  });

  it('8 h with one hour taken leave 7 h', () => {
    expect(freeOf(dayOf(rota(), rota().people[0] as Rota['people'][number], DAY), PLAIN_ROADS)).toEqual({
      free: 420,
      all: 480,
    });
  });
});

describe('loose work', () => {
  const loose = (id: number, latestStart: number | null): LooseOrder => ({
    ...(work as unknown as LooseOrder),
    ...{ orderId: id, spot, minutes: 60, skills: [], waitingFor: null, wishedOn: null, nearest: 10, wentBy: false },
    latestStart: latestStart === null ? null : instant(latestStart),
  });
  it('hangs at its latest start; what does not fit is counted and never left out unsaid', () => {
    const items = [
      loose(1, at('10:00')),
      loose(2, at('10:00') - 24 * HOUR),
      loose(3, at('10:00') + 24 * HOUR),
      loose(4, null),
      ...[5, 6, 7, 8].map((id) => loose(id, at('10:00'))),
    ];
    const { hung, before, after, unbound, more } = hang(items, axis(), false);
    expect(hung.length + before + after + unbound + more).toBe(items.length);
    expect([hung.length, before, after, unbound, more]).toEqual([3, 1, 1, 1, 2]);
    expect(hung[0]?.a).toBeCloseTo(axis().place(at('10:00')), 6);
  });
});

describe('today as it goes', () => {
  const orders = (stage: 'planned' | 'on site' | 'done') => appointment().orders.map((o) => ({ ...o, stage }));
  const of = (id: number, stage: 'planned' | 'on site' | 'done', from: string, to: string) =>
    appointment({ id, orders: orders(stage), from: at(from), to: at(to) });
  const saidOf = (appointments: RotaAppointment[], id: number): string | null => {
    const r = rota({ appointments, now: at('10:40') });
    const [a, e] = [appointments.find((x) => x.id === id), expectedToday(r).get(id)];
    return a && e ? sayExpected(a, e, lisbon) : null;
  };

  it('says what goes on longer, what waits for it, and who should be there and is not', () => {
    const over = of(1, 'on site', '09:00', '10:00');
    const next = of(2, 'planned', '10:30', '11:30');
    expect(saidOf([over, next], 1)).toBe('Expected to end 10:40: it takes longer');
    expect(saidOf([over, next], 2)).toContain('late: they ');
    expect(saidOf([of(3, 'planned', '10:00', '11:00')], 3)).toBe(
      'Expected 10:40 to 11:40, 40 min late: they should be there and are not yet',
    );
    expect(saidOf([of(4, 'planned', '11:00', '12:00')], 4)).toBeNull();
    expect(saidOf([of(5, 'done', '09:00', '10:00')], 5)).toBeNull();
  });

  it('knows where somebody is by what was said', () => {
    const where = (appointments: RotaAppointment[]) =>
      whereOf(rota({ appointments, now: at('10:40') }), person(1), lisbon);
    expect(where([of(1, 'on site', '10:00', '11:00')])).toMatch(/^at /);
    expect(where([of(1, 'done', '09:00', '10:00')])).toMatch(/^left .* 10:00$/);
    expect(where([of(1, 'planned', '11:00', '12:00')])).toBeNull();
  });

  it('knows it better by where their phone said they were, if it did so after they left', () => {
    const far = { key: 'place 1', at: { latitude: 38.7, longitude: -9.1 } };
    const seen = (time: string, latitude: number) => ({
      ...{ at: at(time), orderId: null, latitude, longitude: -9.1, accuracy: 12 },
    });
    const where = (appointments: RotaAppointment[], over: object) =>
      whereOf(rota({ appointments, now: at('10:40') }), person(1, { start: far, ...over }), lisbon);
    const there = { ...of(1, 'on site', '10:00', '11:00'), spot: far };
    expect(where([there], { seen: seen('10:01', 38.7) })).toMatch(/^at /);
    // A tenth of a degree of latitude is 11.1 km (one of 111.2 km, the sphere of checks.md).
    expect(where([there], { seen: seen('10:01', 38.8) })).toMatch(/^11 km off /);
    const left = { ...of(1, 'done', '09:00', '10:00'), spot: far };
    expect(where([left], { seen: seen('09:10', 38.7) })).toMatch(/^left .* 10:00$/);
    expect(where([left], { seen: seen('10:30', 38.8) })).toMatch(/^10:30: 11 km from /);
  });
});
