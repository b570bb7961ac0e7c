// The upkeep run’s routes: coordinators, managers and administrators decide; dispatchers may look ahead.
import fp from 'fastify-plugin';
import * as loads from '#api/load.ts';
import * as schedules from '#api/schedules.ts';
import * as contracts from '#api/upkeep.ts';
import { eq, inArray, min } from 'drizzle-orm';
import type { RunId } from '#core/ids.ts';
import { localDateAt } from '#core/time/index.ts';
import { EXCEPTION_CODES, NAME_OF_EXCEPTION, type RunScope } from '#core/upkeep/index.ts';
import { agreement } from '../agreements/tables.ts';
import { customer } from '../customers/tables.ts';
import { depot } from '../depots/tables.ts';
import { location } from '../places/tables.ts';
import type { Db } from '../platform/database.ts';
import { serve, type House, type Person } from '../platform/http.ts';
import { namesOfPeople } from '../platform/people.ts';
import { facilityRoutes } from './facility-routes.ts';
import { releaseVisits } from './decide.ts';
import { patternRoutes } from './patterns/routes.ts';
import { onThread } from './pool.ts';
import { nothingOf } from './preview.ts';
import { levelsOf } from './proposals.ts';
import { beginRun, lastRuns, runOf, type RunRow } from './runs.ts';
import { scopeOf } from './scope.ts';
import { changeVisits, readSeries } from './series.ts';
import { changeTerms } from './terms.ts';
import { upkeepSetting, visit } from './tables.ts';
import { dueNow } from './today.ts';
import { readTook } from './took.ts';
import { yearRoutes } from './year/routes.ts';

/** What a run looked at, in words. */
async function sayScope(db: Db, { customerId, agreementId, locationId, depotId, month }: RunScope): Promise<string> {
  const [[c], [g], [l], [d]] = await Promise.all([
    customerId === undefined
      ? []
      : db.select({ name: customer.name }).from(customer).where(eq(customer.id, customerId)),
    agreementId === undefined
      ? []
      : db.select({ name: agreement.number }).from(agreement).where(eq(agreement.id, agreementId)),
    locationId === undefined
      ? []
      : db.select({ name: location.fullName }).from(location).where(eq(location.id, locationId)),
    depotId === undefined ? [] : db.select({ name: depot.name }).from(depot).where(eq(depot.id, depotId)),
  ]);
  const parts = [
    c?.name,
    g?.name,
    l?.name,
    d && `depot ${d.name}`,
    month === undefined ? undefined : `planned for ${month}`,
  ];
  return parts.filter((x) => x !== undefined).join(', ') || 'everything';
}

async function showRuns(db: Db, rows: readonly RunRow[]): Promise<contracts.Ran[]> {
  const ids = rows.map((r) => r.id);
  const [names, first] = await Promise.all([
    namesOfPeople(
      db,
      rows.map((r) => r.personId),
    ),
    ids.length === 0
      ? []
      : db
          .select({ id: visit.runId, order: min(visit.orderId) })
          .from(visit)
          .where(inArray(visit.runId, ids))
          .groupBy(visit.runId),
  ]);
  return Promise.all(
    rows.map(async (r) => ({
      id: r.id,
      at: r.at,
      who: names.get(r.personId) ?? null,
      to: r.runTo,
      scope: await sayScope(db, r.scope),
      state: r.state,
      wanted: r.wanted,
      raised: r.raised,
      leftCount: r.leftCount,
      left: r.left.map(({ scheduleId, nominal, tag, jobPlan, reason }) => ({
        scheduleId,
        nominal,
        tag,
        jobPlan,
        reason,
      })),
      firstOrderId: first.find((f) => f.id === r.id)?.order ?? null,
    })),
  );
}

/** A run that takes longer than this is answered with how far it is; screens that show it ask meanwhile. */
const ANSWER_WITHIN_MS = 25_000;

async function raiseFor(house: House, id: RunId, who: Person, failed: (error: unknown) => void) {
  const raising = onThread('raise', { url: house.config.databaseUrl, id, who });
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<'late'>((resolve) => {
    timer = setTimeout(() => resolve('late'), ANSWER_WITHIN_MS);
  });
  try {
    // What fails after the answer is told to the log; the run is taken up again.
    if ((await Promise.race([raising, late])) === 'late') raising.catch(failed);
  } finally {
    clearTimeout(timer);
  }
}

