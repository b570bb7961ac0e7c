// Properties that must hold for any input: upkeep, orders, standing, alerts, imports, working days.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { weekdaysOpen, workingDaysOf, WORKING_DAY_CONVENTIONS, type Calendar } from './calendars/index.ts';
import {
  actsOffered,
  recordEvent,
  stateOfOrder,
  type OrderAct,
  type OrderEvent,
  type OrderFacts,
} from './orders/index.ts';
import { parseRule, type RecurrenceRule } from './recurrence/index.ts';
import { planImport, serialKey, type HeldRegister, type RegisterRow } from './imports/index.ts';
import { marginOf } from './service-levels/index.ts';
import { attainmentOf, upkeepCompliance, type CountedClock, type CountedVisit, type Period } from './standing/index.ts';
import {
  addDays,
  asLocalDate,
  asZone,
  daysBetween,
  instant,
  MINUTE,
  localDateAt,
  startOfDay,
  weekdayOf,
  type LocalDate,
} from './time/index.ts';
import { aSchedule } from './a-schedule.ts';
import { proposeVisits, type Schedule } from './upkeep/index.ts';

const zone = asZone('Europe/Lisbon');
const site: Calendar = {
  name: 'site',
  zone,
  weekly: weekdaysOpen(540, 1080),
  closed: ['2026-12-25', '2027-01-01', '2026-12-08', '2027-03-26'].map((d) => ({
    date: asLocalDate(d),
    name: 'closed',
  })),
  extraOpen: [],
};
const day = (n: number): LocalDate => addDays(asLocalDate('2026-01-01'), n);
const date = fc.integer({ min: 0, max: 700 }).map(day);
const rules = [
  'FREQ=MONTHLY;INTERVAL=3;BYDAY=1TU',
  'FREQ=WEEKLY;INTERVAL=2;BYDAY=WE',
  'FREQ=MONTHLY;BYMONTHDAY=28,29,30,31;BYSETPOS=-1',
  'FREQ=YEARLY;BYMONTH=4,10;BYMONTHDAY=25',
  'FREQ=DAILY;INTERVAL=10;COUNT=20',
].map((text): RecurrenceRule => {
  const read = parseRule(text);
  if (!read.ok) throw new Error(text);
  return read.value;
});

const schedule: fc.Arbitrary<Schedule> = fc
  .record({
    rule: fc.constantFrom(...rules),
    anchor: date,
    convention: fc.constantFrom(...WORKING_DAY_CONVENTIONS),
    earlyDays: fc.integer({ min: 0, max: 20 }),
    lateDays: fc.integer({ min: 0, max: 20 }),
    lead: fc.integer({ min: 0, max: 40 }),
    leadUnit: fc.constantFrom('calendar days' as const, 'working days' as const),
    weekday: fc.constant(null),
    from: date,
    length: fc.option(fc.integer({ min: 0, max: 600 }), { nil: null }),
    lineFrom: date,
  })
  .map(({ from, length, lineFrom, ...terms }) =>
    aSchedule(workingDaysOf(site), {
      ...terms,
      zone,
      agreementTerm: { from, to: length === null ? null : addDays(from, length) },
      lineTerms: [{ from: lineFrom, to: null }],
    }),
  );

