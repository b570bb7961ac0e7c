// The orders' routes: everybody signed in may look; who works on orders may record.
import type { FastifyInstance } from 'fastify';
import fp from 'fastify-plugin';
import * as calls from '#api/calls.ts';
import * as clocks from '#api/clocks.ts';
import * as lists from '#api/order-lists.ts';
import * as contracts from '#api/orders.ts';
import { orderNumber } from '#api/shapes.ts';
import { formatInstant, localDateAt } from '#core/time/index.ts';
import { pagesOf, sendCsv } from '../platform/csv.ts';
import { serve, type House } from '../platform/http.ts';
import { joinOrderBy, raiseFromCall } from './calls.ts';
import { changeOrderBy, previewChangeOf } from './changing.ts';
import { recordActOf } from './commands.ts';
import { pageOfExceptions } from './exceptions.ts';
import { addLineTo, followUpOn } from './follow-up.ts';
import { changeHeadOf } from './head.ts';
import { readOrderAs } from './page.ts';
import { hereAt } from './presence.ts';
import { previewOrder } from './preview.ts';
import { actOnManyBy, previewOfMany } from './many.ts';
import { listOrders, pageOfOrders } from './queries.ts';
import { sayCall } from './say.ts';
import { clocksAtWork } from './at-work.ts';
import { handOverIn } from './in-charge.ts';
import { warningsOfOrder } from './warned.ts';
import { acknowledgeIn } from './warnings.ts';
import { changeSettings, orderSettings } from './settings.ts';
import { toldOutside } from './telling.ts';
import { promisesNow } from './today.ts';
import { keepViewOf, removeViewOf, viewsOf } from './views.ts';

const done = { done: true as const };
const CSV_PAGE = 500;
const CSV_HEAD = [
  'number',
  'kind',
  'stage',
  'priority',
  'title',
  'customer',
  'place',
  'asset',
  'technician',
  'planned for',
  'started',
  'due',
  'machines',
];
const EXCEPTIONS_HEAD = ['at', 'order', 'title', 'customer', 'what', 'said', 'decided by'];

function listRoutes(app: FastifyInstance, house: House): void {
  const { database } = house;
  serve(app, house, lists.listViews, async ({ who }) => ({ items: await viewsOf(database.db, who.id) }));
  serve(app, house, lists.keepView, ({ body, write, who }) => keepViewOf(write, who.id, body));
  serve(app, house, lists.removeView, async ({ params, write, who }) => {
    await removeViewOf(write, who.id, params.id);
    return done;
  });
  serve(app, house, lists.previewBulk, ({ body, who, now }) => previewOfMany(database, who, body, now));
  serve(app, house, lists.actOnMany, ({ body, who, now }) => actOnManyBy(database, who, body, now));
}

function callRoutes(app: FastifyInstance, house: House): void {
  const { database } = house;
  serve(app, house, calls.raiseOrder, async ({ body: { requestKey, receivedAt, ...asked }, who, now }) => ({
    id: await raiseFromCall(
      database,
      {
        ...asked,
        ...{ startedAt: receivedAt, requestKey, who: who.id, role: who.role, fallbackZone: who.zone },
        raisedText: sayCall(asked.title, asked.lateReason),
      },
      now,
    ),
  }));
  serve(app, house, calls.previewOrder, ({ body, who, now }) => previewOrder(database.db, body, who, now));
  serve(app, house, calls.joinOrder, async ({ params, body, who, now }) => {
    await joinOrderBy(database, who.id, params.id, body, now);
    return done;
  });
}