export const upkeepRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    const { db } = database;
    const url = house.config.databaseUrl;
    serve(app, house, contracts.previewRun, ({ query, who, now }) =>
      onThread('preview', {
        url,
        to: query.to,
        today: localDateAt(who.zone, now),
        scope: scopeOf(query),
        page: {
          shown: query.shown,
          exception: query.exception,
          after: query.after,
          limit: query.limit ?? contracts.PROPOSALS_SHOWN,
        },
      }),
    );
    serve(app, house, contracts.readNothing, async ({ query, who, now }) => {
      await onThread('plan', { url, to: query.to, today: localDateAt(who.zone, now) });
      const ask = { to: query.to, today: localDateAt(who.zone, now), scope: scopeOf(query) };
      return nothingOf(db, ask, Number(query.after ?? 0) || 0, query.limit ?? contracts.NOTHING_SHOWN);
    });
    serve(app, house, contracts.decideVisits, async ({ body: { visits, to, decision }, who, now }) => ({
      decided: await onThread('decide', { url, visits, to, decision, who, today: localDateAt(who.zone, now) }),
    }));
    serve(app, house, contracts.releaseVisits, async ({ body, who }) => {
      await releaseVisits(database, body.visits, who);
      return { done: true as const };
    });
    serve(app, house, contracts.commitRun, async ({ body, who, now, request }) => {
      const id = await beginRun(database, body, who, now, localDateAt(who.zone, now));
      await raiseFor(house, id, who, (error) => request.log.error({ err: error, run: id }, 'run'));
      return (await showRuns(db, [await runOf(db, id)]))[0] as contracts.Ran;
    });
    serve(
      app,
      house,
      contracts.readRun,
      async ({ params }) => (await showRuns(db, [await runOf(db, params.id)]))[0] as contracts.Ran,
    );
    serve(app, house, contracts.listRuns, async () => ({ items: await showRuns(db, await lastRuns(db, 20)) }));
    serve(app, house, contracts.readUpkeepSettings, async () => {
      const levels = await levelsOf(db);
      return {
        items: EXCEPTION_CODES.map((exception) => ({
          ...{ exception, name: NAME_OF_EXCEPTION[exception], level: levels[exception] },
        })),
      };
    });
    serve(app, house, contracts.setUpkeepSetting, async ({ body: { exception, level }, write }) => {
      await write(async (tx, told) => {
        await tx.db.insert(upkeepSetting).values({ exception, level }).onDuplicateKeyUpdate({ set: { level } });
        told({ subject: 'upkeep setting', id: 0, text: `${NAME_OF_EXCEPTION[exception]}: ${level}` });
      });
      return { done: true as const };
    });
    serve(app, house, schedules.readSeries, ({ params, who, now }) => readSeries(db, params.id, now, who.zone));
    serve(app, house, schedules.changeSchedule, async ({ params, body, who }) => ({
      version: await changeTerms(database, params.id, body, who),
    }));
    serve(app, house, schedules.changeSeries, ({ params, body, who, now }) =>
      changeVisits(database, params.id, body, who, now),
    );
    serve(app, house, loads.readLoad, ({ query, who, now }) =>
      onThread('load', { url, scope: scopeOf(query), today: localDateAt(who.zone, now) }),
    );
    serve(app, house, loads.readLevelling, ({ query, who, now }) =>
      onThread('levelling', { url, scope: scopeOf(query), today: localDateAt(who.zone, now) }),
    );
    serve(app, house, loads.moveVisits, ({ body: { moves }, who, now }) =>
      onThread('move', { url, moves, who, now, today: localDateAt(who.zone, now) }),
    );
    patternRoutes(app, house);
    yearRoutes(app, house);
    facilityRoutes(app, house);
    serve(app, house, schedules.readTook, ({ query }) => readTook(db, query.jobPlan));
    serve(app, house, contracts.readDue, ({ who, now }) => dueNow(db, localDateAt(who.zone, now)));
  },
  { name: 'stavok-upkeep-routes', dependencies: ['stavok-authentication'] },
);
