import { describe, expect, it } from 'vitest';
import { mergeDrafts } from '../assets/merge.ts';
import { bandRows } from '../parts/ribbon.tsx';
import { asLocalDate } from '#core/time/index.ts';
import { readSpans, saySpans } from './spans.ts';

describe('opening spans as typed', () => {
  it('read and say each other', () => {
    expect(readSpans('09:00-13:00, 14-18:30')).toEqual([
      { from: 540, to: 780 },
      { from: 840, to: 1110 },
    ]);
    expect(saySpans(readSpans('22:00–06:00') ?? [])).toBe('22:00-06:00');
    expect([readSpans(''), readSpans('closed'), readSpans('0-24')]).toEqual([[], [], [{ from: 0, to: 1440 }]]);
  });
  it.each(['9', '9-', '25-26', '09:70-10', 'a-b', '1-2-3'])('refuse “%s”', (text) =>
    expect(readSpans(text)).toBeNull(),
  );
});

describe('two people on one record', () => {
  const opened = { tag: 'A', model: 'M', serial: 'S' };
  it('join field by field; only what both changed differently clashes', () => {
    expect(mergeDrafts(opened, { ...opened, model: 'M2' }, { ...opened, tag: 'B' })).toEqual({
      merged: { tag: 'B', model: 'M2', serial: 'S' },
      clashes: [],
    });
    expect(mergeDrafts(opened, { ...opened, tag: 'C' }, { ...opened, tag: 'B' })).toEqual({
      merged: { ...opened, tag: 'C' },
      clashes: ['tag'],
    });
    expect(mergeDrafts(opened, { ...opened, tag: 'B' }, { ...opened, tag: 'B' }).clashes).toEqual([]);
  });
});

describe('cover bands', () => {
  it('that run at the same time take rows of their own, later ones reuse a free row', () => {
    const band = (from: string, to: string | null) => ({
      label: from,
      kind: 'agreement' as const,
      from: asLocalDate(from),
      to: to === null ? null : asLocalDate(to),
      agreementId: 1,
      noticeBy: null,
    });
    expect(bandRows([band('2026-01-01', '2026-12-31'), band('2026-06-01', null), band('2027-01-01', null)])).toEqual([
      0, 1, 0,
    ]);
  });
});
