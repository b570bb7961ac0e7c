// A time sheet's life: open, handed in, approved, or sent back to be put right; what may be changed in each.
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { addDays, weekdayOf, type LocalDate } from '../time/index.ts';

export const SHEET_STATES = ['open', 'handed in', 'approved', 'sent back'] as const;
export type SheetState = (typeof SHEET_STATES)[number];
export const SHEET_ACTS = ['hand in', 'approve', 'send back'] as const;
export type SheetAct = (typeof SHEET_ACTS)[number];

/** The Monday of the ISO week of a day. */
export const weekOf = (day: LocalDate): LocalDate => addDays(day, 1 - weekdayOf(day));

/** Entries are written, changed and removed until the sheet is handed in, and again after it was sent back. */
export const isOpenSheet = (state: SheetState): boolean => state === 'open' || state === 'sent back';

/** Refused: to change what was handed in or approved; says what would be right. */
export function mayChange(state: SheetState): Decided<null> {
  if (isOpenSheet(state)) return decided(null);
  return refused(
    state === 'approved'
      ? refusal(
          'wrong-stage',
          'The week is approved: what was wrong is taken back by a counter-entry with its reason.',
          'day',
        )
      : refusal('wrong-stage', 'The week was handed in; whoever approves it can send it back.', 'day'),
  );
}

/** The state after an act. Refused: an act that the state does not allow, and sending back without a reason. */
export function actOnSheet(state: SheetState, act: SheetAct, reason: string): Decided<SheetState> {
  switch (act) {
    case 'hand in':
      return isOpenSheet(state)
        ? decided('handed in')
        : refused(refusal('wrong-stage', `The sheet is ${state} already.`, 'act'));
    case 'approve':
      return state === 'handed in'
        ? decided('approved')
        : refused(refusal('wrong-stage', `Only a sheet that was handed in is approved; this one is ${state}.`, 'act'));
    case 'send back':
      if (state !== 'handed in')
        return refused(
          refusal('wrong-stage', `Only a sheet that was handed in is sent back; this one is ${state}.`, 'act'),
        );
      return reason.trim() === ''
        ? refused(refusal('missing', 'Say what is to be put right.', 'reason'))
        : decided('sent back');
  }
}