describe('upkeep runs', () => {
  it('never propose a visit outside both terms, before its raise date, or twice', () => {
    fc.assert(
      fc.property(schedule, date, (s, to) => {
        const { visits, nothing } = proposeVisits(s, to);
        expect(new Set(visits.map((v) => v.nominal)).size).toBe(visits.length);
        expect(visits.length === 0).toBe(nothing !== null);
        for (const v of visits) {
          expect(
            v.raise <= to &&
              v.nominal >= s.agreementTerm.from &&
              v.nominal >= (s.lineTerms[0]?.from ?? v.nominal) &&
              v.nominal >= (s.cadence as { anchor: LocalDate }).anchor,
          ).toBe(true);
          if (s.agreementTerm.to !== null) expect(v.nominal <= s.agreementTerm.to).toBe(true);
          expect([daysBetween(v.windowFrom, v.due), daysBetween(v.due, v.windowTo)]).toEqual([s.earlyDays, s.lateDays]);
          if (s.convention !== 'none') expect(s.workingDays.isWorkingDay(v.due)).toBe(true);
        }
      }),
      { numRuns: 400 },
    );
  });

  it('raised day by day give the same visits as one run at the end', () => {
    fc.assert(
      fc.property(schedule, fc.integer({ min: 30, max: 500 }), fc.integer({ min: 1, max: 40 }), (s, end, step) => {
        const settled = new Set<LocalDate>();
        const collected: LocalDate[] = [];
        const stops = [...Array.from({ length: Math.ceil(end / step) }, (_, i) => i * step), end];
        for (const n of stops) {
          for (const v of proposeVisits({ ...s, settled: new Set(settled) }, day(n)).visits) {
            settled.add(v.nominal);
            collected.push(v.nominal);
          }
        }
        expect([...collected].sort()).toEqual(
          proposeVisits(s, day(end))
            .visits.map((v) => v.nominal)
            .sort(),
        );
      }),
      { numRuns: 150 },
    );
  });

  it('a moved due date stays within the month for modified following, and never moves back for following', () => {
    const days = workingDaysOf(site);
    fc.assert(
      fc.property(date, (d) => {
        expect(days.move(d, 'modified following')?.slice(0, 7)).toBe(d.slice(0, 7));
        expect((days.move(d, 'following') as LocalDate) >= d).toBe(true);
        expect((days.move(d, 'preceding') as LocalDate) <= d).toBe(true);
        const nearest = days.move(d, 'nearest') as LocalDate;
        expect(Math.abs(daysBetween(d, nearest))).toBe(
          Math.min(
            daysBetween(d, days.move(d, 'following') as LocalDate),
            daysBetween(days.move(d, 'preceding') as LocalDate, d),
          ),
        );
      }),
    );
  });

  // OpenFormula 1.2 (OASIS): NETWORKDAYS counts both ends; WORKDAY is its inverse.
  it('count working days as NETWORKDAYS and WORKDAY do', () => {
    const days = workingDaysOf(site);
    const networkDays = (from: LocalDate, to: LocalDate): number =>
      Array.from({ length: daysBetween(from, to) + 1 }, (_, i) => addDays(from, i)).filter(
        (d) => weekdayOf(d) <= 5 && !site.closed.some((c) => c.date === d),
      ).length;
    fc.assert(
      fc.property(date, fc.integer({ min: 1, max: 60 }), (d, n) => {
        const end = days.addWorkingDays(d, n) as LocalDate;
        expect(networkDays(addDays(d, 1), end)).toBe(n);
        expect(days.isWorkingDay(end)).toBe(true);
        if (days.isWorkingDay(d)) expect(days.addWorkingDays(end, -n)).toBe(d);
      }),
    );
  });
});

describe('orders', () => {
  const facts: OrderFacts = {
    kind: 'repair',
    startedAt: instant(0),
    lines: [{ id: 4 }, { id: 5 }],
    tasks: [{ id: 1, lineId: 4, text: 'Check', mandatory: true }],
    forms: [],
  };
  const act: fc.Arbitrary<OrderAct> = fc.constantFrom<OrderAct>(
    { kind: 'planned', technician: 'A', date: asLocalDate('2026-01-02') },
    { kind: 'line', lineId: 4, outcome: 'left', text: 'locked' },
    { kind: 'line', lineId: 4, outcome: 'to do', text: '' },
    { kind: 'sent' },
    { kind: 'told', technician: 'A' },
    { kind: 'arrived' },
    { kind: 'paused', reason: 'no access', text: '' },
    { kind: 'resumed' },
    { kind: 'restored' },
    { kind: 'task', taskId: 1, outcome: 'done', text: '' },
    { kind: 'done', text: '' },
    { kind: 'called off', text: 'x' },
    { kind: 'note', text: 'x' },
  );
  const history = fc.array(fc.record({ act, minute: fc.integer({ min: 0, max: 500 }) }), { maxLength: 14 });

  it('accepted events always replay, whatever was refused in between', () => {
    fc.assert(
      fc.property(history, (steps) => {
        let events: OrderEvent[] = [];
        for (const { act: next, minute } of steps) {
          const event: OrderEvent = { at: instant(minute * MINUTE), recordedAt: instant(600 * MINUTE), act: next };
          const answer = recordEvent(facts, events, event);
          if (!answer.ok) {
            expect(answer.refusals[0]?.message.length).toBeGreaterThan(20);
            continue;
          }
          events = [...events, event];
          expect(stateOfOrder(facts, events)).toEqual(answer);
          const { stage, doneAt, restoredAt, tasks, left } = answer.value;
          if (stage === 'done')
            expect([doneAt !== null, restoredAt !== null, tasks.has(1) || left.has(4)]).toEqual([true, true, true]);
          if (stage !== 'done') expect(doneAt).toBeNull();
        }
      }),
      { numRuns: 500 },
    );
  });

  it('a finished order offers nothing but a note', () => {
    const done: OrderEvent[] = [
      { kind: 'restored' } as const,
      { kind: 'task', taskId: 1, outcome: 'left', text: 'no time' } as const,
      { kind: 'done', text: '' } as const,
    ].map((a, i) => ({ at: instant(i), recordedAt: instant(9), act: a }));
    const state = stateOfOrder(facts, done);
    expect(state.ok && actsOffered(facts, state.value)).toEqual(['note']);
  });
});

