import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readCalendar, weekdaysOpen, workingTimeOf } from '../calendars/index.ts';
import { asLocalDate, asZone, instant, merged, MINUTE, startOfDay, without, type InstantSpan } from '../time/index.ts';
import { dayBalance, overlapping, overlapsOf } from './index.ts';

const LISBON = asZone('Europe/Lisbon');
const begins = startOfDay(LISBON, asLocalDate('2026-11-24'));
const DAY_SPAN = { from: begins, to: startOfDay(LISBON, asLocalDate('2026-11-25')) };
const span = (from: number, to: number): InstantSpan => ({
  from: instant(begins + from * MINUTE),
  to: instant(begins + to * MINUTE),
});
const calendar = readCalendar({
  name: 'Shift',
  zone: LISBON,
  weekly: weekdaysOpen(8 * 60, 16 * 60),
  closed: [],
  extraOpen: [],
});
const workingTime = calendar.ok ? workingTimeOf(calendar.value) : null;
const balance = (...entries: InstantSpan[]) => dayBalance(DAY_SPAN, entries, workingTime as never);

/** A day as a row of minutes, each of them there or not. */
const minutes = (spans: readonly InstantSpan[]): boolean[] =>
  Array.from({ length: 1440 }, (_, m) => {
    const at = begins + m * MINUTE;
    return spans.some((s) => s.from <= at && at < s.to);
  });
const count = (row: readonly boolean[]): number => row.filter(Boolean).length;

describe('a day of entries', () => {
  it('of eight hours, three and one entered, leaves four', () => {
    expect(balance(span(480, 660), span(660, 720))).toMatchObject({
      open: 480,
      entered: 240,
      gapMinutes: 240,
      gaps: [span(720, 960)],
      overtime: 0,
    });
  });

  it('counts overlaps once, and overtime fills no gap', () => {
    expect(balance(span(480, 660), span(600, 720), span(960, 1080))).toMatchObject({
      entered: 360,
      gapMinutes: 240,
      overtime: 120,
    });
  });

  it('knows entries that touch from those that overlap', () => {
    const entry = (id: number, from: number, to: number) => ({ id, span: span(from, to) });
    const all = [entry(1, 480, 540), entry(2, 540, 600), entry(3, 590, 700), entry(4, 595, 596)];
    expect(overlapsOf(all)).toEqual([
      [2, 3],
      [2, 4],
      [3, 4],
    ]);
    expect(overlapping(span(530, 541), all).map((o) => o.id)).toEqual([1, 2]);
    expect(overlapping(span(700, 710), all)).toEqual([]);
  });

  it('comes to the same minute by minute, whatever was entered', () => {
    const some = fc.array(
      fc
        .tuple(fc.nat(1439), fc.integer({ min: 1, max: 300 }))
        .map(([from, long]) => span(from, Math.min(1440, from + long))),
      { maxLength: 8 },
    );
    fc.assert(
      fc.property(some, some, (spans, others) => {
        const [here, there] = [minutes(spans), minutes(others)];
        expect(minutes(merged(spans))).toEqual(here);
        expect(minutes(without(merged(spans), merged(others)))).toEqual(here.map((x, i) => x && !there[i]));
        const open = minutes([span(480, 960)]);
        expect(balance(...spans)).toMatchObject({
          entered: count(here),
          gapMinutes: count(open.map((x, i) => x && !here[i])),
          overtime: count(here.map((x, i) => x && !open[i])),
        });
        const ids = spans.map((s, id) => ({ id, span: s }));
        const pairs = ids.flatMap((a) =>
          ids
            .filter((b) => b.id > a.id && a.span.from < b.span.to && b.span.from < a.span.to)
            .map((b) => `${a.id}/${b.id}`),
        );
        expect(
          overlapsOf(ids)
            .map(([a, b]) => `${Math.min(a, b)}/${Math.max(a, b)}`)
            .sort(),
        ).toEqual(pairs.sort());
        const one = ids[0];
        if (one)
          expect(overlapping(one.span, ids.slice(1)).map((o) => o.id)).toEqual(
            pairs
              .filter((p) => p.startsWith('0/'))
              .map((p) => Number(p.slice(2)))
              .sort((a, b) => a - b),
          );
      }),
    );
  });
});
