import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asLocalDate, addDays } from '../time/index.ts';
import {
  ageOf,
  AGES,
  checkLevels,
  layOn,
  levelDue,
  numbersMeant,
  overTermsSince,
  proposalFor,
  type Candidate,
} from './open-items.ts';

const TODAY = asLocalDate('2026-11-24');
const due = (days: number) => addDays(TODAY, -days);

describe('the age of what is open', () => {
  it('is not due on its day, and changes on the day after an end', () => {
    expect([-5, 0, 1, 30, 31, 60, 61, 90, 91, 400].map((days) => ageOf(due(days), TODAY))).toEqual([
      ...['not due', 'not due', '1–30 days', '1–30 days', '31–60 days', '31–60 days'],
      ...['61–90 days', '61–90 days', 'over 90 days', 'over 90 days'],
    ]);
    expect(new Set(AGES).size).toBe(5);
  });
});

const item = (id: number, unpaid: number, currency = 'EUR') => ({ id, number: `INV-${10_000 + id}`, unpaid, currency });

describe('laying a payment on invoices', () => {
  const source = { left: 100_00, currency: 'EUR' };
  const items = [item(1, 60_00), item(2, 80_00), item(3, 5_00, 'USD')];
  it.each([
    [
      'more than there is',
      [
        [1, 60_00],
        [2, 40_01],
      ],
      'Only 40.00 is left of it.',
    ],
    ['more than is open', [[1, 60_01]], 'INV-10001 has only 60.00 open.'],
    ['another currency', [[3, 1_00]], 'INV-10003 is in USD, this is in EUR.'],
    ['nothing', [[1, 0]], 'Write an amount above 0, with cents at most.'],
    ['half a cent', [[1, 0.5]], 'Write an amount above 0, with cents at most.'],
    [
      'twice',
      [
        [1, 1],
        [1, 1],
      ],
      'INV-10001 stands there twice.',
    ],
    ['what is not open', [[9, 1]], 'That is no invoice of which something is open.'],
  ])('refuses %s', (_, parts, message) => {
    const answer = layOn(
      source,
      items,
      parts.map(([documentId, minor]) => ({ documentId: documentId as number, minor: minor as number })),
    );
    expect(answer).toMatchObject({ ok: false, refusals: [{ message }] });
  });
  it('leaves what was not laid, never less than nothing', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 1000 }),
        fc.array(fc.tuple(fc.integer({ min: 1, max: 300 }), fc.integer({ min: -5, max: 400 })), { maxLength: 6 }),
        (left, all) => {
          const open = all.map(([unpaid], i) => item(i, unpaid));
          const parts = all.map(([, minor], documentId) => ({ documentId, minor }));
          const answer = layOn({ left, currency: 'EUR' }, open, parts);
          const sum = parts.reduce((total, p) => total + p.minor, 0);
          const fits = sum <= left && all.every(([unpaid, minor]) => minor >= 1 && minor <= unpaid);
          expect(answer.ok).toBe(fits);
          if (answer.ok) expect(answer.value).toBe(left - sum);
        },
      ),
    );
  });
});

describe('what a payer wrote', () => {
  it.each([
    ['INV-10023', [10_023], []],
    ['inv 10023/inv10024', [10_023, 10_024], []],
    ['Invoices INV-10023, 10024 and 10024', [10_023], [10_024]],
    ['Your 10023', [], [10_023]],
    ['order 4500012345678', [], []],
    ['PT50000201231234567890154', [], []],
    ['XINV-10023', [], []],
    ['paid 10023.00 on 2026-11-24', [], [10_023]],
    ['12.10023', [], []],
    ['', [], []],
  ])('%s', (text, named, bare) => {
    expect(numbersMeant(text, 'INV-')).toEqual({ named, bare });
  });
  it('finds every number that is written among other words, in any of the ways', () => {
    const way = fc.constantFrom('INV-', 'inv', 'Inv ', 'INV/', 'inv. ');
    fc.assert(
      fc.property(fc.array(fc.tuple(way, fc.integer({ min: 10_001, max: 99_999_999 })), { maxLength: 5 }), (all) => {
        const text = all.map(([w, n]) => `${w}${n}`).join(' and ');
        expect(numbersMeant(text, 'INV-')).toEqual({ named: [...new Set(all.map(([, n]) => n))], bare: [] });
      }),
    );
  });
});

const candidate = (n: number, customerId: number, unpaid: number): Candidate => ({
  ...{ id: n, number: `INV-${n}`, seriesNumber: n, customerId, unpaid, currency: 'EUR' },
});

