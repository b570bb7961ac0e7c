// Renewals day by day: nothing happens twice, nothing before its day, and what is said agrees with what happens.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addDays, addMonths, daysBetween, type LocalDate } from '../time/index.ts';
import {
  dueByItself,
  managerIsTold,
  noticeDate,
  RENEWAL_MODES,
  renewedTerm,
  sayRenewal,
  TOLD_DAYS_AHEAD,
  type RenewalFacts,
} from './renewal.ts';

const FROM = '2024-01-01' as LocalDate;
const facts: fc.Arbitrary<RenewalFacts> = fc.record({
  stage: fc.constantFrom('draft', 'in force', 'suspended', 'ended'),
  term: fc
    .option(fc.integer({ min: 1, max: 36 }), { nil: null })
    .map((months) => ({ from: FROM, to: months === null ? null : addDays(addMonths(FROM, months), -1) })),
  noticeDays: fc.integer({ min: 0, max: 365 }),
  mode: fc.constantFrom(...RENEWAL_MODES),
  months: fc.integer({ min: 1, max: 60 }),
  decision: fc.constantFrom(null, 'accepted', 'declined'),
});
const day = fc.integer({ min: 0, max: 2000 }).map((n) => addDays(FROM, n));

describe('what a day brings by itself', () => {
  it('is nothing without an end, in draft, or once ended', () => {
    fc.assert(
      fc.property(facts, day, (f, today) => {
        const comes = dueByItself(f, today);
        if (f.term.to === null || f.stage === 'draft' || f.stage === 'ended') expect(comes).toBeNull();
      }),
    );
  });

  it('renews only what renews by itself, in force, undeclined and past its notice date; ends only after its last day', () => {
    fc.assert(
      fc.property(facts, day, (f, today) => {
        const comes = dueByItself(f, today);
        if (comes === 'renew') {
          expect([f.mode, f.stage]).toEqual(['renews by itself', 'in force']);
          expect(f.decision).not.toBe('declined');
          expect(today > (noticeDate(f.term.to, f.noticeDays) as LocalDate)).toBe(true);
        }
        if (comes === 'end') expect(today > (f.term.to as LocalDate)).toBe(true);
      }),
      { numRuns: 500 },
    );
  });

  it('walked day by day renews an agreement term after term without a gap, each once', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 14 }),
        fc.integer({ min: 0, max: 40 }),
        fc.integer({ min: 1, max: 12 }),
        (length, noticeDays, months) => {
          let f: RenewalFacts = {
            ...{ stage: 'in force', noticeDays, mode: 'renews by itself', months, decision: null },
            term: { from: FROM, to: addDays(addMonths(FROM, length), -1) },
          };
          const ends: LocalDate[] = [f.term.to as LocalDate];
          for (let n = 0; n < 1200; n += 1) {
            const today = addDays(FROM, n);
            if (dueByItself(f, today) !== 'renew') continue;
            f = { ...f, term: renewedTerm(f.term, months) };
            ends.push(f.term.to as LocalDate);
          }
          for (const [i, end] of ends.entries()) {
            const before = ends[i - 1];
            if (before) expect(addDays(end, 1)).toBe(addMonths(addDays(before, 1), months));
          }
          // It never stands there without a term that goes on.
          expect((f.term.to as LocalDate) >= addDays(FROM, 1199 - noticeDays)).toBe(true);
        },
      ),
      { numRuns: 60 },
    );
  });
});

describe('the account manager', () => {
  it('is told on each of the days before notice, and on no other', () => {
    const f: RenewalFacts = {
      ...{ stage: 'in force', noticeDays: 60, mode: 'renews by itself', months: 12, decision: null },
      term: { from: FROM, to: '2025-12-31' as LocalDate },
    };
    const notice = noticeDate(f.term.to, f.noticeDays) as LocalDate;
    const told = Array.from({ length: 800 }, (_, n) => addDays(FROM, n)).filter((today) => managerIsTold(f, today));
    expect([told[0], told.at(-1), told.length]).toEqual([
      addDays(notice, -TOLD_DAYS_AHEAD),
      notice,
      TOLD_DAYS_AHEAD + 1,
    ]);
    expect(told.some((today) => managerIsTold({ ...f, decision: 'accepted' }, today))).toBe(false);
    expect(told.some((today) => managerIsTold({ ...f, mode: 'ends' }, today))).toBe(false);
  });
});

describe('where a renewal stands, in words', () => {
  it('names the day that counts', () => {
    fc.assert(
      fc.property(facts, day, (f, today) => {
        const said = sayRenewal(f, today);
        if (f.term.to === null) {
          expect(said).toBe('Open-ended: it runs until somebody ends it.');
          return;
        }
        const notice = noticeDate(f.term.to, f.noticeDays) as LocalDate;
        if (f.decision === 'declined') {
          expect(said).toMatch(/^Declined: it ends on /);
          return;
        }
        const left = daysBetween(today, notice);
        expect(said).toContain(left < 0 ? 'notice was due by' : left === 0 ? ', today' : `in ${left} day`);
      }),
    );
  });
});
