// Importing absences and known times of travel: what each row creates or changes, and what is wrong with it.
import type { PersonId } from '../ids.ts';
import { ABSENCE_KINDS, checkAbsence, MOST_TRAVEL_MINUTES, type AbsenceKind, type KeptAbsence } from '../rota/index.ts';
import { addDays, startOfDay, type Zone } from '../time/index.ts';
import type { DateFormat } from './columns.ts';
import { createOrChange, plan, type HeldRow, type PlannedChange, type TableRow } from './tables.ts';

export type AbsentPerson = {
  readonly id: PersonId;
  readonly name: string;
  readonly email: string;
  readonly zone: Zone;
  readonly absences: readonly KeptAbsence[];
};
export type NewAbsence = KeptAbsence & { readonly personId: PersonId; readonly text: string };

/**
 * Absences of whole days, the last one included, each in its person's zone. Refused per row: somebody unknown, a name that two have, an
 * unknown kind, dates that are none, and a time at which the person is absent already, in the house or by an earlier row. The same absence
 * again changes nothing.
 */
export function planAbsences(rows: readonly TableRow[], people: readonly AbsentPerson[], format: DateFormat) {
  const taken = new Map<PersonId, KeptAbsence[]>();
  return plan<NewAbsence, never>(rows, (_, cells) => {
    const named = cells.needed('absences', 'person', 200).toLowerCase();
    const found = people.filter((p) => p.name.toLowerCase() === named || p.email.toLowerCase() === named);
    const [whose] = found;
    if (named !== '' && !whose)
      cells.refuse('person', `Nobody here is called “${named}”; write a name as in People, or an e-mail address.`);
    if (found.length > 1) cells.refuse('person', 'Two people have that name; write the e-mail address.');
    cells.needed('absences', 'kind');
    const kind: AbsenceKind | null = cells.oneOf('kind', ABSENCE_KINDS);
    for (const column of ['from', 'to'] as const) cells.needed('absences', column);
    const [first, last] = [cells.date('from', format), cells.date('to', format)];
    const text = cells.text('note', 500) ?? '';
    if (!whose || !kind || !first || !last || cells.bad.length > 0) return null;
    const span = { from: startOfDay(whose.zone, first), to: startOfDay(whose.zone, addDays(last, 1)) };
    const same = (o: KeptAbsence): boolean => o.from === span.from && o.to === span.to && o.kind === kind;
    if (whose.absences.some(same)) return 'unchanged';
    const wrong = checkAbsence(span, [...whose.absences, ...(taken.get(whose.id) ?? [])], whose.zone);
    for (const w of wrong) cells.refuse(w.field === 'to' ? 'to' : 'from', w.message);
    if (wrong.length > 0) return null;
    taken.set(whose.id, [...(taken.get(whose.id) ?? []), { ...span, kind }]);
    return { create: { ...span, kind, personId: whose.id, text } };
  });
}

/** Where a way may begin or end: by what is written in a file, the key by which travel knows it; or why it is none. */
export type TravelEnds = ReadonlyMap<string, { readonly key: string } | { readonly why: string }>;
export type NewTravelTime = { readonly fromSpot: string; readonly toSpot: string; readonly minutes: number };

/** Every screen of the rota has all of them. */
export const MOST_TRAVEL_TIMES = 5000;

/** What a depot or a site is found by, as somebody writes it. */
export const travelEndOf = (text: string): string =>
  text
    .trim()
    .toLowerCase()
    .replace(/\s*>\s*/g, ' > ');

/**
 * Known times of travel by both ends, in the direction written; where only one is known it holds for both. Refused per row: ends that are
 * none, the same at both, minutes that cannot be, a way that stands in the file already, and more ways than are kept.
 */
export function planTravelTimes<I>(rows: readonly TableRow[], ends: TravelEnds, held: ReadonlyMap<string, HeldRow<I>>) {
  let kept = held.size;
  return plan<NewTravelTime, PlannedChange<I>>(rows, (_, cells, twice) => {
    const keyOf = (column: 'from' | 'to'): string | null => {
      const typed = cells.needed('travel times', column, 760);
      const end = typed === '' ? undefined : ends.get(travelEndOf(typed));
      if (typed === '') return null;
      if (!end) cells.refuse(column, `There is no depot and no place “${typed}”; write it as in the register.`);
      else if ('why' in end) cells.refuse(column, end.why);
      return end && 'key' in end ? end.key : null;
    };
    const [fromSpot, toSpot] = [keyOf('from'), keyOf('to')];
    cells.needed('travel times', 'minutes');
    const minutes = cells.number('minutes', 1, MOST_TRAVEL_MINUTES, 0);
    if (fromSpot !== null && fromSpot === toSpot) cells.refuse('to', 'Both ends are the same place: there is no way.');
    if (fromSpot === null || toSpot === null || minutes === null) return null;
    const key = travelKey(fromSpot, toSpot);
    twice(key, 'to', 'The same way');
    const isNew = !held.has(key) && cells.bad.length === 0;
    if (isNew && kept >= MOST_TRAVEL_TIMES)
      cells.refuse(
        'from',
        `${MOST_TRAVEL_TIMES} ways are kept already; leave out those whose estimate is good enough.`,
      );
    else if (isNew) kept += 1;
    return createOrChange(held.get(key), { minutes }, { fromSpot, toSpot, minutes });
  });
}

export const travelKey = (from: string, to: string): string => `${from}|${to}`;
