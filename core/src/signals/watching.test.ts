// A rule watching a series: hand-worked sequences, and any readings against a second way of working them out, instant by instant.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { instant, MINUTE, type Instant } from '../time/index.ts';
import { advance, watchedFrom, type Happened, type SeriesRule, type WatchState } from './watching.ts';
import type { Condition, Judgement, Sample, Value } from './condition.ts';
import type { Mask } from './delay.ts';

const START = instant(Date.UTC(2026, 10, 24, 12));
const at = (minute: number): Instant => instant(START + minute * MINUTE);
const minuteOf = (i: Instant): number => (i - START) / MINUTE;
const read = (...all: readonly [minute: number, value: Value][]): Sample[] =>
  all.map(([minute, value]) => ({ at: at(minute), value }));

const WARM: Condition = { kind: 'limit', side: 'above', limit: -65, deadband: 2 };
const rule = (over: Partial<SeriesRule> & { onMin?: number; offMin?: number; holdMin?: number } = {}): SeriesRule => ({
  condition: over.condition ?? WARM,
  delays: { onMs: (over.onMin ?? 0) * MINUTE, offMs: (over.offMin ?? 0) * MINUTE },
  holdMs: (over.holdMin ?? 60) * MINUTE,
});
const said = (happened: readonly Happened[]) =>
  happened.map((h) =>
    h.kind === 'started'
      ? `${minuteOf(h.since)} started ${minuteOf(h.from)}`
      : `${h.normalSince === null ? 'not watched' : minuteOf(h.normalSince)} ended ${minuteOf(h.at)}${h.worst === null ? '' : ` at worst ${h.worst}`}`,
  );
const run = (of: SeriesRule, samples: readonly Sample[], until: number, masks: readonly Mask[] = []): string[] =>
  said(advance(of, watchedFrom(START), samples, at(until), masks).happened);

describe('by IEC 62682', () => {
  it('strictly beyond the limit, and back at the limit less the deadband, that value included', () => {
    expect(run(rule(), read([0, -65], [1, -64.9], [2, -66], [3, -66.9], [4, -67]), 9)).toEqual([
      '1 started 1',
      '4 ended 4 at worst -64.9',
    ]);
  });

  it('the on-delay ends between readings; one at that very instant counts first', () => {
    const slow = rule({ onMin: 5 });
    expect(run(slow, read([0, -60]), 4)).toEqual([]);
    expect(run(slow, read([0, -60]), 5)).toEqual(['0 started 5']);
    expect(run(slow, read([0, -60], [5, -70]), 9)).toEqual([]);
    expect(run(slow, read([0, -60], [6, -70]), 9)).toEqual(['0 started 5', '6 ended 6 at worst -60']);
  });

  it('the off-delay keeps one alert over what comes back for a moment; its worst is before it ended', () => {
    const slow = rule({ offMin: 5 });
    expect(run(slow, read([0, -60], [2, -70], [4, -55], [6, -70], [20, -10]), 12)).toEqual([
      '0 started 0',
      '6 ended 11 at worst -55',
    ]);
  });

  it('outside a band on either side, and back inside it', () => {
    const band = rule({ condition: { kind: 'band', low: 2, high: 8, deadband: 1 } });
    expect(run(band, read([0, 5], [1, 8.1], [2, 7.5], [3, 7], [4, 1.9], [5, 2.5], [6, 3]), 9)).toEqual([
      '1 started 1',
      '3 ended 3 at worst 8.1',
      '4 started 4',
      '6 ended 6 at worst 1.9',
    ]);
    // Narrower than two deadbands it returns in its middle.
    const narrow = rule({ condition: { kind: 'band', low: 2, high: 3, deadband: 1 } });
    expect(run(narrow, read([0, 9], [1, 2.9], [2, 2.5]), 9)).toEqual(['0 started 0', '2 ended 2 at worst 9']);
  });
});

describe('what is not known', () => {
  it('ends no alert and completes no delay: a value counts as long as it holds', () => {
    const brief = rule({ onMin: 5, offMin: 5, holdMin: 3 });
    // Abnormal at 0, known until 3: the delay begins anew at 4, and is over at 9 with what was read at 6 and 8.
    expect(run(brief, read([0, -60], [4, -60], [6, -60], [8, -60]), 20)).toEqual(['4 started 9']);
    // Normal at 10, known until 13: not for five minutes.
    const active = read([0, -60], [2, -60], [4, -60], [10, -70], [18, -70], [20, -70], [22, -70]);
    expect(run(brief, active, 40)).toEqual(['0 started 5', '18 ended 23 at worst -60']);
  });

  it('words and NaN say nothing to a limit', () => {
    expect(run(rule(), read([0, 'open'], [1, NaN], [2, -60], [3, 'shut']), 9)).toEqual(['2 started 2']);
  });
});

