// The orders' routes: everybody signed in may look; who works on orders may record.
import fp from 'fastify-plugin';
import type { ClockOut } from '#api/orders.ts';
import * as contracts from '#api/orders.ts';
import { orderNumber } from '#api/shapes.ts';
import { formatInstant, localDateAt } from '#core/time/index.ts';
import { deriveClocks, USUAL_WARN_PERCENT } from '#core/service-levels/index.ts';
import { pagesOf, sendCsv } from '../platform/csv.ts';
import { seesMoney } from '#core/people.ts';
import { serve, type House } from '../platform/http.ts';
import { checkReceived, decideRepair, raiseRepairFromCall, recordActOf } from './commands.ts';
import { listOrders, readOrder, remindersOf } from './queries.ts';
import { promisesNow } from './today.ts';

export const orderRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    serve(app, house, contracts.readPromises, ({ now }) => promisesNow(house.database.db, now));
    serve(app, house, contracts.listOrders, ({ query, now }) =>
      listOrders(database.db, query, query.after === undefined ? null : Number(query.after), query.limit ?? 60, now),
    );
    serve(app, house, contracts.ordersCsv, ({ query, now, who, reply }): Promise<never> => {
      async function* rows() {
        for await (const page of pagesOf((after) =>
          listOrders(database.db, query, after === undefined ? null : Number(after), 200, now),
        ))
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
          ]);
      }
      const head = [
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
      ];
      return Promise.resolve(sendCsv(reply, `orders-${localDateAt(who.zone, now)}.csv`, head, rows()));
    });
    serve(app, house, contracts.readOrder, async ({ params, now, who }) => {
      const page = await readOrder(database.db, params.id, now);
      return seesMoney(who.role) || page.took === null
        ? page
        : { ...page, took: { ...page.took, partsCost: null, otherCost: null } };
    });
    serve(app, house, contracts.recordAct, async ({ params, body, who, now }) => ({
      stage: await recordActOf(
        database,
        who,
        params.id,
        { at: body.at, act: body.act, requestKey: body.requestKey },
        now,
      ),
    }));
    serve(app, house, contracts.raiseRepair, async ({ body, who, now }) => ({
      id: await raiseRepairFromCall(
        database,
        {
          ...body,
          startedAt: body.receivedAt,
          callerId: body.callerId ?? null,
          raisedText: `call: ${body.title}${body.lateReason?.trim() ? ` (told late: ${body.lateReason.trim()})` : ''}`,
          who: who.id,
          fallbackZone: who.zone,
        },
        now,
      ),
    }));
    serve(app, house, contracts.previewRepair, async ({ body, who, now }) => {
      checkReceived(body.receivedAt, body.lateReason, now);
      const { book, subject, taken } = await decideRepair(database.db, {
        ...body,
        startedAt: body.receivedAt,
        fallbackZone: who.zone,
      });
      const clocks = deriveClocks(body.receivedAt, [], taken.promises, book.timeOf, now).map((c): ClockOut => ({
        orderId: 0,
        assetId: body.assetId,
        tag: subject.tag,
        target: c.target,
        state: c.state,
        promisedMinutes: c.given.promise.minutes,
        warnPercent: c.given.warnPercent ?? USUAL_WARN_PERCENT,
        measure:
          c.given.promise.measure === 'working' ? book.calendarOf(c.given.promise.calendarId).name : 'elapsed time',
        startedAt: c.startedAt,
        dueAt: 'dueAt' in c ? c.dueAt : null,
        stoppedAt: null,
        left: 'left' in c ? c.left : null,
        over: 'over' in c ? c.over : null,
        note: null,
        zone: taken.zone,
      }));
      return {
        sentence: taken.sentence,
        promise: taken.promise,
        considered: [...taken.verdict.considered],
        clocks,
        reminders: await remindersOf(
          database.db,
          taken.verdict.considered.flatMap((c) => (c.taken ? (c.agreementId ?? []) : [])),
        ),
      };
    });
  },
  { name: 'stavok-order-routes', dependencies: ['stavok-authentication'] },
);
