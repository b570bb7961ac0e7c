// The routes of what is told from what stands: the journal by month, margins, and how allowances are used.
import fp from 'fastify-plugin';
import type { FastifyInstance } from 'fastify';
import { listAllowances } from '#api/allowances.ts';
import * as journal from '#api/journal.ts';
import * as margins from '#api/margins.ts';
import { refusal } from '#core/refusal.ts';
import { localDateAt } from '#core/time/index.ts';
import { sendCsv } from '../platform/csv.ts';
import { serve, type House } from '../platform/http.ts';
import { onThreads } from '../platform/threads.ts';
import { readAllowances } from './allowance-list.ts';
import { closeJournalMonth, JOURNAL_HEAD, journalRows, nameAccountsAs } from './journal.ts';
import type * as thread from './thread.ts';

const done = { done: true as const };

const onThread = onThreads<Pick<typeof thread, 'margins' | 'margin' | 'journal'>>(
  new URL('./thread.ts', import.meta.url),
  refusal('too-large', 'That is too much at once; ask about a shorter time.'),
);

function journalRoutes(app: FastifyInstance, house: House): void {
  const { db } = house.database;
  serve(app, house, journal.readJournal, ({ query: { month }, now }) =>
    onThread('journal', { url: house.config.databaseUrl, month, now }),
  );
  serve(app, house, journal.journalCsv, ({ query, reply }) =>
    sendCsv(reply, `journal-${query.month}.csv`, JOURNAL_HEAD, journalRows(db, query.month)),
  );
  serve(app, house, journal.closeJournal, async ({ body, write, now }) => {
    await closeJournalMonth(write, body.month, now);
    return done;
  });
  serve(app, house, journal.nameAccounts, async ({ body, write }) => {
    await nameAccountsAs(write, body);
    return done;
  });
}

export const figureRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    journalRoutes(app, house);
    const url = house.config.databaseUrl;
    serve(app, house, margins.listMargins, ({ query }) => onThread('margins', { url, query }));
    serve(app, house, margins.readMargin, ({ params, who, now }) =>
      onThread('margin', { url, id: params.id, today: localDateAt(who.zone, now) }),
    );
    serve(app, house, listAllowances, ({ query, who, now }) => readAllowances(db, query, localDateAt(who.zone, now)));
  },
  { name: 'stavok-figure-routes', dependencies: ['stavok-authentication'] },
);
