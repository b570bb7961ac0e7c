// Absences: times at which a person cannot work, as they are asked for, agreed to and kept.
import { refusal, type Refusal } from '../refusal.ts';
import { DAY, meets, sayDate, localDateAt, type InstantSpan, type Zone } from '../time/index.ts';

export const ABSENCE_KINDS = ['leave', 'sick', 'training'] as const;
export type AbsenceKind = (typeof ABSENCE_KINDS)[number];
export const ABSENCE_STATES = ['asked', 'agreed', 'refused'] as const;
export type AbsenceState = (typeof ABSENCE_STATES)[number];

const SAID: Readonly<Record<AbsenceKind, string>> = { leave: 'on leave', sick: 'sick', training: 'in training' };
export const sayAbsence = (kind: AbsenceKind): string => SAID[kind];

const MOST_DAYS = 366;

export type KeptAbsence = InstantSpan & { readonly kind: AbsenceKind };

/** Refused: an end that is not after its beginning, more than a year, and a time at which the person is absent already. */
export function checkAbsence(span: InstantSpan, others: readonly KeptAbsence[], zone: Zone): Refusal[] {
  if (span.to <= span.from) return [refusal('invalid', 'It ends before it begins; give a later end.', 'to')];
  if (span.to - span.from > MOST_DAYS * DAY)
    return [refusal('too-large', 'Longer than a year; enter at most a year at a time.', 'to')];
  const other = others.find((o) => meets(o, span));
  if (other)
    return [
      refusal(
        'conflict',
        `They are ${sayAbsence(other.kind)} from ${sayDate(localDateAt(zone, other.from))} already; change that one instead.`,
        'from',
      ),
    ];
  return [];
}
