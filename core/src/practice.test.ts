// Facts of the trade as check values (common practice, no source), and the words in which rules and refusals are said.
import { describe, expect, it } from 'vitest';
import { weekdaysOpen, workingDaysOf, workingTimeOf, type Calendar } from './calendars/index.ts';
import {
  customerShare,
  decideEntitlement,
  leftOf,
  NO_SHARES,
  sayVerdict,
  type Cause,
  type Cover,
  type Question,
} from './entitlement/index.ts';
import {
  asId,
  type AgreementId,
  type AssetClassId,
  type AssetId,
  type CalendarId,
  type CoverageLineId,
  type LocationId,
  type ServiceLevelId,
} from './ids.ts';
import {
  editOfRule,
  nextDates,
  parseRule,
  printRule,
  ruleFromEdit,
  sayRule,
  type EditedRule,
  type RecurrenceRule,
} from './recurrence/index.ts';
import { inherit, pathTo, type PlaceNode } from './places/index.ts';
import { compareByDue, deriveClocks, strictestPromises, type ServiceLevel } from './service-levels/index.ts';
import {
  asLocalDate,
  asZone,
  HOUR,
  isoWeekOf,
  MINUTE,
  sayDate,
  sayDay,
  toInstant,
  withWeekday,
  type Instant,
} from './time/index.ts';
import { aSchedule, type Given } from './a-schedule.ts';
import { previewVisits, proposeVisits, type GridCadence, type Schedule } from './upkeep/index.ts';

const d = asLocalDate;
const zone = asZone('Europe/Madrid');
const office: Calendar = {
  name: 'Office',
  zone,
  weekly: weekdaysOpen(8 * 60, 16 * 60),
  closed: [{ date: d('2026-12-25'), name: 'Christmas Day' }],
  extraOpen: [],
};
const time = workingTimeOf(office);
const at = (date: string, hour: number, minute = 0): Instant =>
  toInstant(zone, { date: d(date), minutes: hour * 60 + minute });
function rule(text: string): RecurrenceRule {
  const read = parseRule(text);
  if (!read.ok) throw new Error(text);
  return read.value;
}

describe('promises in working hours', () => {
  it.each<[string, Instant, number, Instant]>([
    ['16 working hours from Monday morning end Tuesday evening', at('2026-11-23', 8), 16, at('2026-11-24', 16)],
    ['16 working hours from Friday noon run over the weekend', at('2026-11-27', 12), 16, at('2026-12-01', 12)],
    ['a call in the night starts counting at opening', at('2026-11-24', 2), 2, at('2026-11-24', 10)],
    ['a call on Sunday starts counting on Monday', at('2026-11-22', 15), 8, at('2026-11-23', 16)],
    ['a holiday does not count', at('2026-12-24', 12), 8, at('2026-12-28', 12)],
    ['a target used up at closing time ends at closing time', at('2026-11-24', 14), 2, at('2026-11-24', 16)],
  ])('%s', (_, start, hours, due) => {
    expect(time.add(start, hours * HOUR)).toBe(due);
    expect(time.between(start, due)).toBe(hours * HOUR);
  });
});

