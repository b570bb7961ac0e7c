import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { workingDaysOf } from '../calendars/index.ts';
import { asId, type JobPlanId } from '../ids.ts';
import { nextDates } from '../recurrence/index.ts';
import {
  addDays,
  asLocalDate,
  fromDayNumber,
  isoWeekOf,
  toDayNumber,
  weekdayOf,
  type LocalDate,
  type Weekday,
} from '../time/index.ts';
import { aSchedule, ruleOf, type Given } from '../a-schedule.ts';
import {
  checkPhases,
  expandCourse,
  expandPhases,
  lapsedDeviations,
  proposeVisits,
  type Deviation,
  type GridCadence,
  type Phase,
  type Turn,
  type Visit,
} from './index.ts';

const d = asLocalDate;
const day = toDayNumber;
const everyDay = workingDaysOf(null);
const tuesdays: GridCadence = {
  kind: 'rule',
  rule: ruleOf('FREQ=WEEKLY;INTERVAL=2;BYDAY=TU'),
  anchor: d('2026-01-06'),
};
const dates = (cadence: GridCadence, turns: readonly Turn[], from: string, behind: string): [string, string][] =>
  expandCourse(cadence, turns, day(d(from)), day(d(behind))).map((o) => [
    fromDayNumber(o.nominal),
    fromDayNumber(o.day),
  ]);
const deviation = (nominal: string, over: Partial<Deviation>): Deviation => ({
  nominal: d(nominal),
  part: 1,
  added: false,
  movedTo: null,
  agreed: false,
  skipped: null,
  ...over,
});
const visits = (over: Given, to = '2026-12-31'): readonly Visit[] =>
  proposeVisits(aSchedule(everyDay, { convention: 'none', lead: 0, ...over }), d(to)).visits;

describe('from a visit on', () => {
  // ISO 8601 weeks; common practice: Tuesdays changed to Wednesdays from some visit on, same weeks, none lost.
  it('a changed weekday keeps every visit in its week, and loses none', () => {
    const weekday = fc.integer({ min: 1, max: 7 }).map((n) => n as Weekday);
    fc.assert(
      fc.property(weekday, weekday, fc.integer({ min: 0, max: 30 }), (first, then, k) => {
        const series = nextDates(
          tuesdays.kind === 'rule' ? tuesdays.rule : ruleOf('FREQ=DAILY'),
          d('2026-01-06'),
          d('2026-01-06'),
          40,
        );
        const [from, later] = [series[k] as LocalDate, series[k + 5] as LocalDate];
        const turns: Turn[] = [
          { kind: 'weekday', from, was: 2, now: first },
          { kind: 'weekday', from: later, was: first, now: then },
        ];
        const got = expandCourse(tuesdays, turns, day(d('2026-01-01')), day(series[39] as LocalDate) + 1);
        expect(got.map((o) => fromDayNumber(o.nominal))).toEqual(series);
        for (const o of got) {
          const [nominal, moved] = [fromDayNumber(o.nominal), fromDayNumber(o.day)];
          expect(isoWeekOf(moved)).toEqual(isoWeekOf(nominal));
          expect(weekdayOf(moved)).toBe(nominal < from ? 2 : nominal < later ? first : then);
        }
      }),
    );
  });

  it('a visit of the last week is not lost where the new weekday lies behind the term: its own date counts', () => {
    const term = { agreementTerm: { from: d('2026-01-01'), to: d('2026-03-31') } };
    const turns: Turn[] = [{ kind: 'weekday', from: d('2026-03-17'), was: 2, now: 5 }];
    expect(
      visits({ rule: 'FREQ=WEEKLY;INTERVAL=2;BYDAY=TU', anchor: d('2026-01-06'), ...term, turns })
        .map((v) => v.due)
        .slice(-2),
    ).toEqual(['2026-03-20', '2026-04-03']);
  });

  it('a changed rule is anchored at the visit, with its own COUNT, and ends the one before', () => {
    const turns: Turn[] = [{ kind: 'rule', from: d('2026-02-03'), rule: ruleOf('FREQ=DAILY;INTERVAL=10;COUNT=3') }];
    expect(dates(tuesdays, turns, '2026-01-01', '2027-01-01').map(([nominal]) => nominal)).toEqual([
      ...['2026-01-06', '2026-01-20'],
      ...['2026-02-03', '2026-02-13', '2026-02-23'],
    ]);
  });

  it('the rest can be taken out, and a rule begun again after it', () => {
    const turns: Turn[] = [
      { kind: 'ends', from: d('2026-02-03'), reason: 'machine sold' },
      { kind: 'rule', from: d('2026-06-01'), rule: ruleOf('FREQ=MONTHLY;BYMONTHDAY=1;COUNT=2') },
    ];
    expect(dates(tuesdays, turns, '2026-01-01', '2027-01-01').map(([nominal]) => nominal)).toEqual([
      ...['2026-01-06', '2026-01-20', '2026-06-01', '2026-07-01'],
    ]);
    const ended = proposeVisits(
      aSchedule(everyDay, {
        rule: 'FREQ=MONTHLY;BYMONTHDAY=1',
        turns: [{ kind: 'ends', from: d('2026-01-01'), reason: 'sold' }],
      }),
      d('2026-12-31'),
    );
    expect(ended.nothing).toMatchObject({ code: 'ended by hand', reason: expect.stringContaining('sold') as string });
  });

  it('crew, minutes and technician hold for the visit and later ones; a single visit’s own win', () => {
    const turns: Turn[] = [{ kind: 'work', from: d('2026-04-07'), crew: 2, minutes: 120 }];
    const deviations = [deviation('2026-07-07', { minutes: 30 })];
    expect(visits({ turns, deviations }).map((v) => [v.minutes, v.crew])).toEqual([
      [90, 1],
      [120, 2],
      [30, 2],
      [120, 2],
    ]);
  });

  it('deviations stay where the new rule still gives their date; others lapse and are named; additions stay', () => {
    const turns: Turn[] = [{ kind: 'rule', from: d('2026-02-03'), rule: ruleOf('FREQ=WEEKLY;INTERVAL=4;BYDAY=TU') }];
    const [kept, lapsed] = [
      deviation('2026-03-03', { skipped: 'closed' }),
      deviation('2026-02-17', { skipped: 'closed' }),
    ];
    const added = deviation('2026-02-10', { added: true });
    expect(lapsedDeviations(tuesdays, turns, [kept, lapsed, added])).toEqual([lapsed]);
  });
});

