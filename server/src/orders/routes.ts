// The orders' routes: everybody signed in may look; who works on orders may record.
import fp from 'fastify-plugin';
import * as contracts from '#api/orders.ts';
import { orderNumber } from '#api/shapes.ts';
import { asId, type OrderId } from '#core/ids.ts';
import { formatInstant, localDateAt } from '#core/time/index.ts';
import { pagesOf, sendCsv } from '../platform/csv.ts';
import { seesMoney } from '#core/people.ts';
import { serve, type House } from '../platform/http.ts';
import { raiseRepairFromCall, recordActOf } from './commands.ts';
import { readOrder } from './page.ts';
import { previewRepair } from './preview.ts';
import { listOrders, pageOfOrders } from './queries.ts';
import { promisesNow } from './today.ts';

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

const afterOf = (text: string | undefined): OrderId | null => (text === undefined ? null : asId<OrderId>(Number(text)));

export const orderRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    serve(app, house, contracts.readPromises, ({ now }) => promisesNow(house.database.db, now));
    serve(app, house, contracts.listOrders, ({ query, now }) =>
      listOrders(database.db, query, afterOf(query.after), query.limit ?? 60, now),
    );
    serve(app, house, contracts.ordersCsv, ({ query, now, who, reply }): Promise<never> => {
      async function* rows() {
        for await (const page of pagesOf((after) => pageOfOrders(database.db, query, afterOf(after), CSV_PAGE, now)))
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
    serve(app, house, contracts.previewRepair, ({ body, who, now }) => previewRepair(database.db, body, who.zone, now));
  },
  { name: 'stavok-order-routes', dependencies: ['stavok-authentication'] },
);