describe('who pays', () => {
  const asset = {
    id: asId<AssetId>(1),
    classId: asId<AssetClassId>(1),
    owner: 'customer' as const,
    locationPath: [asId<LocationId>(1)],
  };
  const cover = (
    labour: number,
    parts: number,
    over: Partial<Extract<Cover, { kind: 'coverage line' }>> = {},
  ): Cover => ({
    kind: 'coverage line',
    label: 'AG-1',
    lineId: asId<CoverageLineId>(1),
    agreementId: asId<AgreementId>(1),
    stage: 'in force',
    agreementTerm: { from: d('2026-01-01'), to: null },
    term: { from: d('2026-01-01'), to: null },
    reach: { kind: 'asset', assetId: asset.id },
    coversSuspended: false,
    shares: { labour, parts, consumables: 0, travel: 0 },
    discounts: [],
    hours: null,
    allowances: [],
    serviceLevelId: null,
    kinds: ['repair'],
    excludedCauses: ['misuse', 'consumable'],
    excludedParts: [],
    ...over,
  });
  const ask = (covers: Cover[], cause: Cause = 'wear') => {
    const question: Question = { asset, on: d('2026-11-24'), kind: 'repair', cause };
    return decideEntitlement(question, covers);
  };

  it('labour and parts covered in full leave the customer nothing of either', () => {
    const { elements } = ask([cover(100, 100)]);
    expect([customerShare(elements.labour), customerShare(elements.parts)]).toEqual([0, 0]);
  });

  it('labour not covered, parts covered: only labour is the customer’s', () => {
    const verdict = ask([cover(0, 100)]);
    expect(verdict.elements).toMatchObject({ labour: { share: 0, by: null }, parts: { share: 100, by: 'AG-1' } });
    expect(sayVerdict(verdict)).toBe('Covered by AG-1: labour not covered, parts 100 %, travel not covered.');
  });

  it.each<[Cause, boolean]>([
    ['wear', true],
    ['unknown', true],
    ['accident', true],
    ['misuse', false],
    ['consumable', false],
  ])('a repair for %s is covered: %s', (cause, covered) => {
    expect(ask([cover(100, 50)], cause).considered[0]?.taken).toBe(covered);
  });

  it('no agreement at all is a chargeable order, never a refusal', () => {
    const nobody = { share: 0, by: null, discount: 0 };
    expect(ask([])).toEqual({
      elements: { labour: nobody, parts: nobody, consumables: nobody, travel: nobody },
      surcharge: null,
      agreementId: null,
      serviceLevelIds: [],
      draws: [],
      considered: [],
    });
  });

  it('50 % off troubleshooting labour: the customer pays half of the list price for an inspection, all of it for a repair', () => {
    const covers = [
      cover(0, 0, {
        kinds: ['repair', 'inspection'],
        discounts: [{ element: 'labour', percent: 50, kinds: ['inspection'] }],
      }),
    ];
    const question: Question = { asset, on: d('2026-11-24'), kind: 'inspection', cause: 'unknown' };
    const { elements } = decideEntitlement(question, covers);
    expect(customerShare(elements.labour)).toBe(50_00);
    expect(customerShare(decideEntitlement({ ...question, kind: 'repair' }, covers).elements.labour)).toBe(100_00);
    expect(sayVerdict(decideEntitlement(question, covers))).toBe(
      'Covered by AG-1: labour 50 % off, parts not covered, travel not covered.',
    );
  });

  it('a year of free visits under warranty: the fifth is not free', () => {
    const key = { kind: 'warranty', assetId: asset.id } as const;
    const term = { from: d('2026-01-01'), to: d('2026-12-31') };
    const free = { key, unit: 'visits', amount: 4, period: 'term', carriesOver: false } as const;
    const mondays = ['2026-01-05', '2026-04-06', '2026-07-06', '2026-10-05'].map(d);
    const borne = [...mondays, d('2026-12-07')].map((on, i) => {
      const visits = leftOf(
        free,
        term,
        mondays.slice(0, i).map((day) => ({ on: day, amount: 1 })),
        on,
      );
      const warranty: Cover = {
        kind: 'warranty',
        label: 'Warranty',
        assetId: asset.id,
        term,
        shares: NO_SHARES,
        visits,
      };
      return decideEntitlement({ asset, on, kind: 'preventive', cause: 'wear' }, [warranty]).elements.labour.share;
    });
    expect(borne).toEqual([100, 100, 100, 100, 0]);
  });
});