describe('one visit', () => {
  const quarter = { rule: 'FREQ=MONTHLY;INTERVAL=3;BYDAY=1TU' } as const;
  it('moved: the planned day and the raise date change, due date and window stay', () => {
    const [, moved] = visits({
      ...quarter,
      lead: 10,
      deviations: [deviation('2026-04-07', { movedTo: d('2026-04-11') })],
    });
    expect(moved).toMatchObject({
      nominal: '2026-04-07',
      due: '2026-04-07',
      windowTo: '2026-04-14',
      planned: '2026-04-11',
      raise: '2026-04-01',
      changed: 'moved',
    });
  });
  it('moved as agreed with the customer: due date and window move too, and no convention shifts the day', () => {
    const deviations = [deviation('2026-04-07', { movedTo: d('2026-04-11'), agreed: true })];
    const [, moved] = visits({ ...quarter, convention: 'following', deviations });
    expect(moved).toMatchObject({
      due: '2026-04-11',
      planned: '2026-04-11',
      windowFrom: '2026-04-06',
      windowTo: '2026-04-18',
    });
  });
  it('skipped is owed no more, added is owed once, also where the rule has the day', () => {
    const deviations = [
      deviation('2026-04-07', { skipped: 'closed' }),
      deviation('2026-05-05', { added: true }),
      deviation('2026-07-07', { added: true }),
    ];
    expect(visits({ ...quarter, deviations }).map((v) => [v.nominal, v.changed])).toEqual([
      ['2026-01-06', null],
      ['2026-05-05', 'added'],
      ['2026-07-07', 'added'],
      ['2026-10-06', null],
    ]);
  });
  it('moved far ahead is proposed when its new raise date comes, moved back not before', () => {
    const early = { deviations: [deviation('2026-10-06', { movedTo: d('2026-02-02') })] };
    expect(visits(early, '2026-02-02').map((v) => v.nominal)).toEqual(['2026-01-06', '2026-10-06']);
    const late = { deviations: [deviation('2026-01-06', { movedTo: d('2026-09-01') })] };
    expect(visits(late, '2026-08-31').map((v) => v.nominal)).toEqual(['2026-04-07', '2026-07-07']);
  });
});

const phase = (
  name: string,
  from: [number, number],
  to: [number, number],
  rule: string,
  over: Partial<Phase> = {},
): Phase => ({
  name,
  from: { month: from[0], day: from[1] },
  to: { month: to[0], day: to[1] },
  rule: ruleOf(rule),
  work: null,
  factors: null,
  ...over,
});

