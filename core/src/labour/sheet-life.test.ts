import { describe, expect, it } from 'vitest';
import { asLocalDate } from '../time/index.ts';
import { actOnSheet, isOpenSheet, mayChange, SHEET_ACTS, SHEET_STATES, weekOf } from './index.ts';

describe('a time sheet', () => {
  it.each([
    ['2026-11-23', '2026-11-23'],
    ['2026-11-29', '2026-11-23'],
    ['2026-11-30', '2026-11-30'],
    // ISO 8601: 1 January 2027 is a Friday of week 53 of 2026.
    ['2027-01-01', '2026-12-28'],
  ])('%s is of the week of %s', (day, monday) => {
    expect(weekOf(asLocalDate(day))).toBe(monday);
  });

  it('is handed in, approved or sent back, and handed in again; nothing else', () => {
    const found = SHEET_STATES.flatMap((state) =>
      SHEET_ACTS.flatMap((act) => {
        const next = actOnSheet(state, act, 'too many hours');
        return next.ok ? [`${state}: ${act} → ${next.value}`] : [];
      }),
    );
    expect(found).toEqual([
      'open: hand in → handed in',
      'handed in: approve → approved',
      'handed in: send back → sent back',
      'sent back: hand in → handed in',
    ]);
    expect(actOnSheet('handed in', 'send back', ' ')).toMatchObject({ refusals: [{ field: 'reason' }] });
  });

  it('may be changed while it is open or sent back, and says otherwise what to do', () => {
    for (const state of SHEET_STATES) expect(mayChange(state).ok).toBe(isOpenSheet(state));
    expect(mayChange('approved')).toMatchObject({
      refusals: [{ message: expect.stringContaining('counter-entry') as string }],
    });
    expect(mayChange('handed in')).toMatchObject({
      refusals: [{ message: expect.stringContaining('send it back') as string }],
    });
  });
});
