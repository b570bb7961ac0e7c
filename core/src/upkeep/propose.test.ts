import { describe, expect, it } from 'vitest';
import { weekdaysOpen, workingDaysOf } from '../calendars/index.ts';
import { nextDates } from '../recurrence/index.ts';
import { asLocalDate, asZone, type LocalDate } from '../time/index.ts';
import { aSchedule, ruleOf, type Given } from '../a-schedule.ts';
import {
  checkRunDate,
  checkScheduleTerms,
  previewVisits,
  proposeVisits,
  type GridCadence,
  type Schedule,
} from './index.ts';

const d = asLocalDate;
const rule = ruleOf;
const working = workingDaysOf({
  name: 'site',
  zone: asZone('Europe/Lisbon'),
  weekly: weekdaysOpen(540, 1020),
  closed: [{ date: d('2026-12-25'), name: 'Christmas' }],
  extraOpen: [],
});
const schedule = (over: Given = {}): Schedule => aSchedule(working, over);
const nominals = (s: Schedule, to: string): string[] => proposeVisits(s, d(to)).visits.map((v) => v.nominal);

describe('proposed visits', () => {
  it('go on after years of daily visits: only what is still owed counts against the limit', () => {
    const daily = rule('FREQ=DAILY');
    const anchor = d('2020-01-01');
    const settled = new Set(nextDates(daily, anchor, anchor, 2500));
    const years = { rule: daily, anchor, lead: 0, convention: 'none', settled } as const;
    const term = { from: anchor, to: null };
    const s = schedule({ ...years, agreementTerm: term, lineTerms: [term] });
    const last = nextDates(daily, anchor, anchor, 2503).at(-1) as LocalDate;
    expect(nominals(s, last)).toHaveLength(3);
    const yielded = proposeVisits({ ...s, settled: new Set() }, last);
    expect([yielded.visits, yielded.nothing?.code]).toEqual([[], 'too many dates']);
  });

  it('of a swapped machine end and begin with the day of the swap', () => {
    const monthly = schedule({ rule: rule('FREQ=MONTHLY;BYMONTHDAY=10'), lead: 0, convention: 'none' });
    const out = { ...monthly, holds: { from: d('2026-01-01'), to: d('2026-03-09') } };
    const into = { ...monthly, holds: { from: d('2026-03-10'), to: null } };
    expect(nominals(out, '2026-03-09')).toEqual(['2026-01-10', '2026-02-10']);
    expect(nominals(into, '2026-05-01')).toEqual(['2026-03-10', '2026-04-10']);
    // Once the machine is out, its schedule says where the visits went instead of asking for care.
    expect(proposeVisits({ ...out, assetState: 'in store' }, d('2026-03-10')).nothing).toMatchObject({
      kind: 'waits',
      code: 'swapped',
    });
  });

  it('are those whose raise date has come and that were never raised', () => {
    expect(nominals(schedule(), '2026-06-16')).toEqual(['2026-01-06', '2026-04-07', '2026-07-07']);
    expect(nominals(schedule({ settled: new Set([d('2026-01-06'), d('2026-04-07')]) }), '2026-06-15')).toEqual([]);
    expect(nominals(schedule({ settled: new Set([d('2026-01-06'), d('2026-04-07')]) }), '2026-06-16')).toEqual([
      '2026-07-07',
    ]);
  });

  it('carry due date, window and raise date; a moved due date never shifts the series', () => {
    const monthly = schedule({
      rule: rule('FREQ=MONTHLY;BYMONTHDAY=25'),
      anchor: d('2026-12-01'),
      agreementTerm: { from: d('2026-01-01'), to: null },
      leadUnit: 'working days',
      weekday: null,
      lead: 5,
    });
    expect(proposeVisits(monthly, d('2027-01-18')).visits).toMatchObject([
      {
        nominal: '2026-12-25',
        due: '2026-12-28',
        windowFrom: '2026-12-23',
        windowTo: '2027-01-04',
        planned: '2026-12-28',
        raise: '2026-12-18',
      },
      {
        nominal: '2027-01-25',
        due: '2027-01-25',
        windowFrom: '2027-01-20',
        windowTo: '2027-02-01',
        planned: '2027-01-25',
        raise: '2027-01-18',
      },
    ]);
  });

  it('exist only inside both terms', () => {
    expect(nominals(schedule({ lineTerms: [{ from: d('2026-04-01'), to: d('2026-09-30') }] }), '2027-06-01')).toEqual([
      '2026-04-07',
      '2026-07-07',
    ]);
  });

  // Common practice: maintenance for a month may be raised in an earlier month; records raised some days ahead.
  it('may be raised in an earlier month', () => {
    expect(proposeVisits(schedule({ lead: 40 }), d('2026-02-26')).visits[1]).toMatchObject({
      nominal: '2026-04-07',
      raise: '2026-02-26',
    });
  });
});