describe('what a payment may be for', () => {
  const [a, b, c] = [candidate(10_001, 1, 50_00), candidate(10_002, 1, 70_00), candidate(10_003, 2, 70_00)];
  const given = (minor: number, text: string, ofPayer: Candidate[] = []) => {
    const meant = numbersMeant(text, 'INV-');
    const named = [a, b, c].filter((x) => [...meant.named, ...meant.bare].includes(x.seriesNumber));
    return proposalFor(
      { minor, currency: 'EUR' },
      meant,
      named,
      ofPayer[0] ? { customerId: ofPayer[0].customerId, open: ofPayer } : null,
    );
  };
  it('is sure of invoices of one payer that are named and come to it exactly', () => {
    expect(given(120_00, 'INV-10001 INV-10002')).toMatchObject({
      ...{ customerId: 1, isCertain: true },
      parts: [
        { documentId: 10_001, minor: 50_00 },
        { documentId: 10_002, minor: 70_00 },
      ],
    });
  });
  it.each([
    ['less than they come to', given(100_00, 'INV-10001 INV-10002'), [50_00, 50_00]],
    ['more', given(130_00, 'INV-10001 INV-10002'), [50_00, 70_00]],
    ['of two payers', given(120_00, 'INV-10001 INV-10003'), [50_00, 70_00]],
    ['with one that is not open', given(50_00, 'INV-10001 INV-19999'), [50_00]],
    ['by digits alone', given(70_00, '10002'), [70_00]],
    ['by the payer and the sum', given(70_00, 'thanks', [a, b]), [70_00]],
    ['the oldest of the payer', given(60_00, 'thanks', [a, b]), [50_00, 10_00]],
    ['nothing', given(60_00, 'thanks'), []],
  ])('only proposes %s', (_, proposal, sums) => {
    expect([proposal.isCertain, proposal.parts.map((p) => p.minor)]).toEqual([false, sums]);
  });
  it('is never more than was paid, nor than is open', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 500 }),
        fc.array(fc.tuple(fc.integer({ min: 1, max: 3 }), fc.integer({ min: 1, max: 300 })), { maxLength: 6 }),
        fc.array(fc.boolean(), { minLength: 6, maxLength: 6 }),
        (minor, all, picks) => {
          const items = all.map(([customerId, unpaid], i) => candidate(10_001 + i, customerId, unpaid));
          const named = items.filter((_, i) => picks[i]);
          const meant = { named: named.map((x) => x.seriesNumber), bare: [] };
          const { parts, isCertain, customerId } = proposalFor({ minor, currency: 'EUR' }, meant, named, {
            customerId: 1,
            open: items,
          });
          const answer = layOn({ left: minor, currency: 'EUR' }, items, parts);
          expect(answer.ok).toBe(true);
          if (isCertain) {
            expect(answer).toEqual({ ok: true, value: 0 });
            expect(new Set(named.map((x) => x.customerId))).toEqual(new Set([customerId]));
          }
        },
      ),
    );
  });
});

describe('credit terms', () => {
  const terms = { graceDays: 10, limit: 100_00 };
  const since = (open: [number, number][], was: string | null = null, over = terms) =>
    overTermsSince(
      open.map(([days, minor]) => ({ dueOn: due(days), minor })),
      over,
      was === null ? null : asLocalDate(was),
      TODAY,
    );
  it('are broken on the first day after grace of the oldest that is open', () => {
    expect([
      since([[10, 1]]),
      since([[11, 1]]),
      since([
        [30, 1],
        [11, 1],
      ]),
    ]).toEqual([null, '2026-11-24', due(19)]);
  });
  it('are broken by more than the limit, from the day it was seen and as long as it lasts', () => {
    expect(since([[0, 100_00]])).toBeNull();
    expect(since([[0, 100_01]])).toBe(TODAY);
    expect(since([[0, 100_01]], '2026-11-02')).toBe('2026-11-02');
    expect(
      since(
        [
          [0, 100_01],
          [40, 1],
        ],
        '2026-11-02',
      ),
    ).toBe(due(29));
    expect(since([[0, 900_00]], null, { graceDays: 10, limit: null as never })).toBeNull();
  });
  it('count credit notes and money that is laid on nothing for the customer', () => {
    expect(
      since([
        [40, 10_00],
        [0, -10_00],
      ]),
    ).toBeNull();
    expect(
      since([
        [0, 120_00],
        [0, -20_00],
      ]),
    ).toBeNull();
    expect(
      since([
        [40, 10_00],
        [0, -9_99],
      ]),
    ).toBe(due(29));
  });
});

describe('reminders', () => {
  const levels = [
    { days: 10, wait: 0 },
    { days: 24, wait: 14 },
  ];
  it('come one after the other, none before its days and its wait', () => {
    const level = (days: number, sent: number, ago: number | null) =>
      levelDue({ dueOn: due(days), level: sent, remindedOn: ago === null ? null : due(ago) }, levels, TODAY);
    expect([level(9, 0, null), level(10, 0, null), level(200, 0, null)]).toEqual([null, 1, 1]);
    expect([level(24, 1, 13), level(24, 1, 14), level(23, 1, 20), level(300, 2, 100)]).toEqual([null, 2, null, null]);
  });
  it('have levels that rise', () => {
    expect(checkLevels(levels).ok).toBe(true);
    const fields = [
      [{ days: 0, wait: 0 }],
      [{ days: 5, wait: -1 }],
      [
        { days: 5, wait: 0 },
        { days: 5, wait: 3 },
      ],
    ].map((l) => {
      const answer = checkLevels(l);
      return answer.ok ? null : answer.refusals[0]?.field;
    });
    expect(fields).toEqual(['reminderLevels.0.days', 'reminderLevels.0.wait', 'reminderLevels.1.days']);
    expect(checkLevels(Array.from({ length: 6 }, (_, i) => ({ days: i + 1, wait: 0 }))).ok).toBe(false);
  });
});
