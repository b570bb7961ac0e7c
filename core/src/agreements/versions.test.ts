// Amendments follow each other and never reach behind what they may; renewals happen when they are due and not before.
import { describe, expect, it } from 'vitest';
import { asLocalDate } from '../time/index.ts';
import {
  checkAmendment,
  compareVersions,
  dueByItself,
  managerIsTold,
  noticeDate,
  renewedTerm,
  sayRenewal,
  type AmendmentAsk,
  type RenewalFacts,
} from './index.ts';

const d = asLocalDate;
const term = { from: d('2026-01-01'), to: d('2026-12-31') };
const ask = (over: Partial<AmendmentAsk> = {}): AmendmentAsk => ({
  stage: 'in force',
  term,
  newest: null,
  from: d('2026-12-01'),
  today: d('2026-11-24'),
  billedFrom: null,
  ...over,
});

describe('an amendment', () => {
  it.each<[string, Partial<AmendmentAsk>, string]>([
    ['of a draft', { stage: 'draft' }, 'A draft is changed as it is'],
    ['of an ended agreement', { stage: 'ended' }, 'has ended'],
    ['before the term', { from: d('2025-12-31') }, 'give a date inside its term'],
    ['after the term', { from: d('2027-01-01') }, 'give a date inside its term'],
    ['before the newest amendment', { newest: d('2026-12-02') }, 'An amendment holds from 2 Dec 2026'],
  ])('%s is refused', (_, over, message) => {
    expect(checkAmendment(ask(over))).toMatchObject({
      ok: false,
      refusals: [{ message: expect.stringContaining(message) as string }],
    });
  });
  it.each<[string, Partial<AmendmentAsk>, number]>([
    ['of a suspended agreement is taken', { stage: 'suspended' }, 0],
    ['on the day of the newest is taken', { newest: d('2026-12-01') }, 0],
    ['in the past warns', { from: d('2026-11-01') }, 1],
    ['before a period that has fallen due warns twice', { from: d('2026-09-30'), billedFrom: d('2026-10-01') }, 2],
  ])('%s', (_, over, warnings) => {
    const decision = checkAmendment(ask(over));
    expect(decision.ok && decision.value.warnings).toHaveLength(warnings);
  });
});

describe('two versions side by side', () => {
  const line = (root: number, labour: string) => ({ root, label: `Line ${root}`, terms: { labour, parts: '50 %' } });
  it('tell what was added, removed and changed, and nothing else', () => {
    const before = { header: { name: 'Full care', price: '100.00' }, lines: [line(1, '100 %'), line(2, '0 %')] };
    const after = { header: { name: 'Full care', price: '120.00' }, lines: [line(1, '80 %'), line(3, '100 %')] };
    expect(compareVersions(before, after)).toEqual({
      header: [{ name: 'price', before: '100.00', after: '120.00' }],
      lines: [
        { label: 'Line 1', change: 'changed', fields: [{ name: 'labour', before: '100 %', after: '80 %' }] },
        {
          label: 'Line 2',
          change: 'removed',
          fields: [
            { name: 'labour', before: '0 %', after: null },
            { name: 'parts', before: '50 %', after: null },
          ],
        },
        {
          label: 'Line 3',
          change: 'added',
          fields: [
            { name: 'labour', before: null, after: '100 %' },
            { name: 'parts', before: null, after: '50 %' },
          ],
        },
      ],
    });
    expect(compareVersions(before, before)).toEqual({ header: [], lines: [] });
  });
});

describe('renewal', () => {
  const facts = (over: Partial<RenewalFacts> = {}): RenewalFacts => ({
    stage: 'in force',
    term,
    noticeDays: 60,
    mode: 'renews by itself',
    months: 12,
    decision: null,
    ...over,
  });
  it('notice is counted in days back from the last day of the term', () => {
    expect(noticeDate(term.to, 60)).toBe('2026-11-01');
    expect(noticeDate(null, 60)).toBeNull();
  });
  it.each([
    ['2026-01-01', '2026-12-31', 12, '2027-12-31'],
    ['2026-01-01', '2027-02-28', 12, '2028-02-29'],
    ['2026-01-01', '2026-11-14', 6, '2027-05-14'],
  ])('from %s to %s goes on for %s months to %s', (from, to, months, next) => {
    expect(renewedTerm({ from: d(from), to: d(to) }, months).to).toBe(next);
  });
  it.each<[string, Partial<RenewalFacts>, string, 'renew' | 'end' | null]>([
    ['on the notice date nothing happens yet', {}, '2026-11-01', null],
    ['the day after, it renews by itself', {}, '2026-11-02', 'renew'],
    ['declined, it stays until its term is over', { decision: 'declined' }, '2026-12-31', null],
    ['and then ends', { decision: 'declined' }, '2027-01-01', 'end'],
    ['one that ends does not end early', { mode: 'ends' }, '2026-12-31', null],
    ['nor stays longer', { mode: 'ends' }, '2027-01-01', 'end'],
    ['one nobody renegotiated lapses', { mode: 'to be renegotiated' }, '2027-01-01', 'end'],
    ['a suspended one never renews by itself', { stage: 'suspended' }, '2026-11-02', null],
    ['a draft is left alone', { stage: 'draft' }, '2027-06-01', null],
    ['an open end is left alone', { term: { from: term.from, to: null } }, '2036-01-01', null],
  ])('%s', (_, over, today, outcome) => expect(dueByItself(facts(over), d(today))).toBe(outcome));
  it.each<[string, Partial<RenewalFacts>, string, boolean]>([
    ['31 days before the notice date not yet', {}, '2026-10-01', false],
    ['30 days before', {}, '2026-10-02', true],
    ['on the notice date still', {}, '2026-11-01', true],
    ['after it no more: it renews', {}, '2026-11-02', false],
    ['not when it was declined', { decision: 'declined' }, '2026-10-20', false],
    ['not when it ends', { mode: 'ends' }, '2026-10-20', false],
    ['not while suspended', { stage: 'suspended' }, '2026-10-20', false],
    ['not with an open end', { term: { from: term.from, to: null } }, '2026-10-20', false],
  ])('its manager is told: %s', (_, over, today, told) => expect(managerIsTold(facts(over), d(today))).toBe(told));
  it.each<[Partial<RenewalFacts>, string]>([
    [{}, 'Renews by itself for 12 months after 31 Dec 2026; notice by 1 Nov 2026, in 1 day.'],
    [{ mode: 'ends', noticeDays: 0 }, 'Ends on 31 Dec 2026; notice by 31 Dec 2026, in 61 days.'],
    [
      { mode: 'to be renegotiated', noticeDays: 90 },
      'To be renegotiated before 31 Dec 2026; notice was due by 2 Oct 2026.',
    ],
    [{ decision: 'declined' }, 'Declined: it ends on 31 Dec 2026.'],
  ])('%j is said as “%s”', (over, words) => expect(sayRenewal(facts(over), d('2026-10-31'))).toBe(words));
});
