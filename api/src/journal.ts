// The journal on the wire: months with what was booked in them, each as a file for the accounts, and the closing of months.
import * as v from 'valibot';
import { MANAGERS, OFFICE } from '#core/people.ts';
import { ACCOUNTS } from '#core/settle/index.ts';
import { contract } from './contract.ts';
import { dateOut, done, monthText, upTo } from './shapes.ts';

const codes = v.object(
  Object.fromEntries(ACCOUNTS.map((a) => [a, upTo(20)])) as Record<(typeof ACCOUNTS)[number], ReturnType<typeof upTo>>,
);
export type AccountCodes = v.InferOutput<typeof codes>;

export const readJournal = contract({
  method: 'GET',
  path: '/api/settle/journal',
  summary: 'Months of the journal: what was booked on each account, and up to when it is closed',
  room: 'settle',
  may: OFFICE,
  reads: ['settle', 'register', 'orders'],
  query: v.object({ month: v.optional(monthText) }),
  answer: v.object({
    closedTo: v.nullable(dateOut),
    /** The months there are, the newest first. */
    months: v.array(v.object({ month: v.string(), isClosed: v.boolean() })),
    /** The month that is shown; empty: nothing was booked yet. */
    month: v.string(),
    accounts: v.array(
      v.object({
        ...{ account: v.picklist(ACCOUNTS), code: v.string(), centre: v.string(), currency: v.string() },
        ...{ debit: v.number(), credit: v.number() },
      }),
    ),
    entries: v.number(),
    /** The month that can be closed now, and why not where it cannot. */
    next: v.nullable(v.object({ month: v.string(), whyNot: v.nullable(v.string()) })),
    codes,
    version: v.number(),
  }),
});
export type JournalPage = v.InferOutput<typeof readJournal.answer & {}>;
export const journalCsv = contract({
  method: 'GET',
  path: '/api/settle/journal.csv',
  summary: 'A month of the journal as CSV, entry by entry; debit and credit of each are the same',
  room: 'settle',
  may: OFFICE,
  query: v.object({ month: monthText }),
});
export const closeJournal = contract({
  method: 'POST',
  path: '/api/settle/journal/close',
  summary: 'Close a month: it never changes any more, and what comes late is told in the next one',
  room: 'settle',
  may: MANAGERS,
  touches: ['settle'],
  body: v.object({ month: monthText }),
  answer: done,
});
export const nameAccounts = contract({
  method: 'PUT',
  path: '/api/settle/journal/accounts',
  summary: 'Say what the accounts are called in the books',
  room: 'settle',
  may: MANAGERS,
  touches: ['settle'],
  body: v.object({ version: v.pipe(v.number(), v.integer(), v.minValue(0)), codes }),
  answer: done,
});