describe('visit plans', () => {
  const days = workingDaysOf(office);
  const schedule = (over: Given): Schedule =>
    aSchedule(days, { rule: 'FREQ=MONTHLY;BYMONTHDAY=25', earlyDays: 0, lateDays: 0, lead: 0, ...over });

  it('four free visits in the first year of a warranty, each on a first Monday', () => {
    const { visits } = proposeVisits(
      schedule({ rule: rule('FREQ=MONTHLY;INTERVAL=3;BYDAY=1MO;COUNT=4'), convention: 'none' }),
      d('2027-01-01'),
    );
    expect(visits.map((v) => sayDate(v.due))).toEqual([
      'Mon 5 Jan 2026',
      'Mon 6 Apr 2026',
      'Mon 6 Jul 2026',
      'Mon 5 Oct 2026',
    ]);
  });

  it('the 25th of every month gives twelve in a year, moved when the site is closed, none lost', () => {
    const { visits } = proposeVisits(schedule({}), d('2026-12-31'));
    expect(visits).toHaveLength(12);
    expect(visits.filter((v) => v.due !== v.nominal).map((v) => [v.nominal, v.due])).toEqual([
      ['2026-01-25', '2026-01-26'],
      ['2026-04-25', '2026-04-27'],
      ['2026-07-25', '2026-07-27'],
      ['2026-10-25', '2026-10-26'],
      ['2026-12-25', '2026-12-28'],
    ]);
  });

  it('Tuesdays changed to Wednesdays keep every week', () => {
    const tuesdays = nextDates(rule('FREQ=WEEKLY;INTERVAL=2;BYDAY=TU'), d('2026-11-24'), d('2026-11-24'), 30);
    const wednesdays = tuesdays.map((date) => withWeekday(date, 3));
    expect(wednesdays.map(isoWeekOf)).toEqual(tuesdays.map(isoWeekOf));
    expect(new Set(wednesdays).size).toBe(30);
  });

  it('alternate weeks stay alternate over the turn of a year with 53 weeks', () => {
    const dates = nextDates(rule('FREQ=WEEKLY;INTERVAL=2;BYDAY=WE'), d('2026-12-02'), d('2026-12-02'), 5);
    expect(dates).toEqual(['2026-12-02', '2026-12-16', '2026-12-30', '2027-01-13', '2027-01-27']);
  });

  it('a lead in working days is counted from the moved due date', () => {
    const s = schedule({ lead: 10, leadUnit: 'working days' });
    const visits = previewVisits(s.cadence as GridCadence, s, days, d('2026-12-01'), 1);
    expect(visits[0]).toMatchObject({ due: '2026-12-28', raise: '2026-12-11' });
  });
});

describe('rules in words and back', () => {
  const edits: [EditedRule, string, string][] = [
    [{ every: 'day', interval: 10 }, 'FREQ=DAILY;INTERVAL=10', 'Every 10 days'],
    [{ every: 'week', interval: 1, weekdays: [1, 4] }, 'FREQ=WEEKLY;BYDAY=MO,TH', 'Every week on Monday and Thursday'],
    [
      { every: 'month', interval: 1, months: [4, 10], on: { kind: 'day', day: 25, short: 'skip' } },
      'FREQ=MONTHLY;BYMONTH=4,10;BYMONTHDAY=25',
      'In April and October on day 25',
    ],
    [
      { every: 'month', interval: 2, months: [], on: { kind: 'day', day: 30, short: 'clamp' } },
      'FREQ=MONTHLY;INTERVAL=2;BYMONTHDAY=28,29,30;BYSETPOS=-1',
      'Every other month on day 30 (or the month’s last day)',
    ],
    [
      { every: 'month', interval: 1, months: [], on: { kind: 'weekday', ordinal: -1, weekday: 5 } },
      'FREQ=MONTHLY;BYDAY=-1FR',
      'Every month on the last Friday',
    ],
    [
      { every: 'year', interval: 1, month: 3, on: { kind: 'weekday', ordinal: 1, weekday: 1 } },
      'FREQ=YEARLY;BYMONTH=3;BYDAY=1MO',
      'Every year in March on the first Monday',
    ],
    [
      { every: 'year', interval: 2, month: 2, on: { kind: 'day', day: 29, short: 'skip' } },
      'FREQ=YEARLY;INTERVAL=2;BYMONTH=2;BYMONTHDAY=29',
      'Every other year in February on day 29 (months without it are left out)',
    ],
  ];
  it.each(edits)('%o is %s', (edit, text, sentence) => {
    expect(printRule(ruleFromEdit(edit))).toBe(text);
    expect(editOfRule(rule(text), d('2026-01-01'))).toEqual(edit);
    expect(sayRule(rule(text), d('2026-01-01'), text)).toBe(sentence);
  });

  it('an end is said with the rule', () => {
    const text = 'FREQ=WEEKLY;BYDAY=TU';
    expect(sayRule(rule(`${text};COUNT=6`), d('2026-01-06'), text)).toBe('Every week on Tuesday, 6 times');
    expect(sayRule(rule(`${text};UNTIL=20261231`), d('2026-01-06'), text)).toBe(
      'Every week on Tuesday, until Thu 31 Dec 2026',
    );
  });

  it('a yearly clamp on 29 February falls on the 28th in common years', () => {
    const yearly = ruleFromEdit({ every: 'year', interval: 1, month: 2, on: { kind: 'day', day: 29, short: 'clamp' } });
    expect(nextDates(yearly, d('2024-02-29'), d('2024-02-29'), 5)).toEqual([
      '2024-02-29',
      '2025-02-28',
      '2026-02-28',
      '2027-02-28',
      '2028-02-29',
    ]);
  });

  it('dates are said one way', () =>
    expect([sayDay(d('2026-03-07')), sayDate(d('2026-03-07'))]).toEqual(['7 Mar 2026', 'Sat 7 Mar 2026']));
});

