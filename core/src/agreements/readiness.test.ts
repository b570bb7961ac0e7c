import { describe, expect, it } from 'vitest';
import { CONTRACT_HEADINGS, putInForce, readinessOf, readTerm, type AgreementDraft } from './index.ts';
import { parseRule } from '../recurrence/index.ts';
import { asLocalDate } from '../time/index.ts';

const d = asLocalDate;
const term = { from: d('2026-01-01'), to: d('2026-12-31') };
const quarterly = parseRule('FREQ=MONTHLY;INTERVAL=3;BYDAY=1TU');
if (!quarterly.ok) throw new Error('rule');
const byRule = { kind: 'rule' as const, rule: quarterly.value, anchor: d('2026-01-01') };
const line: AgreementDraft['lines'][number] = {
  label: 'Line 1',
  assetsReached: 3,
  assetsWithoutZone: 0,
  coversRepair: true,
  promises: 3,
  term,
};
const schedule: AgreementDraft['schedules'][number] = {
  label: 'Quarterly',
  minutes: 60,
  cadence: byRule,
  workingDayEver: true,
};
const terms: AgreementDraft['terms'] = {
  priced: true,
  billing: 'per month, in advance',
  contacts: 1,
  managed: true,
  noticeDays: 90,
  renewal: 'ends',
};
const draft: AgreementDraft = {
  terms,
  stage: 'draft',
  term,
  lines: [line],
  schedules: [schedule],
};

describe('putting an agreement in force', () => {
  it('accepts a complete draft', () => {
    expect(putInForce(draft)).toEqual({ ok: true, value: 'in force' });
    expect(readinessOf(draft).every((i) => i.satisfied)).toBe(true);
  });
  it.each<[string, Partial<AgreementDraft>, string]>([
    ['no coverage line', { lines: [] }, 'no coverage line'],
    ['a line that reaches nothing', { lines: [{ ...line, assetsReached: 0 }] }, 'reaches no asset'],
    ['a place without a zone', { lines: [{ ...line, assetsWithoutZone: 2 }] }, '2 assets'],
    ['no service level for repairs', { lines: [{ ...line, promises: null }] }, 'names no service level'],
    ['a service level without targets', { lines: [{ ...line, promises: 0 }] }, 'no target'],
    ['a zero duration', { schedules: [{ ...schedule, minutes: 0 }] }, 'duration of zero'],
    [
      'a rule outside the term',
      { schedules: [{ ...schedule, cadence: { ...byRule, anchor: d('2027-02-01') } }] },
      'no date inside the term',
    ],
    ['a calendar that never opens', { schedules: [{ ...schedule, workingDayEver: false }] }, 'never opens'],
    ['a line outside the term', { lines: [{ ...line, term: { from: d('2027-01-01'), to: null } }] }, 'outside'],
    ['an agreement that has ended', { stage: 'ended' }, 'only a draft'],
  ])('refuses %s with the reason', (_, over, said) => {
    const answer = putInForce({ ...draft, ...over });
    expect(answer.ok ? '' : answer.refusals.map((r) => r.message).join(' ')).toContain(said);
  });
});

describe('the headings of a maintenance contract', () => {
  // EN 13269 (headings quoted from memory).
  it('are all on the checklist, each satisfied or with what is missing', () => {
    const said = readinessOf({ ...draft, schedules: [schedule] }).map((i) => i.heading);
    expect([...new Set(said)].sort()).toEqual([...CONTRACT_HEADINGS].sort());
  });
  it.each<[Partial<AgreementDraft['terms']>, string]>([
    [{ priced: false }, 'No price is agreed'],
    [{ contacts: 0 }, 'No contact of the customer'],
    [{ managed: false }, 'Nobody is named'],
    [{ noticeDays: 0 }, 'No notice period'],
  ])('%j is named, but does not keep it from being in force', (over, said) => {
    const left = { ...draft, terms: { ...terms, ...over } };
    expect(
      readinessOf(left)
        .filter((i) => !i.satisfied)
        .map((i) => i.text)
        .join(),
    ).toContain(said);
    expect(putInForce(left).ok).toBe(true);
  });
});

describe('a typed term', () => {
  it('refuses an end before the start at its field, and impossible dates', () => {
    expect(readTerm('2026-03-01', '2026-02-01')).toMatchObject({ ok: false, refusals: [{ field: 'to' }] });
    expect(readTerm('2026-02-30', null)).toMatchObject({ ok: false, refusals: [{ field: 'from' }] });
    expect(readTerm('2026-03-01', '')).toEqual({ ok: true, value: { from: '2026-03-01', to: null } });
  });
});
