import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { weekdaysOpen, workingDaysOf } from '../calendars/index.ts';
import {
  asLocalDate,
  asZone,
  fromDayNumber,
  isoWeekOf,
  toDayNumber,
  type LocalDate,
  type Weekday,
} from '../time/index.ts';
import { ruleOf } from '../a-schedule.ts';
import { changeSeries, expandCourse, type Changed, type Series, type VisitChange } from './index.ts';

const d = asLocalDate;
const TODAY = d('2026-01-02');
const closed = [{ date: d('2026-04-07'), name: 'Fair' }];
const site = workingDaysOf({ name: 'x', zone: asZone('UTC'), weekly: weekdaysOpen(540, 1020), closed, extraOpen: [] });
const series = (rule = 'FREQ=WEEKLY;INTERVAL=2;BYDAY=TU', over: Partial<Series> = {}): Series => ({
  cadence: { kind: 'rule', rule: ruleOf(rule), anchor: d('2026-01-06') },
  turns: [],
  deviations: [],
  workingDays: site,
  settled: new Set(),
  convention: 'following',
  earlyDays: 3,
  lateDays: 3,
  lead: 10,
  leadUnit: 'calendar days',
  weekday: null,
  ...over,
});
const done = (s: Series, act: VisitChange): Series => {
  const answer = changeSeries(s, act, TODAY);
  if (!answer.ok) throw new Error(answer.refusals[0]?.message);
  return { ...s, ...answer.value };
};
const refusedAt = (s: Series, act: VisitChange) => {
  const answer = changeSeries(s, act, TODAY);
  return answer.ok ? null : [answer.refusals[0]?.code, answer.refusals[0]?.field];
};
const dates = (s: Series, behind = '2026-04-01'): LocalDate[] =>
  expandCourse(s.cadence, s.turns, 0, toDayNumber(d(behind))).map((o) => fromDayNumber(o.day));
const move = (nominal: string, to: string, agreed = false): VisitChange => ({
  kind: 'move',
  nominal: d(nominal),
  to: d(to),
  agreed,
});
const skip = (nominal: string, reason = 'closed'): VisitChange => ({ kind: 'skip', nominal: d(nominal), reason });

describe('changing one visit', () => {
  it('moves, leaves out and adds, and each is reverted to what the rule says', () => {
    const changed = [
      move('2026-01-20', '2026-01-22'),
      skip('2026-02-03'),
      { kind: 'add', on: d('2026-02-12') } as const,
    ].reduce(done, series());
    expect(changed.deviations).toMatchObject([{ movedTo: '2026-01-22' }, { skipped: 'closed' }, { added: true }]);
    const reverted = ['2026-01-20', '2026-02-03', '2026-02-12']
      .map((n): VisitChange => ({ kind: 'revert', nominal: d(n) }))
      .reduce(done, changed);
    expect(reverted).toMatchObject(series());
  });
  it.each<[string, VisitChange, [string, string]]>([
    ['a visit the series does not have', move('2026-01-21', '2026-01-22'), ['not-found', 'nominal']],
    ['a day on which another stands', move('2026-01-20', '2026-02-03'), ['taken', 'to']],
    // The 7th is closed: the convention has moved its visit to the 8th.
    ['a day another comes to by the convention', move('2026-03-31', '2026-04-14'), ['taken', 'to']],
    ['a day that is over', move('2026-01-20', '2025-12-30'), ['invalid', 'to']],
    ['no reason', skip('2026-01-20', ' '), ['missing', 'reason']],
    ['an addition where one stands', { kind: 'add', on: d('2026-02-17') }, ['taken', 'on']],
    ['an addition in the past', { kind: 'add', on: d('2025-12-24') }, ['invalid', 'on']],
  ])('refuses %s', (_, act, wanted) => {
    expect(refusedAt(series(), act)).toEqual(wanted);
  });
  it('refuses what is raised already, and takes a left-out day for an addition', () => {
    expect(
      refusedAt(series(undefined, { settled: new Set([d('2026-01-20')]) }), move('2026-01-20', '2026-01-22')),
    ).toEqual(['conflict', 'nominal']);
    const left = done(series(), skip('2026-02-03'));
    expect(changeSeries(left, { kind: 'add', on: d('2026-02-03') }, TODAY).ok).toBe(true);
  });
  it('a moved visit’s old day is free for another', () => {
    const changed = done(series(), move('2026-01-20', '2026-01-23'));
    expect(changeSeries(changed, move('2026-02-03', '2026-01-20'), TODAY).ok).toBe(true);
    expect(refusedAt(changed, move('2026-02-03', '2026-01-23'))).toEqual(['taken', 'to']);
  });
});