describe('other conditions', () => {
  it('a rate is the newest against the oldest of its span, at least half of it apart', () => {
    const rising = rule({ condition: { kind: 'rate', side: 'rising', perHour: 60, deadband: 0, spanSeconds: 600 } });
    // 8 in 4 minutes is no judgement yet; 11 in 6 minutes is 110 an hour; at 16 it is 11 against 10 minutes before: none.
    expect(run(rising, read([0, 0], [4, 8], [6, 11], [16, 11]), 20)).toEqual([
      '6 started 6',
      '16 ended 16 at worst 110',
    ]);
    const falling = rule({
      condition: { kind: 'rate', side: 'falling', perHour: 60, deadband: 0, spanSeconds: 600 },
    });
    expect(run(falling, read([0, 0], [6, -11]), 20)).toEqual(['6 started 6']);
  });

  it('silence begins a span after the last reading; one on that instant is in time', () => {
    const silent = rule({ condition: { kind: 'silence', spanSeconds: 600 } });
    expect(run(silent, [], 9)).toEqual([]);
    expect(run(silent, [], 10)).toEqual(['10 started 10']);
    expect(run(silent, read([5, 1], [15, 1], [26, 1]), 30)).toEqual(['25 started 25', '26 ended 26']);
  });

  it('a state is equal or not', () => {
    const open = rule({ condition: { kind: 'state', equals: 'open' }, onMin: 2 });
    expect(run(open, read([0, 'shut'], [1, 'open'], [2, 'shut'], [3, 'open']), 9)).toEqual(['3 started 5']);
  });

  it('a count is of changes into the state within the span; the first reading is none', () => {
    const often = rule({ condition: { kind: 'count', equals: 'open', most: 1, spanSeconds: 600 } });
    const doors = read([0, 'open'], [1, 'shut'], [2, 'open'], [3, 'open'], [4, 'shut'], [5, 'open']);
    // Two changes, at 2 and 5; the first counts until 12.
    expect(run(often, doors, 20)).toEqual(['5 started 5', '12 ended 12 at worst 2']);
  });
});

describe('masks', () => {
  const shut = (from: number, to: number, kind: Mask['kind']): Mask => ({ from: at(from), to: at(to), kind });

  it('outside its calendar a running alert ends, and begins anew where it is still abnormal', () => {
    const masks = [shut(5, 10, 'unwatched')];
    expect(run(rule({ onMin: 2 }), read([0, -60], [6, -50]), 30, masks)).toEqual([
      '0 started 2',
      'not watched ended 5 at worst -60',
      '10 started 12',
    ]);
  });

  it('out of service nothing starts, a running one may return', () => {
    const masks = [shut(5, 10, 'out of service')];
    expect(run(rule(), read([0, -60], [6, -70], [7, -60]), 30, masks)).toEqual([
      '0 started 0',
      '6 ended 6 at worst -60',
      '10 started 10',
    ]);
    expect(run(rule({ onMin: 8 }), read([0, -60]), 30, masks)).toEqual(['10 started 18']);
  });
});