describe('a schedule that yields nothing says why', () => {
  it.each<[string, Given, string, string]>([
    ['needs action', { agreementStage: 'draft' }, 'draft', 'still in draft'],
    ['needs action', { agreementStage: 'suspended' }, 'suspended', 'suspended'],
    ['waits', { agreementStage: 'ended' }, 'ended', 'has ended'],
    // Common practice: estimated duration zero must be reported, never silently left out.
    ['needs action', { minutes: 0 }, 'zero duration', 'duration is zero'],
    ['needs action', { assetState: 'retired' }, 'asset retired', 'retired'],
    ['needs action', { assetState: 'in store' }, 'asset in store', 'in store'],
    ['needs action', { zone: null }, 'no zone', 'no time zone'],
    [
      'needs action',
      {
        workingDays: workingDaysOf({
          name: 'never',
          zone: asZone('UTC'),
          weekly: [[], [], [], [], [], [], []],
          closed: [],
          extraOpen: [],
        }),
      },
      'calendar never opens',
      'no working day',
    ],
    ['needs action', { rule: rule('FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30') }, 'never fires', 'never fires'],
    [
      'needs action',
      { rule: rule('FREQ=YEARLY;BYMONTH=3;BYMONTHDAY=1'), anchor: d('2026-06-01') },
      'never fires',
      'after the term ends',
    ],
    [
      'needs action',
      {
        rule: rule('FREQ=DAILY'),
        agreementTerm: { from: d('2020-01-01'), to: null },
        anchor: d('2020-01-01'),
        lineTerms: [{ from: d('2020-01-01'), to: null }],
      },
      'too many dates',
      '1000',
    ],
    [
      'waits',
      { anchor: d('2026-10-01'), rule: rule('FREQ=MONTHLY;BYMONTHDAY=20') },
      'not yet',
      'due on Tue 20 Oct 2026',
    ],
  ])('%s: %o', (kind, over, code, said) => {
    const { visits, nothing } = proposeVisits(schedule(over), d('2026-06-16'));
    expect(visits).toEqual([]);
    expect(nothing).toMatchObject({ kind, code, reason: expect.stringContaining(said) as string });
  });

  it('a term whose visits are all raised is over', () => {
    const settled = new Set(['2026-01-06', '2026-04-07', '2026-07-07', '2026-10-06'].map(d));
    expect(proposeVisits(schedule({ settled }), d('2026-11-24')).nothing).toMatchObject({
      kind: 'waits',
      code: 'term over',
    });
  });
});

describe('limits', () => {
  it('preview and run give the same visits', () => {
    const s = schedule();
    const previewed = previewVisits(s.cadence as GridCadence, s, s.workingDays, d('2026-01-01'), 4);
    expect(proposeVisits(s, d('2026-12-31')).visits).toMatchObject(previewed);
  });
  it('a run looks at most 400 days ahead', () => {
    expect(checkRunDate(d('2027-12-29'), d('2026-11-24'))).toMatchObject({ ok: true });
    expect(checkRunDate(d('2027-12-30'), d('2026-11-24'))).toMatchObject({ ok: false });
  });
  it.each([
    ['earlyDays', { earlyDays: -1 }],
    ['lead', { lead: 200 }],
    ['cadence.rule', { rule: rule('FREQ=MONTHLY;BYMONTH=2;BYMONTHDAY=31') }],
    ['hours.totalMinutes', { hours: { totalMinutes: 0, factors: [] } }],
  ])('refuses at %s', (field, over) => {
    const { cadence, ...terms } = schedule(over);
    const answer = checkScheduleTerms(cadence, terms, terms.hours);
    expect(answer.ok ? [] : answer.refusals.map((r) => r.field)).toEqual([field]);
  });
});