describe('from a visit on', () => {
  const on = (turn: object): VisitChange => ({ kind: 'from here on', turn: turn as never });
  it('the weekday of that visit changes, as it then stands; visits on other weekdays stay', () => {
    const twice = series('FREQ=WEEKLY;BYDAY=TU,FR');
    const once = done(twice, on({ kind: 'weekday', from: '2026-02-03', now: 3 }));
    expect(dates(once, '2026-02-14').slice(-5)).toEqual([
      '2026-01-30',
      '2026-02-04',
      '2026-02-06',
      '2026-02-11',
      '2026-02-13',
    ]);
    const again = done(once, on({ kind: 'weekday', from: '2026-02-10', now: 1 }));
    expect(dates(again, '2026-02-14').slice(-4)).toEqual(['2026-02-04', '2026-02-06', '2026-02-09', '2026-02-13']);
  });
  it('refuses a weekday on which the other visit of the week stands', () => {
    expect(refusedAt(series('FREQ=WEEKLY;BYDAY=TU,FR'), on({ kind: 'weekday', from: '2026-02-03', now: 5 }))).toEqual([
      'taken',
      'turn',
    ]);
  });
  it('a rule replaces later changes; deviations it still gives stay, others lapse and are named', () => {
    const before = [
      skip('2026-02-17'),
      skip('2026-03-03'),
      { kind: 'add', on: d('2026-03-12') } as const,
      on({ kind: 'work', from: '2026-03-03', crew: 3 }),
    ].reduce(done, series());
    const answer = changeSeries(
      before,
      on({ kind: 'rule', from: '2026-02-03', rule: ruleOf('FREQ=WEEKLY;INTERVAL=4;BYDAY=TU') }),
      TODAY,
    );
    const { lapsed, deviations, turns } = (answer as { value: Changed }).value;
    expect(lapsed).toMatchObject([{ nominal: '2026-02-17' }]);
    expect(deviations.map((x) => x.nominal)).toEqual(['2026-03-03', '2026-03-12']);
    expect(turns).toMatchObject([{ kind: 'rule' }]);
  });
  it('the rest is taken out with its additions', () => {
    const before = [{ kind: 'add', on: d('2026-03-12') } as const, skip('2026-01-20')].reduce(done, series());
    const ended = done(before, on({ kind: 'ends', from: '2026-02-03', reason: 'sold' }));
    expect([dates(ended), ended.deviations.map((x) => x.nominal)]).toEqual([
      ['2026-01-06', '2026-01-20'],
      ['2026-01-20'],
    ]);
  });
  // ISO 8601 weeks; no visit is lost whatever the order of changes.
  it('any weekday changes keep weeks and number, and a refusal changes nothing', () => {
    const act = fc.record({
      k: fc.integer({ min: 0, max: 20 }),
      now: fc.integer({ min: 1, max: 7 }).map((n) => n as Weekday),
    });
    fc.assert(
      fc.property(fc.array(act, { maxLength: 5 }), (acts) => {
        const plain = series(undefined, { convention: 'none' });
        const nominals = dates(plain, '2026-12-31');
        let changed = plain;
        for (const { k, now } of acts) {
          const answer = changeSeries(changed, on({ kind: 'weekday', from: nominals[k], now }), TODAY);
          if (answer.ok) changed = { ...changed, ...answer.value };
        }
        const days = expandCourse(changed.cadence, changed.turns, 0, toDayNumber(d('2026-12-31')));
        expect(days.map((o) => fromDayNumber(o.nominal))).toEqual(nominals);
        for (const o of days) expect(isoWeekOf(fromDayNumber(o.day))).toEqual(isoWeekOf(fromDayNumber(o.nominal)));
      }),
    );
  });
});
