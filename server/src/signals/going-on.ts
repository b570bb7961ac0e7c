// Alerts that go on: what is only a part of other rules is nobody's to look after.
import { and, isNotNull, isNull, ne, or } from 'drizzle-orm';
import { alert } from './tables.ts';

export const isItsOwn = or(isNull(alert.heldBy), ne(alert.heldBy, 'part'));
export const goesOn = and(isNull(alert.endedAt), isNull(alert.withdrawnAt), isItsOwn);
/** Those that people were told of: neither shelved nor held back by others. */
export const isToldOf = and(goesOn, isNotNull(alert.toldAt));
