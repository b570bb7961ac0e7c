// Cadences in plain words.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parseLocalDate, type LocalDate } from '../time/index.ts';
import { INTERVAL_UNITS, sayCadence, type ServiceCadence } from './cadence.ts';
import { readCadence, type WrittenCadence } from './written.ts';
import { readCadenceWords } from './words.ts';

const since = parseLocalDate('2026-02-01') as LocalDate;
const read = (words: string): WrittenCadence | string => {
  const found = readCadenceWords(words);
  return found.ok ? found.value : found.refusals.map((r) => r.message).join(' ');
};

describe('counted from the last service', () => {
  const meter = (name: string, every: number) => ({ meter: name, every, spanDays: 90 });
  it.each<[string, WrittenCadence]>([
    [
      'every 500 cycles or 3 months, whichever first',
      { kind: 'since service', time: { count: 3, unit: 'month' }, meter: meter('cycles', 500) },
    ],
    ['12 months after the last one', { kind: 'since service', time: { count: 12, unit: 'month' }, meter: null }],
    ['Every 2,000 Rotor runs', { kind: 'since service', time: null, meter: meter('Rotor runs', 2000) }],
    [
      '1 year or 250.5 operating hours after the last service',
      { kind: 'since service', time: { count: 1, unit: 'year' }, meter: meter('operating hours', 250.5) },
    ],
    ['RRULE:FREQ=WEEKLY;BYDAY=TU', { kind: 'rule', rule: 'FREQ=WEEKLY;BYDAY=TU' }],
    ['every 3 months', { kind: 'rule', rule: 'FREQ=MONTHLY;INTERVAL=3' }],
  ])('“%s”', (words, written) => {
    expect(read(words)).toEqual(written);
  });

  it.each([
    ['every 3 months or 2 weeks after the last one', 'one time, one meter or both'],
    ['500 cycles or 20 runs after the last one', 'one time, one meter or both'],
    ['soon after the last one', 'one time, one meter or both'],
    ['after the last one', '“after” is not understood'],
    ['every 3 months on Tuesday', 'Which one of the month?'],
    ['every 2 weeks in May', 'goes with weekdays only'],
  ])('“%s” is refused in words', (words, message) => {
    expect(read(words)).toContain(message);
  });

  it.each([
    ['every 3 months on the first Monday', 'FREQ=MONTHLY;INTERVAL=3;BYDAY=1MO'],
    ['every 2 weeks on Tuesday and Friday', 'FREQ=WEEKLY;INTERVAL=2;BYDAY=TU,FR'],
    [
      'every 2 years in May on the last working day',
      'FREQ=YEARLY;INTERVAL=2;BYMONTH=5;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1',
    ],
    ['25th of every month', 'FREQ=MONTHLY;BYMONTHDAY=25'],
    ['March and September', 'FREQ=MONTHLY;BYMONTH=3,9'],
    ['every 10 days, 12 times', 'FREQ=DAILY;INTERVAL=10;COUNT=12'],
  ])('is not what is meant by “%s”', (words, rule) => {
    expect(read(words)).toEqual({ kind: 'rule', rule });
  });

  it('is read back from what is said of it', () => {
    const time = fc.record({ count: fc.integer({ min: 1, max: 120 }), unit: fc.constantFrom(...INTERVAL_UNITS) });
    const name = fc.constantFrom('Sterilising cycles', 'runs', 'operating hours', 'doors opened');
    const legs = fc.record({
      meter: name,
      every: fc.integer({ min: 1, max: 9_999_999 }),
      spanDays: fc.constant(90),
    });
    fc.assert(
      fc.property(fc.option(time, { nil: null }), fc.option(legs, { nil: null }), (t, m) => {
        fc.pre(t !== null || m !== null);
        const cadence: ServiceCadence = { kind: 'since service', since, time: t, meter: m };
        const found = readCadenceWords(sayCadence(cadence));
        const back = found.ok && readCadence(found.value, since);
        expect(back && back.ok && back.value).toEqual(cadence);
      }),
    );
  });
});