describe('phases of the year', () => {
  const teaching = phase('Teaching', [9, 15], [2, 29], 'FREQ=WEEKLY;INTERVAL=2;BYDAY=WE');
  const quiet = phase('Quiet', [3, 1], [9, 14], 'FREQ=DAILY;INTERVAL=10');
  const over = (phases: Phase[], from: string, behind: string) =>
    expandPhases(phases, day(d(from)), day(d(behind))).map((p) => fromDayNumber(p.day));

  it('begin anew on their first day each year and include their last; the 29th of February becomes the 28th', () => {
    const every10 = phase('All', [1, 1], [2, 29], 'FREQ=DAILY;INTERVAL=29');
    expect(over([every10], '2026-01-01', '2029-01-01')).toEqual([
      ...['2026-01-01', '2026-01-30', '2026-02-28'],
      ...['2027-01-01', '2027-01-30', '2027-02-28'],
      ...['2028-01-01', '2028-01-30', '2028-02-28'],
    ]);
    const leap = phase('Leap', [2, 29], [3, 1], 'FREQ=DAILY');
    expect(over([leap], '2027-01-01', '2029-01-01')).toEqual(['2027-02-28', '2027-03-01', '2028-02-29', '2028-03-01']);
  });
  it('go over the turn of the year, and a term that cuts in does not anchor them anew', () => {
    const whole = over([teaching, quiet], '2026-01-01', '2028-01-01');
    expect(over([teaching, quiet], '2026-06-15', '2027-01-20')).toEqual(
      whole.filter((x) => x >= '2026-06-15' && x < '2027-01-20'),
    );
    expect(whole.filter((x) => x >= '2026-12-20' && x < '2027-01-10')).toEqual(['2026-12-23', '2027-01-06']);
  });
  it('keep together what no year holds twice; overlaps are refused by name and day', () => {
    expect(checkPhases([teaching, quiet])).toEqual([]);
    expect(checkPhases([teaching, { ...quiet, to: { month: 9, day: 15 } }])).toMatchObject([
      { code: 'conflict', message: expect.stringContaining('15 Sep') as string },
    ]);
    expect(checkPhases([{ ...quiet, from: { month: 2, day: 31 } }])).toMatchObject([{ code: 'invalid' }]);
    expect(checkPhases([phase('Never', [3, 1], [3, 5], 'FREQ=MONTHLY;BYMONTHDAY=20')])).toMatchObject([
      { code: 'never-fires' },
    ]);
    expect(checkPhases([])).toMatchObject([{ code: 'missing' }]);
  });
  it('bring their own job plan and minutes', () => {
    const own = { jobPlanId: asId<JobPlanId>(7), minutes: 45 };
    const cadence: GridCadence = {
      kind: 'phases',
      anchor: d('2026-01-01'),
      phases: [{ ...teaching, work: own }, quiet],
    };
    const got = visits({ cadence, agreementTerm: { from: d('2026-08-20'), to: d('2026-10-10') } });
    expect(got.map((v) => [v.nominal, v.jobPlanId, v.minutes])).toEqual([
      ['2026-08-28', 1, 90],
      ['2026-09-07', 1, 90],
      ['2026-09-16', 7, 45],
      ['2026-09-30', 7, 45],
    ]);
  });
});

it('changes of single visits never lose or double another one', () => {
  const months = fc.uniqueArray(fc.integer({ min: 0, max: 11 }), { maxLength: 8 });
  fc.assert(
    fc.property(
      months,
      fc.array(fc.record({ kind: fc.constantFrom('move', 'skip', 'agreed'), by: fc.integer({ min: -60, max: 60 }) }), {
        minLength: 12,
        maxLength: 12,
      }),
      (chosen, acts) => {
        const plain = visits({ rule: 'FREQ=MONTHLY;BYMONTHDAY=15' }, '2027-06-01');
        const deviations = chosen.map((month) => {
          const { kind, by } = acts[month] as (typeof acts)[number];
          const { nominal } = plain[month] as Visit;
          return kind === 'skip'
            ? deviation(nominal, { skipped: 'no' })
            : deviation(nominal, { movedTo: addDays(nominal, by), agreed: kind === 'agreed' });
        });
        const changed = visits({ rule: 'FREQ=MONTHLY;BYMONTHDAY=15', deviations }, '2027-06-01');
        const touched = new Set(deviations.map((x) => x.nominal));
        const skipped = new Set(deviations.filter((x) => x.skipped !== null).map((x) => x.nominal));
        expect(changed.map((v) => v.nominal)).toEqual(plain.map((v) => v.nominal).filter((n) => !skipped.has(n)));
        expect(changed.filter((v) => !touched.has(v.nominal))).toEqual(plain.filter((v) => !touched.has(v.nominal)));
      },
    ),
    { numRuns: 60 },
  );
});