describe('standing', () => {
  const clock: fc.Arbitrary<CountedClock> = fc
    .record({
      state: fc.constantFrom('running' as const, 'paused' as const, 'met' as const, 'missed' as const, 'void' as const),
      dueAt: fc.option(
        fc.integer({ min: 0, max: 90 * 24 * 60 }).map((m) => instant(startOfDay(zone, day(0)) + m * MINUTE)),
        { nil: null },
      ),
    })
    .map((c) => ({ ...c, dueOn: c.dueAt === null ? null : localDateAt(zone, c.dueAt) }));
  const visit: fc.Arbitrary<CountedVisit> = fc
    .record({
      start: fc.integer({ min: 0, max: 90 }),
      length: fc.integer({ min: 0, max: 20 }),
      done: fc.option(fc.integer({ min: 0, max: 120 }), { nil: null }),
      state: fc.constantFrom('raised' as const, 'declined' as const, 'absorbed' as const, 'called off' as const),
    })
    .map(({ start, length, done, state }) => ({
      windowFrom: day(start),
      windowTo: day(start + length),
      completedOn: done === null ? null : day(done),
      state,
    }));
  const period = (from: number, to: number): Period => ({ from: day(from), to: day(to) });

  it('of two halves adds up to the whole: nothing is counted twice or lost at the border', () => {
    fc.assert(
      fc.property(
        fc.array(clock),
        fc.array(visit),
        fc.integer({ min: 1, max: 99 }),
        fc.integer({ min: 0, max: 120 }),
        (clocks, visits, cut, today) => {
          const now = startOfDay(zone, day(today));
          const [whole, first, second] = [period(0, 100), period(0, cut), period(cut, 100)].map((p) => ({
            ...attainmentOf(clocks, p, now),
            ...upkeepCompliance(visits, p, day(today)),
          }));
          for (const key of ['met', 'missed', 'owed', 'inWindow', 'declined'] as const)
            expect((first?.[key] ?? 0) + (second?.[key] ?? 0)).toBe(whole?.[key]);
        },
      ),
    );
  });
});

describe('imports', () => {
  const cell = (line: number, n: number, parent: number | null): RegisterRow => ({
    line,
    cells: {
      customer: `Customer ${n % 3}`,
      location_path: `Site ${n % 4} > Room ${n % 5}`,
      address: '',
      latitude: '',
      longitude: '',
      zone: 'Europe/Lisbon',
      class: 'Incubator',
      maker: 'Vessmark',
      model: 'INC',
      serial: `S${n}`,
      tag: `T${n}`,
      owner: '',
      commissioned: '',
      warranty_until: '',
      parent_tag: parent === null ? '' : `T${parent}`,
    },
  });
  const rows = fc
    .array(fc.tuple(fc.integer({ min: 0, max: 12 }), fc.option(fc.integer({ min: 0, max: 12 }), { nil: null })), {
      maxLength: 14,
    })
    .map((list) => list.map(([n, parent], i) => cell(i + 2, n, parent)));
  const empty: HeldRegister = { customers: new Set(), locations: new Map(), tags: new Map(), serials: new Map() };
  const today = asLocalDate('2026-11-24');

  it('account for every row: it loads, is held already, or is named with what would be right', () => {
    fc.assert(
      fc.property(rows, (list) => {
        const plan = planImport(list, empty, today);
        const badLines = new Set(plan.bad.map((b) => b.line));
        expect(plan.assets.length + plan.alreadyHeld + badLines.size).toBe(list.length);
        const tags = new Set(plan.assets.map((a) => a.tag));
        expect(tags.size).toBe(plan.assets.length);
        for (const a of plan.assets) if (a.parentTag !== null) expect(tags.has(a.parentTag)).toBe(true);
        const paths = new Set(plan.locations.map((l) => l.path));
        for (const l of plan.locations) if (l.parentPath !== null) expect(paths.has(l.parentPath)).toBe(true);
      }),
      { numRuns: 300 },
    );
  });

  it('a second time create nothing', () => {
    fc.assert(
      fc.property(rows, (list) => {
        const first = planImport(list, empty, today);
        const held: HeldRegister = {
          customers: new Set(first.customers.map((c) => c.name)),
          locations: new Map(
            first.locations.map((l) => [
              l.path,
              {
                zone: l.zone,
                address: l.address,
                customers: new Set(first.shares.filter((s) => s.path === l.path).map((s) => s.customer)),
              },
            ]),
          ),
          tags: new Map(first.assets.map((a) => [a.tag, a])),
          serials: new Map(first.assets.map((a) => [serialKey(a.maker, a.serial), a.tag])),
        };
        const second = planImport(list, held, today);
        expect([second.assets, second.locations, second.customers, second.shares]).toEqual([[], [], [], []]);
      }),
      { numRuns: 300 },
    );
  });
});

describe('margins', () => {
  it.each([
    ['running', 61, 'enough'],
    ['running', 60, 'short'],
    ['running', 0, 'short'],
    ['paused', 5, 'paused'],
    ['missed', null, 'missed'],
    ['met', 10, 'enough'],
    ['void', null, 'none'],
  ] as const)('%s with %s of 240 minutes left is %s', (state, minutes, margin) => {
    expect(
      marginOf({ state, left: minutes === null ? null : minutes * MINUTE, promisedMinutes: 240, warnPercent: 25 }),
    ).toBe(margin);
  });
});
