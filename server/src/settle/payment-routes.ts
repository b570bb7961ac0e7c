// The routes of what is paid: open items, payments typed and loaded, what they are laid on, reminders.
import fp from 'fastify-plugin';
import type { FastifyInstance } from 'fastify';
import * as contracts from '#api/payments.ts';
import { refusal } from '#core/refusal.ts';
import { localDateAt } from '#core/time/index.ts';
import { serve, type House } from '../platform/http.ts';
import { onThreads } from '../platform/threads.ts';
import { loadBankFile } from './bank-file.ts';
import { layIncoming, setAside, takeBackFromAside, typeIncoming } from './incoming.ts';
import { layCreditOn, takeBack, writeOffOf } from './laying.ts';
import { readDebtors, readOpenItemsOf, readPaymentOf, readPayments } from './open-items.ts';
import { previewRemindersOf, remind } from './reminders.ts';
import type * as thread from './thread.ts';

const done = { done: true as const };

const onThread = onThreads<Pick<typeof thread, 'previewBank' | 'planBank'>>(
  new URL('./thread.ts', import.meta.url),
  refusal('too-large', 'That is too much at once; divide the file.'),
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
    serve(app, house, contracts.layCredit, async ({ params, body, write, who, now }) => {
      await layCreditOn(write, params.id, body, { who, now });
      return done;
    });
    serve(app, house, contracts.writeOff, async ({ params, body, write, who, now }) => {
      await writeOffOf(write, params.id, body, { who, now });
      return done;
    });
    const url = house.config.databaseUrl;
    serve(app, house, contracts.previewBank, ({ body: { text } }) => onThread('previewBank', { url, text }));
    serve(app, house, contracts.loadBank, async ({ body, write, who, now }) =>
      loadBankFile(write, db, await onThread('planBank', { url, text: body.text }), body, { who, now }),
    );
    serve(app, house, contracts.previewReminders, ({ body, who, now }) =>
      previewRemindersOf(db, body.customerIds.length === 0 ? null : body.customerIds, localDateAt(who.zone, now)),
    );
    serve(app, house, contracts.sendReminders, ({ body, write, who, now }) => remind(write, body.customers, who, now));
  },
  { name: 'stavok-payment-routes', dependencies: ['stavok-authentication'] },
);