/** The same, worked out anew for every half minute from the sentences alone. */
function byInstants(of: SeriesRule, samples: readonly Sample[], until: number, masks: readonly Mask[]): string[] {
  const STEP = MINUTE / 2;
  const { condition: c, delays, holdMs } = of;
  const upTo = (i: number) => samples.filter((s) => s.at <= i);
  // In the deadband the newest reading outside it tells.
  const beyondAt = (i: number): Judgement => {
    const seen = upTo(i);
    const last = seen.at(-1);
    if (c.kind === 'silence')
      return i - (last?.at ?? START) >= c.spanSeconds * 1000 && last?.at !== i ? 'abnormal' : 'normal';
    if (c.kind === 'count') {
      if (!last) return 'unknown';
      const into = seen.filter(
        (s, n) => n > 0 && String(s.value) === c.equals && String(seen[n - 1]?.value) !== c.equals,
      );
      return into.filter((s) => s.at > i - c.spanSeconds * 1000).length > c.most ? 'abnormal' : 'normal';
    }
    if (!last || i >= last.at + holdMs) return 'unknown';
    if (c.kind !== 'limit') return String(last.value) === (c as { equals: string }).equals ? 'abnormal' : 'normal';
    for (const s of seen.toReversed()) {
      const v = s.value as number;
      if (v > c.limit) return 'abnormal';
      if (v <= c.limit - c.deadband) return 'normal';
    }
    return 'normal';
  };
  const out: string[] = [];
  const state: Record<'since' | 'from' | 'normal', number | null> = { since: null, from: null, normal: null };
  for (let i: number = START; i <= until; i += STEP) {
    const kinds = masks.filter((m) => m.from <= i && i < m.to).map((m) => m.kind);
    const judged = beyondAt(i);
    // What is true just before an instant decides over delays that end at it; a reading at it counts first.
    const isRead = samples.some((s) => s.at === i);
    const holds = isRead ? judged : beyondAt(i - 0.5);
    if (state.from === null) {
      if (kinds.length > 0) state.since = null;
      else {
        if (state.since !== null && holds === 'abnormal' && i - state.since >= delays.onMs) {
          state.from = state.since + delays.onMs;
          out.push(`${minuteOf(state.since as Instant)} started ${minuteOf(state.from as Instant)}`);
        } else if (judged !== 'abnormal') state.since = null;
        else if (state.since === null) {
          state.since = i;
          if (delays.onMs === 0) {
            state.from = i;
            out.push(`${minuteOf(i as Instant)} started ${minuteOf(i as Instant)}`);
          }
        }
      }
    }
    if (state.from !== null) {
      const done = (normalSince: number | null): void => {
        out.push(
          `${normalSince === null ? 'not watched' : minuteOf(normalSince as Instant)} ended ${minuteOf(i as Instant)}`,
        );
        Object.assign(state, { since: null, from: null, normal: null });
      };
      if (isRead && judged === 'normal' && delays.offMs === 0) done(i);
      else if (kinds.includes('unwatched')) done(null);
      else if (state.normal !== null && holds === 'normal' && i - state.normal >= delays.offMs) done(state.normal);
      else if (judged !== 'normal') state.normal = null;
      else if (state.normal === null) {
        state.normal = i;
        if (delays.offMs === 0) done(i);
      }
      // What ended at this instant may be abnormal at it.
      if (state.from === null && judged === 'abnormal' && kinds.length === 0) {
        state.since = i;
        if (delays.onMs === 0) {
          state.from = i;
          out.push(`${minuteOf(i as Instant)} started ${minuteOf(i as Instant)}`);
        }
      }
    }
  }
  return out;
}

const UNTIL = 60;
const someSamples = (value: fc.Arbitrary<Value>): fc.Arbitrary<Sample[]> =>
  fc
    .uniqueArray(fc.tuple(fc.integer({ min: 0, max: UNTIL }), value), { selector: ([m]) => m, maxLength: 25 })
    .map((all) => read(...all.toSorted((a, b) => a[0] - b[0])));
const someRule = fc
  .record({
    condition: fc.constantFrom<Condition>(
      WARM,
      { kind: 'silence', spanSeconds: 420 },
      { kind: 'state', equals: '-60' },
      { kind: 'count', equals: '-60', most: 1, spanSeconds: 540 },
    ),
    onMin: fc.constantFrom(0, 1, 4),
    offMin: fc.constantFrom(0, 1, 4),
    holdMin: fc.constantFrom(3, 10, 100),
  })
  .map(rule);
const someMasks = fc
  .array(
    fc.record({
      from: fc.integer({ min: 0, max: UNTIL }),
      length: fc.integer({ min: 1, max: 15 }),
      kind: fc.constantFrom<Mask['kind']>('unwatched', 'out of service'),
    }),
    { maxLength: 2 },
  )
  .map((all) => all.map((m): Mask => ({ from: at(m.from), to: at(m.from + m.length), kind: m.kind })));
const someValue = fc.constantFrom<Value>(-70, -66, -60, -50);

describe('any readings', () => {
  it('give what the sentences give, instant by instant', () => {
    fc.assert(
      fc.property(someRule, someSamples(someValue), someMasks, (of, samples, masks) => {
        const mine = run(of, samples, UNTIL, masks).map((text) => text.replace(/ at worst .*/, ''));
        expect(mine).toEqual(byInstants(of, samples, at(UNTIL), masks));
      }),
      { numRuns: 600 },
    );
  });

  it('give the same in any batches, kept and taken up again between them', () => {
    const cuts = fc.array(fc.integer({ min: 0, max: UNTIL }), { maxLength: 6 });
    fc.assert(
      fc.property(someRule, someSamples(someValue), someMasks, cuts, (of, samples, masks, given) => {
        const whole = advance(of, watchedFrom(START), samples, at(UNTIL), masks);
        let state: WatchState = watchedFrom(START);
        const happened: Happened[] = [];
        for (const cut of [...given.toSorted((a, b) => a - b), UNTIL]) {
          const some = samples.filter(
            (s) =>
              s.at <= at(cut) &&
              (s.at > state.upTo || (s.at === START && state.seen.last === null && state.upTo === START)),
          );
          const kept = JSON.parse(JSON.stringify(state)) as WatchState;
          const next = advance(of, kept, some, at(cut), masks);
          happened.push(...next.happened);
          state = next.state;
        }
        expect(happened).toEqual(whole.happened);
        expect(state).toEqual(whole.state);
      }),
      { numRuns: 600 },
    );
  });
});