function changeRoutes(app: FastifyInstance, house: House): void {
  const { database } = house;
  serve(app, house, calls.previewChange, ({ params, body, who, now }) =>
    previewChangeOf(database, who.id, params.id, body, now),
  );
  serve(app, house, calls.changeOrder, async ({ params, body, who, now }) => {
    await changeOrderBy(database, who.id, params.id, body, now);
    return done;
  });
  serve(app, house, calls.addLine, async ({ params, body, who, now }) => ({
    id: await addLineTo(database, who.id, params.id, body, now),
  }));
  serve(app, house, calls.followUp, async ({ params, body, who, now }) => ({
    id: await followUpOn(database, who.id, params.id, body, now),
  }));
  serve(app, house, calls.changeHead, async ({ params, body, write }) => {
    await changeHeadOf(write, params.id, body);
    return done;
  });
  serve(app, house, clocks.handOver, async ({ params, body, who, now }) => {
    await database.transact((tx) => handOverIn(tx, who.id, params.id, body, now));
    return done;
  });
  serve(app, house, clocks.acknowledgeWarnings, async ({ params, who, now, write }) => ({
    acknowledged: await write(async (tx, told) => {
      const acknowledged = await acknowledgeIn(tx, who, params.id, now);
      if (acknowledged > 0) told({ subject: 'order', id: params.id, text: 'warnings of its promises seen to' });
      return acknowledged;
    }),
  }));
  serve(app, house, clocks.readWarnings, ({ params, who, now }) => warningsOfOrder(database.db, who, params.id, now));
  serve(app, house, clocks.readClocksAtWork, ({ query, who, now }) => clocksAtWork(database.db, query, who.id, now));
  serve(app, house, calls.readOrderSettings, () => orderSettings(database.db));
  serve(app, house, calls.changeOrderSettings, async ({ body, write }) => {
    await changeSettings(write, body);
    return done;
  });
}

function exceptionRoutes(app: FastifyInstance, house: House): void {
  const { db } = house.database;
  serve(app, house, lists.listExceptions, ({ query: { after, limit, ...filter }, who }) =>
    pageOfExceptions(db, filter, after, limit ?? 60, who.zone),
  );
  serve(app, house, lists.exceptionsCsv, ({ query, who, now, reply }): Promise<never> => {
    async function* rows() {
      for await (const page of pagesOf((after) => pageOfExceptions(db, query, after, CSV_PAGE, who.zone)))
        yield page.map((e) => [
          formatInstant(e.at),
          orderNumber(e.order.id),
          e.order.title,
          e.customer,
          e.kind,
          e.text,
          e.who?.name ?? '',
        ]);
    }
    const name = `exceptions-${localDateAt(who.zone, now)}.csv`;
    return Promise.resolve(sendCsv(reply, name, EXCEPTIONS_HEAD, rows()));
  });
}

export const orderRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    serve(app, house, contracts.readPromises, ({ now }) => promisesNow(house.database.db, now));
    serve(app, house, lists.listOrders, ({ query, who, now }) =>
      listOrders(database.db, query, { now, today: localDateAt(who.zone, now) }),
    );
    serve(app, house, lists.ordersCsv, ({ query, now, who, reply }): Promise<never> => {
      async function* rows() {
        const { sort = 'newest', ...filter } = query;
        const at = { now, today: localDateAt(who.zone, now) };
        for await (const page of pagesOf((after) => pageOfOrders(database.db, filter, sort, after, CSV_PAGE, at)))
          yield page.map((o) => [
            orderNumber(o.id),
            o.kind,
            o.stage,
            o.priority,
            o.title,
            o.customer,
            o.place,
            o.tag,
            o.technician,
            o.plannedFor,
            formatInstant(o.startedAt),
            o.due,
            o.machines,
          ]);
      }
      return Promise.resolve(sendCsv(reply, `orders-${localDateAt(who.zone, now)}.csv`, CSV_HEAD, rows()));
    });
    serve(app, house, contracts.readOrder, ({ params, now, who }) => readOrderAs(database.db, who, params.id, now));
    serve(app, house, contracts.recordAct, async ({ params, body, who, now }) => ({
      stage: await recordActOf(
        database,
        who,
        params.id,
        { at: body.at, act: body.act, requestKey: body.requestKey },
        now,
      ),
    }));
    serve(app, house, contracts.readTold, async ({ params }) => ({ items: await toldOutside(database.db, params.id) }));
    serve(app, house, contracts.beHere, ({ params, who, now }) => hereAt(database, who, params.id, now));
    listRoutes(app, house);
    exceptionRoutes(app, house);
    callRoutes(app, house);
    changeRoutes(app, house);
  },
  { name: 'stavok-order-routes', dependencies: ['stavok-authentication'] },
);
