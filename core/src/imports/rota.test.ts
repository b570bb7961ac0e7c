// Rows of absences and of known times of travel: what they create, and what is said of those that do not load.
import { describe, expect, it } from 'vitest';
import { asId, type PersonId } from '../ids.ts';
import { asInstant, asZone } from '../time/index.ts';
import {
  MOST_TRAVEL_TIMES,
  planAbsences,
  planTravelTimes,
  travelEndOf,
  type AbsentPerson,
  type TableRow,
} from './index.ts';

const rowsOf = (head: readonly string[], lines: readonly (readonly string[])[]): TableRow[] =>
  lines.map((cells, i) => ({ line: i + 2, cells: Object.fromEntries(head.map((h, k) => [h, cells[k] ?? ''])) }));
const person = (id: number, name: string, zone: string, absences: AbsentPerson['absences'] = []): AbsentPerson => ({
  ...{ id: asId<PersonId>(id), name, email: `${id}@example.org`, zone: asZone(zone), absences },
});
const absences = (lines: readonly (readonly string[])[], people: readonly AbsentPerson[]) =>
  planAbsences(rowsOf(['person', 'kind', 'from', 'to', 'note'], lines), people, 'yyyy-mm-dd');

describe('a file of absences', () => {
  const madrid = person(1, 'Leire', 'Europe/Madrid');

  it('has whole days of whose they are, the last included, also where clocks change', () => {
    const { creates, bad } = absences([['leire', 'Leave', '2026-10-24', '2026-10-25', 'x']], [madrid]);
    expect(bad).toEqual([]);
    // On the 25th Madrid has 25 hours.
    expect(creates).toEqual([
      {
        ...{ line: 2, kind: 'leave', personId: 1, text: 'x' },
        ...{ from: asInstant('2026-10-23T22:00:00Z'), to: asInstant('2026-10-25T23:00:00Z') },
      },
    ]);
  });

  it('says the same again of nothing new, and refuses what overlaps, in the house or in the file', () => {
    const held = {
      kind: 'leave',
      from: asInstant('2026-11-01T23:00:00Z'),
      to: asInstant('2026-11-03T23:00:00Z'),
    } as const;
    const { creates, unchanged, bad } = absences(
      [
        ['Leire', 'leave', '2026-11-02', '2026-11-03'],
        ['Leire', 'training', '2026-11-03', '2026-11-04'],
        ['1@example.org', 'sick', '2026-11-10', '2026-11-11'],
        ['Leire', 'sick', '2026-11-11', '2026-11-12'],
      ],
      [{ ...madrid, absences: [held] }],
    );
    expect([creates.length, unchanged]).toEqual([1, 1]);
    expect(bad.map((b) => [b.line, b.column])).toEqual([
      [3, 'from'],
      [5, 'from'],
    ]);
  });

  it('refuses whom nobody knows, a name that two have, kinds and dates that are none, each at its column', () => {
    const two = [person(1, 'Ana', 'UTC'), person(2, 'Ana', 'UTC')];
    const { creates, bad } = absences(
      [
        ['Nobody', 'leave', '2026-11-02', '2026-11-02'],
        ['Ana', 'leave', '2026-11-02', '2026-11-02'],
        ['2@example.org', 'holiday', '2026-02-30', ''],
        ['2@example.org', 'leave', '2026-11-05', '2026-11-02'],
        ['2@example.org', 'leave', '2026-11-05', '2026-11-05'],
      ],
      two,
    );
    expect(creates.map((c) => c.line)).toEqual([6]);
    expect(bad.map((b) => [b.line, b.column])).toEqual([
      [2, 'person'],
      [3, 'person'],
      [4, 'kind'],
      [4, 'to'],
      [4, 'from'],
      [5, 'to'],
    ]);
  });
});

describe('a file of travel times', () => {
  const ends = new Map<string, { key: string } | { why: string }>([
    ['ribeira', { key: 'depot 1' }],
    ['quay > hall', { key: 'place 7' }],
    ['quay > hall > room', { why: 'it is part of a site' }],
  ]);
  const times = (lines: readonly (readonly string[])[]) =>
    planTravelTimes(
      rowsOf(['from', 'to', 'minutes'], lines),
      ends,
      new Map([['place 7|depot 1', { id: 5, version: 2, minutes: 30 }]]),
    );

  it('makes ways, changes those that are held, and leaves those that say the same', () => {
    expect(travelEndOf(' Quay>Hall ')).toBe('quay > hall');
    expect(times([['Ribeira', 'Quay > Hall', '25']]).creates).toEqual([
      { line: 2, fromSpot: 'depot 1', toSpot: 'place 7', minutes: 25 },
    ]);
    expect(times([['quay>hall', 'RIBEIRA', '35']]).updates).toEqual([
      { line: 2, id: 5, version: 2, changes: { minutes: 35 } },
    ]);
    expect(times([['Quay > Hall', 'Ribeira', '30']]).unchanged).toBe(1);
  });

  it('refuses ends that are none or within a site, no way, minutes that cannot be, and the same way twice', () => {
    const { creates, bad } = times([
      ['Ribeira', 'Nowhere', '10'],
      ['Ribeira', 'Quay > Hall > Room', '10'],
      ['Ribeira', 'ribeira', '10'],
      ['Ribeira', 'Quay > Hall', '0'],
      ['Ribeira', 'Quay > Hall', '10'],
      ['Ribeira', 'Quay > Hall', '11'],
      ['', 'Quay > Hall', ''],
    ]);
    expect(creates.map((c) => c.line)).toEqual([6]);
    expect(bad.map((b) => [b.line, b.column])).toEqual([
      [2, 'to'],
      [3, 'to'],
      [4, 'to'],
      [5, 'minutes'],
      [7, 'to'],
      [8, 'from'],
      [8, 'minutes'],
    ]);
  });

  it('keeps no more ways than a screen can have, and says so of the first that is too many', () => {
    const many = Array.from({ length: MOST_TRAVEL_TIMES + 1 }, (_, i) => `site ${i}`);
    const { creates, bad } = planTravelTimes(
      rowsOf(
        ['from', 'to', 'minutes'],
        many.map((site) => ['ribeira', site, '9']),
      ),
      new Map<string, { key: string } | { why: string }>([
        ...ends,
        ...many.map((site, i) => [site, { key: `place ${100 + i}` }] as const),
      ]),
      new Map([['place 7|depot 1', { id: 5, version: 2, minutes: 30 }]]),
    );
    expect(creates).toHaveLength(MOST_TRAVEL_TIMES - 1);
    expect(bad.map((b) => b.line)).toEqual([MOST_TRAVEL_TIMES + 1, MOST_TRAVEL_TIMES + 2]);
  });
});
