// A statement's data, worked out again: what is true comes out as it is stated, and what was altered is told.
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { ELAPSED_TIME, weekdaysOpen, workingTimeOf, type Calendar } from '../calendars/index.ts';
import { deriveClocks, PAUSE_REASONS, type ClockEvent, type GivenPromise } from '../service-levels/index.ts';
import { asLocalDate, asZone, formatInstant, HOUR, instant, localDateAt, startOfDay } from '../time/index.ts';
import { attainmentOf } from './attainment.ts';
import { recompute, statedOf, STATEMENT_FORM, type StatedClock, type StatementData } from './statement.ts';

const LISBON = asZone('Europe/Lisbon');
const OFFICE: Calendar = {
  ...{ name: 'Office', zone: LISBON, weekly: weekdaysOpen(8 * 60, 17 * 60), extraOpen: [] },
  closed: [{ date: asLocalDate('2026-10-05'), name: 'Republic Day' }],
};
const FROM = startOfDay(LISBON, asLocalDate('2026-10-01'));
const at = (hours: number) => instant(FROM + hours * HOUR);
const ASOF = at(24 * 33);

const moment = fc.integer({ min: 0, max: 24 * 30 }).map(at);
const someEvent: fc.Arbitrary<ClockEvent> = fc.oneof(
  fc.record({ kind: fc.constantFrom('told', 'arrived', 'restored', 'resumed', 'called off'), at: moment }),
  fc.record({ kind: fc.constant('paused'), at: moment, reason: fc.constantFrom(...PAUSE_REASONS) }),
);
const someClock = fc.record({
  start: moment,
  events: fc.array(someEvent, { maxLength: 5 }),
  promised: fc.integer({ min: 10, max: 5000 }),
  calendar: fc.constantFrom(null, 7),
  pauses: fc.subarray([...PAUSE_REASONS]),
});
type Some = typeof someClock extends fc.Arbitrary<infer T> ? T : never;

/** What a house that derived it would state. */
function statementOf(all: readonly Some[]): StatementData {
  const office = workingTimeOf(OFFICE);
  const derived = all.map(({ start, events, promised, calendar, pauses }, i) => {
    const own = events.filter((e) => e.at >= start);
    const promise: GivenPromise['promise'] =
      calendar === null
        ? { minutes: promised, measure: 'elapsed' }
        : { minutes: promised, measure: 'working', calendarId: calendar as never };
    const given: GivenPromise = { promise, pauses, serviceLevelId: 1 as never };
    const [clock] = deriveClocks(
      start,
      own,
      { restoration: given },
      () => (calendar === null ? ELAPSED_TIME : office),
      ASOF,
    );
    if (!clock) throw new Error('no clock');
    const stated: StatedClock = {
      ...{
        order: `WO-${i}`,
        asset: `Q${i}`,
        target: 'restoration',
        zone: OFFICE.zone,
        startedAt: formatInstant(start),
      },
      ...{ promisedMinutes: promised, calendar, pauses, ...statedOf(clock) },
      events: own.map((e) => ({ ...e, at: formatInstant(e.at) })),
    };
    return { clock, stated };
  });
  const period = { from: asLocalDate('2026-10-01'), to: asLocalDate('2026-11-01') };
  const counted = derived.map(({ clock }) => {
    const dueAt = 'dueAt' in clock ? clock.dueAt : null;
    return { state: clock.state, dueAt, dueOn: dueAt && localDateAt(OFFICE.zone, dueAt) };
  });
  return {
    ...{ form: STATEMENT_FORM, customer: 'Horta Nova Biobank', from: '2026-10-01', to: '2026-10-31' },
    asOf: formatInstant(ASOF),
    ...{ calendars: [{ ...OFFICE, number: 7 }], clocks: derived.map((d) => d.stated) },
    ...attainmentOf(counted, period, ASOF),
  };
}

it('comes out as it is stated, over a file and back', () => {
  fc.assert(
    fc.property(fc.array(someClock, { maxLength: 8 }), (all) => {
      const data = statementOf(all);
      const again = recompute(JSON.parse(JSON.stringify(data)) as StatementData);
      expect(again).toEqual({
        ...{ clocks: all.length, differences: [] },
        attainment: { met: data.met, missed: data.missed },
      });
    }),
    { numRuns: 300 },
  );
});

it('tells what was altered', () => {
  const data = statementOf([
    {
      ...{ start: at(9), promised: 60, calendar: 7, pauses: [] },
      events: [{ kind: 'restored', at: at(24 * 8 + 9) }],
    },
  ]);
  const [stated] = data.clocks as [StatedClock];
  expect([stated.state, data.met, data.missed]).toEqual(['missed', 0, 1]);
  const altered = (over: Partial<StatedClock>) => recompute({ ...data, clocks: [{ ...stated, ...over }] }).differences;
  expect(altered({ state: 'met' })).toEqual(['WO-0, Q0, restoration: state met is stated, missed comes out']);
  // The whole of a month's clocks are counted again too.
  expect(altered({ events: [{ kind: 'restored', at: formatInstant(at(9.5)) }] })).toEqual([
    expect.stringContaining('state missed is stated, met comes out') as string,
    expect.stringContaining('overMinutes') as string,
    'met: 0 are stated, 1 come out',
    'missed: 1 are stated, 0 come out',
  ]);
  expect(altered({ calendar: 8 })[0]).toBe('WO-0, Q0, restoration: its calendar 8 is not in the file');
});
