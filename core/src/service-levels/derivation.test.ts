// The lines of a clock's derivation add up to the clock, whatever happened; and one worked by hand.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ELAPSED_TIME, weekdaysOpen, workingTimeOf } from '../calendars/index.ts';
import { asLocalDate, asZone, HOUR, instant, MINUTE, startOfDay } from '../time/index.ts';
import { derivationOf, PAUSE_REASONS, TARGETS, type ClockEvent, type GivenPromise } from './index.ts';

const LISBON = asZone('Europe/Lisbon');
const OFFICE = workingTimeOf({
  ...{ name: 'Office', zone: LISBON, weekly: weekdaysOpen(8 * 60, 17 * 60), extraOpen: [] },
  closed: [{ date: asLocalDate('2026-11-25'), name: 'Town holiday' }],
});
const MONDAY = startOfDay(LISBON, asLocalDate('2026-11-23'));
const at = (hours: number) => instant(MONDAY + hours * HOUR);
const given = (hours: number, measure: 'elapsed' | 'working'): GivenPromise => ({
  promise:
    measure === 'elapsed' ? { minutes: hours * 60, measure } : { minutes: hours * 60, measure, calendarId: 1 as never },
  serviceLevelId: 1 as never,
  pauses: ['no access'],
});

describe('a derivation', () => {
  it('tells what was counted, closed, paused and late', () => {
    const events: ClockEvent[] = [
      { kind: 'paused', at: at(16), reason: 'waiting for parts' },
      { kind: 'paused', at: at(24 + 9), reason: 'no access' },
      { kind: 'resumed', at: at(24 + 11) },
      { kind: 'restored', at: at(72 + 10) },
    ];
    const { clock, lines } = derivationOf('restoration', given(6, 'working'), at(14), events, OFFICE, at(200));
    const hours = lines.map((l) =>
      'at' in l
        ? [l.kind, (l.at - MONDAY) / HOUR]
        : [l.kind, (l.from - MONDAY) / HOUR, ((l.to ?? MONDAY) - MONDAY) / HOUR],
    );
    expect(hours).toEqual([
      ['started', 14],
      ['counted', 14, 17],
      // Parts are no pause of this service level.
      ['ran on', 16],
      ['closed', 17, 32],
      ['counted', 32, 33],
      ['paused', 33, 35],
      ['counted', 35, 37],
      ['late', 37, 41],
      ['due', 37],
      // The night, and the holiday after it.
      ['closed', 41, 80],
      ['late', 80, 82],
      ['stopped', 82],
    ]);
    expect(clock).toMatchObject({ state: 'missed', over: 6 * HOUR });
  });

  it('adds up to its clock, whatever happened', () => {
    const hour = fc.integer({ min: 0, max: 24 * 9 * 4 }).map((quarter) => at(quarter / 4));
    const event: fc.Arbitrary<ClockEvent> = fc.oneof(
      fc.record({ kind: fc.constantFrom('told', 'arrived', 'restored', 'resumed', 'called off'), at: hour }),
      fc.record({ kind: fc.constant('paused'), at: hour, reason: fc.constantFrom(...PAUSE_REASONS) }),
    );
    const measure = fc.constantFrom('elapsed', 'working');
    fc.assert(
      fc.property(
        ...[fc.constantFrom(...TARGETS), fc.integer({ min: 1, max: 60 }), measure, fc.array(event, { maxLength: 7 })],
        hour,
        (target, promised, by, events, start) => {
          const time = by === 'elapsed' ? ELAPSED_TIME : OFFICE;
          const later = events.filter((e) => e.at >= start);
          const now = at(24 * 9);
          const { clock, lines } = derivationOf(target, given(promised, by), start, later, time, now);
          const sum = (kind: 'counted' | 'late'): number => lines.reduce((n, l) => (l.kind === kind ? n + l.ms : n), 0);
          expect(sum('counted')).toBe(clock.used);
          if (clock.state === 'missed') expect(sum('late')).toBe(clock.over);
          else expect(sum('late')).toBe(0);
          // In order, without gaps or overlaps, from its start to its end.
          let upTo = start;
          for (const l of lines)
            if (!('at' in l)) {
              expect(l.from).toBe(upTo);
              upTo = l.to ?? now;
            }
          const ended = lines.find((l) => l.kind === 'stopped' || l.kind === 'voided');
          expect(upTo).toBe(ended && 'at' in ended ? ended.at : now);
          for (const l of lines) if (l.kind === 'counted' || l.kind === 'late') expect(l.ms % (15 * MINUTE)).toBe(0);
        },
      ),
      { numRuns: 800 },
    );
  });
});
