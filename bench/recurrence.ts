// Recurrence: occurrences per second of our expander against the package rrule-temporal, same rules, same dates.
import { RRuleTemporal } from 'rrule-temporal';
import { expandDays, parseRule, type RecurrenceRule } from '#core/recurrence/index.ts';
import { addDays, addMonths, asLocalDate, fromDayNumber, toDayNumber, type LocalDate } from '#core/time/index.ts';
import { sized } from './size.ts';
import { rounded, secondsOf } from './stopwatch.ts';

const ANCHORS = sized(2000, 20);
/** The reference is slower by an order of magnitude: it runs on every tenth anchor, and its rate is what counts. */
const REFERENCE_EVERY = 10;
const CASES = [
  ['quarterly first Monday, 10 years', 'FREQ=MONTHLY;INTERVAL=3;BYDAY=1MO', 120],
  ['alternate Tuesdays, 5 years', 'FREQ=WEEKLY;INTERVAL=2;BYDAY=TU', 60],
  ['twice a year, 20 years', 'FREQ=YEARLY;BYMONTH=4,10;BYMONTHDAY=25', 240],
] as const;

function ruleOf(text: string): RecurrenceRule {
  const read = parseRule(text);
  if (!read.ok) throw new Error(text);
  return read.value;
}

function expandReference(text: string, anchor: LocalDate, to: LocalDate): string[] {
  const rule = new RRuleTemporal({
    rruleString: `DTSTART;TZID=UTC:${anchor.replaceAll('-', '')}T000000\nRRULE:${text}`,
  });
  return rule
    .between(new Date(`${anchor}T00:00:00Z`), new Date(`${addDays(to, -1)}T00:00:00Z`), true)
    .map((d) => d.toPlainDate().toString());
}

export async function measure(): Promise<unknown> {
  const anchors = Array.from({ length: ANCHORS }, (_, i) => addDays(asLocalDate('2020-01-01'), i));
  const cases = [];
  for (const [name, text, months] of CASES) {
    const rule = ruleOf(text);
    const spans = anchors.map((anchor) => ({
      anchor,
      from: toDayNumber(anchor),
      to: toDayNumber(addMonths(anchor, months)),
    }));
    for (const s of spans.slice(0, 200)) expandDays(rule, s.anchor, s.from, s.to);
    let ours = 0;
    const seconds = await secondsOf(() => {
      for (let round = 0; round < 5; round += 1)
        for (const s of spans) ours += expandDays(rule, s.anchor, s.from, s.to).length;
    });
    let theirs = 0;
    let differing = 0;
    const chosen = spans.filter((_, i) => i % REFERENCE_EVERY === 0);
    const lists: string[][] = [];
    const referenceSeconds = await secondsOf(() => {
      for (const s of chosen) {
        const list = expandReference(text, s.anchor, fromDayNumber(s.to));
        lists.push(list);
        theirs += list.length;
      }
    });
    chosen.forEach((s, i) => {
      if (expandDays(rule, s.anchor, s.from, s.to).map(fromDayNumber).join() !== lists[i]?.join()) differing += 1;
    });
    const [rate, referenceRate] = [ours / seconds, theirs / referenceSeconds];
    cases.push({
      name,
      rule: text,
      occurrencesPerSecond: rounded(rate),
      referencePerSecond: rounded(referenceRate),
      ratio: rounded(rate / referenceRate),
      anchorsCompared: chosen.length,
      anchorsDiffering: differing,
    });
  }
  return {
    bench: 'recurrence',
    anchors: ANCHORS,
    reference: 'package rrule-temporal, same run',
    cases,
    lowestRatio: Math.min(...cases.map((c) => c.ratio)),
    wanted: '≥ 10',
  };
}