describe('places', () => {
  const node = (id: number, parentId: number | null, over: Partial<PlaceNode<number>>): PlaceNode<number> => ({
    id,
    parentId,
    name: `N${id}`,
    address: null,
    zone: null,
    latitude: null,
    longitude: null,
    calendarId: null,
    depotId: null,
    joinDays: null,
    accessNote: null,
    ...over,
  });
  const tree = new Map(
    [
      node(1, null, { zone: 'Europe/Madrid', latitude: 42.2 }),
      node(2, 1, { address: '' }),
      node(3, 2, { address: 'Gate B', latitude: 0 }),
    ].map((n) => [n.id, n]),
  );
  it('an empty address counts as none, zero degrees as a latitude', () => {
    expect(inherit(pathTo(tree, 2), 'address')).toBeNull();
    expect(inherit(pathTo(tree, 3), 'latitude')).toEqual({ value: 0, from: { id: 3, name: 'N3' } });
    expect(inherit(pathTo(tree, 3), 'zone')?.from.id).toBe(1);
    expect(inherit([], 'zone')).toBeNull();
  });
  it('a missing parent is a fault', () => expect(() => pathTo(new Map([[5, node(5, 4, {})]]), 5)).toThrow());
});

describe('which clock stands first', () => {
  it('the one due first, standing ones behind by what is left', () => {
    const clocks = [
      { dueAt: null, left: 50 },
      { dueAt: 20, left: 1 },
      { dueAt: null, left: 10 },
      { dueAt: 5, left: 90 },
    ];
    expect([...clocks].sort(compareByDue)).toEqual([clocks[3], clocks[1], clocks[2], clocks[0]]);
  });

  it('all three targets of a priority start at the call and end by themselves', () => {
    const level: ServiceLevel = {
      id: asId<ServiceLevelId>(1),
      name: 'Cold',
      pauses: [],
      targets: {
        1: {
          response: { minutes: 30, measure: 'elapsed' },
          arrival: { minutes: 240, measure: 'working', calendarId: asId<CalendarId>(1) },
          restoration: { minutes: 720, measure: 'elapsed' },
        },
      },
    };
    const timeOf = (p: { measure: string }) =>
      p.measure === 'working'
        ? time
        : workingTimeOf({ ...office, weekly: weekdaysOpen(0, 1440, [1, 2, 3, 4, 5, 6, 7]), closed: [] });
    const start = at('2026-11-24', 15);
    const clocks = deriveClocks(start, [], strictestPromises([level], 1, start, timeOf), timeOf, start);
    expect(clocks.map((c) => [c.target, 'dueAt' in c ? ((c.dueAt ?? 0) - start) / MINUTE : null])).toEqual([
      ['response', 30],
      ['arrival', 20 * 60],
      ['restoration', 720],
    ]);
  });
});
