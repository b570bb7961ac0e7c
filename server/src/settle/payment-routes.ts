// The routes of what is paid: open items, payments typed and loaded, what they are laid on, reminders.
import fp from 'fastify-plugin';
import type { FastifyInstance } from 'fastify';
import { listAllowances } from '#api/allowances.ts';
import * as journal from '#api/journal.ts';
import * as margins from '#api/margins.ts';
import * as contracts from '#api/payments.ts';
import { refusal } from '#core/refusal.ts';
import { localDateAt } from '#core/time/index.ts';
import { sendCsv } from '../platform/csv.ts';
import { serve, type House } from '../platform/http.ts';
import { onThreads } from '../platform/threads.ts';
import { readAllowances } from './allowance-list.ts';
import { loadBankFile, previewBankFile } from './bank-file.ts';
import { layIncoming, setAside, takeBackFromAside, typeIncoming } from './incoming.ts';
import { closeJournalMonth, JOURNAL_HEAD, journalRows, nameAccountsAs, readJournalOf } from './journal.ts';
import { layCreditOn, takeBack, writeOffOf } from './laying.ts';
import { readDebtors, readOpenItemsOf, readPaymentOf, readPayments } from './open-items.ts';
import { previewRemindersOf, remind } from './reminders.ts';
import type * as thread from './thread.ts';

const done = { done: true as const };

const onThread = onThreads<Pick<typeof thread, 'readBank' | 'margins' | 'margin'>>(
  new URL('./thread.mjs', import.meta.url),
  refusal('too-large', 'That is too much at once; divide the file, or ask about a shorter time.'),
);

function paymentRoutesIn(app: FastifyInstance, house: House): void {
  const { db } = house.database;
  serve(app, house, contracts.listPayments, ({ query }) => readPayments(db, query));
  serve(app, house, contracts.readPayment, ({ params }) => readPaymentOf(db, params.id));
  serve(app, house, contracts.typePayment, ({ body, write, who, now }) => typeIncoming(write, db, body, { who, now }));
  serve(app, house, contracts.layPayment, async ({ params, body, write, who, now }) => {
    await layIncoming(write, params.id, body, { who, now });
    return done;
  });
  serve(app, house, contracts.setAsidePayment, async ({ params, body, write }) => {
    await setAside(write, params.id, body);
    return done;
  });
  serve(app, house, contracts.takeBackAside, async ({ params, body, write }) => {
    await takeBackFromAside(write, params.id, body.version);
    return done;
  });
  serve(app, house, contracts.takeBackLaid, async ({ params, body, write, who, now }) => {
    await takeBack(write, params.id, body.reason, { who, now });
    return done;
  });
}

function journalRoutes(app: FastifyInstance, house: House): void {
  const { db } = house.database;
  serve(app, house, journal.readJournal, ({ query, now }) => readJournalOf(db, query.month, now));
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

export const paymentRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.listDebtors, ({ query, who, now }) =>
      readDebtors(db, query, localDateAt(who.zone, now)),
    );
    serve(app, house, contracts.readOpenItems, ({ params, who, now }) =>
      readOpenItemsOf(db, params.id, localDateAt(who.zone, now)),
    );
    paymentRoutesIn(app, house);
    journalRoutes(app, house);
    const url = house.config.databaseUrl;
    serve(app, house, margins.listMargins, ({ query }) => onThread('margins', { url, query }));
    serve(app, house, margins.readMargin, ({ params, who, now }) =>
      onThread('margin', { url, id: params.id, today: localDateAt(who.zone, now) }),
    );
    serve(app, house, listAllowances, ({ query, who, now }) => readAllowances(db, query, localDateAt(who.zone, now)));
    serve(app, house, contracts.layCredit, async ({ params, body, write, who, now }) => {
      await layCreditOn(write, params.id, body, { who, now });
      return done;
    });
    serve(app, house, contracts.writeOff, async ({ params, body, write, who, now }) => {
      await writeOffOf(write, params.id, body, { who, now });
      return done;
    });
    serve(app, house, contracts.previewBank, async ({ body }) =>
      previewBankFile(db, await onThread('readBank', body.text)),
    );
    serve(app, house, contracts.loadBank, async ({ body, write, who, now }) =>
      loadBankFile(write, db, await onThread('readBank', body.text), body, { who, now }),
    );
    serve(app, house, contracts.previewReminders, ({ body, who, now }) =>
      previewRemindersOf(db, body.customerIds.length === 0 ? null : body.customerIds, localDateAt(who.zone, now)),
    );
    serve(app, house, contracts.sendReminders, ({ body, write, who, now }) => remind(write, body.customers, who, now));
  },
  { name: 'stavok-payment-routes', dependencies: ['stavok-authentication'] },
);
