// Settle in words: what is odd and what to do about it, charges by their kind.
import type { Look, LookPage } from '#api/billing.ts';
import type { Oddity } from '#core/settle/index.ts';

/** What is odd, and what would be right. */
export const SAY_ODD: Readonly<Record<Oddity, readonly [what: string, right: string]>> = {
  'no hours': ['no hours', 'Nobody entered time on it. Right where it was done from afar; else ask who went.'],
  'without a rate': ['time without a rate', 'Give their craft a rate on the rate card; until then it is not approved.'],
  'cost far from like work': ['cost unlike like work', 'More than twice, or less than half, of what such work costs.'],
  'cover nearly full': ['counted cover nearly used up', 'A tenth or less of a counted right is left.'],
  excluded: ['a cover left it out', 'A cover reaches the machine and leaves out this kind of work, cause or part.'],
  'no customer order number': ['no order number of theirs', 'They want it on what they pay: write it at the order.'],
  'over credit terms': ['over their credit terms', 'The customer owes more, or longer, than agreed.'],
  'no tax': ['without a tax', 'Name the standard tax in Setup; until then it is not approved.'],
  corrected: ['corrected', 'Somebody gave goodwill or named another payer.'],
  'changed since it was approved': ['changed since it was approved', 'Take the approval back to bill it as it is now.'],
};

export const SAY_STATE: Readonly<Record<Look['state'], string>> = {
  'to look at': 'to be looked at',
  second: 'waits for a second person',
  approved: 'approved, to be billed',
  settled: 'settled',
};

export const SAY_WHAT: Readonly<Record<LookPage['charges'][number]['what'], string>> = {
  work: 'Work',
  waiting: 'Waiting',
  travel: 'Travel time',
  'call-out': 'Call-out',
  'flat travel': 'Travel, flat',
  kilometres: 'Travel',
  part: 'Part',
  consumable: 'Consumable',
  visit: 'Visit',
  other: 'Other',
};
