// Reference data: who may read it (everybody signed in) and change it.
import { and, asc, desc, eq, inArray, type SQL } from 'drizzle-orm';
import fp from 'fastify-plugin';
import Holidays from 'date-holidays';
import type { Asked } from '#api/contract.ts';
import * as contracts from '#api/setup.ts';
import { WRITERS } from '#api/shapes.ts';
import { readCalendar } from '#core/calendars/index.ts';
import { checkNewVersion, checkPledge, type Pledge } from '#core/service-levels/index.ts';
import { addDays, localDateAt, sayDay } from '#core/time/index.ts';
import type { Tx } from '../platform/database.ts';
import { serve, type House } from '../platform/http.ts';
import { accept, refuse, Refused, stale } from '../platform/refuse.ts';
import {
  alertRule,
  asset,
  assetClass,
  calendar,
  device,
  jobPlan,
  person,
  serviceLevel,
  serviceLevelPast,
} from '../platform/tables/index.ts';
import { setupWriter } from './write.ts';

type ServiceLevelBody = Asked<typeof contracts.addServiceLevel>['body'];

export const setupRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;

    const write = setupWriter(house);

    serve(app, house, contracts.readReference, 'signed in', async ({ who, now }) => {
      const people = (wanted: SQL) =>
        db
          .select({ id: person.id, name: person.name })
          .from(person)
          .where(and(wanted, eq(person.active, true)))
          .orderBy(asc(person.name))
          .limit(500);
      const [calendars, serviceLevels, past, jobPlans, classes, technicians, managers] = await Promise.all([
        db.select().from(calendar).orderBy(asc(calendar.name)).limit(500),
        db.select().from(serviceLevel).orderBy(asc(serviceLevel.name)).limit(500),
        db.select().from(serviceLevelPast).orderBy(desc(serviceLevelPast.heldUntil)).limit(2000),
        db.select().from(jobPlan).orderBy(asc(jobPlan.name)).limit(500),
        db.select().from(assetClass).orderBy(asc(assetClass.name)).limit(500),
        people(eq(person.role, 'technician')),
        people(inArray(person.role, ['coordinator', 'manager', 'administrator'])),
      ]);
      return {
        today: localDateAt(who.zone, now),
        zone: who.zone,
        calendars,
        serviceLevels: serviceLevels.map((l) => ({ ...l, past: past.filter((p) => p.serviceLevelId === l.id) })),
        jobPlans,
        classes,
        technicians,
        managers,
      };
    });

    serve(app, house, contracts.addCalendar, WRITERS, async ({ body, who }) => {
      const read = accept(readCalendar(body));
      return write(who, 'calendar', `added ${read.name}`, async (tx) => {
        const [row] = await tx.db
          .insert(calendar)
          .values({
            ...read,
            weekly: body.weekly,
            closed: [...read.closed],
            extraOpen: read.extraOpen.map((d) => ({ ...d, spans: [...d.spans] })),
          })
          .$returningId();
        return { id: row?.id as number };
      });
    });
    serve(app, house, contracts.changeCalendar, WRITERS, async ({ params, body, who }) => {
      const read = accept(readCalendar(body));
      await write(who, 'calendar', `changed ${read.name}`, async (tx) => {
        const [row] = await tx.db.select().from(calendar).where(eq(calendar.id, params.id)).for('update');
        if (!row) refuse('not-found', 'That calendar does not exist.');
        if (row.version !== body.version) stale(row);
        await tx.db
          .update(calendar)
          .set({
            ...read,
            weekly: body.weekly,
            closed: [...read.closed],
            extraOpen: read.extraOpen.map((d) => ({ ...d, spans: [...d.spans] })),
            version: row.version + 1,
          })
          .where(eq(calendar.id, params.id));
        return { id: params.id };
      });
      return { done: true as const };
    });
    serve(app, house, contracts.proposeHolidays, WRITERS, async ({ query }) => {
      if (query.to < query.from || query.to - query.from > 12)
        refuse('invalid', 'Choose up to twelve years, first year first.', 'to');
      const source = query.region ? new Holidays(query.country, query.region) : new Holidays(query.country);
      const states = source.getStates(query.country) as Record<string, string> | undefined;
      const days = new Map<string, string>();
      for (let year = query.from; year <= query.to; year += 1) {
        for (const day of source.getHolidays(year, 'en'))
          if (day.type === 'public') days.set(day.date.slice(0, 10), day.name);
      }
      if (days.size === 0) refuse('not-found', `No public holidays are known for ${query.country}.`, 'country');
      return {
        days: [...days].sort().map(([date, name]) => ({ date, name })),
        regions: Object.entries(states ?? {}).map(([code, name]) => ({ code, name })),
      };
    });

    const pledgeOf = ({ pledge }: { pledge?: Pledge | null | undefined }): Pledge | null =>
      pledge ? accept(checkPledge(pledge)) : null;
    const checkCalendars = async (
      tx: Tx,
      targets: ServiceLevelBody['targets'],
      pledge: Pledge | null,
    ): Promise<void> => {
      const known = new Set((await tx.db.select({ id: calendar.id }).from(calendar)).map((c) => c.id));
      for (const promises of Object.values(targets))
        for (const promise of Object.values(promises ?? {}))
          if (promise.measure === 'working' && !known.has(promise.calendarId))
            refuse('not-found', 'That calendar does not exist; choose another.', 'targets');
      const counted = pledge?.availability?.calendarId ?? null;
      if (counted !== null && !known.has(counted))
        refuse('not-found', 'That calendar does not exist; choose another.', 'pledge.availability');
    };
    serve(app, house, contracts.addServiceLevel, WRITERS, ({ body, who }) =>
      write(who, 'service level', `added ${body.name}`, async (tx) => {
        await checkCalendars(tx, body.targets, body.pledge ?? null);
        const [row] = await tx.db
          .insert(serviceLevel)
          .values({ ...body, pledge: pledgeOf(body) })
          .$returningId();
        return { id: row?.id as number };
      }),
    );
    serve(app, house, contracts.changeServiceLevel, WRITERS, async ({ params, body, who }) => {
      const { version, ...next } = body;
      await write(who, 'service level', `changed ${body.name} from ${sayDay(body.holdsFrom)}`, async (tx) => {
        const [row] = await tx.db.select().from(serviceLevel).where(eq(serviceLevel.id, params.id)).for('update');
        if (!row) refuse('not-found', 'That service level does not exist.');
        if (row.version !== version) stale(row);
        accept(checkNewVersion(body.holdsFrom, row.holdsFrom));
        await checkCalendars(tx, body.targets, body.pledge ?? null);
        await tx.db.insert(serviceLevelPast).values({
          serviceLevelId: row.id,
          heldUntil: addDays(body.holdsFrom, -1),
          targets: row.targets,
          pauses: row.pauses,
          pledge: row.pledge,
        });
        await tx.db
          .update(serviceLevel)
          .set({ ...next, pledge: pledgeOf(body), version: row.version + 1 })
          .where(eq(serviceLevel.id, row.id));
        return { id: row.id };
      });
      return { done: true as const };
    });
    serve(app, house, contracts.addJobPlan, WRITERS, ({ body, who }) =>
      write(who, 'job plan', `added ${body.name}`, async (tx) => {
        const [row] = await tx.db.insert(jobPlan).values(body).$returningId();
        return { id: row?.id as number };
      }),
    );
    serve(app, house, contracts.changeJobPlan, WRITERS, async ({ params, body, who }) => {
      await write(who, 'job plan', `changed ${body.name}`, async (tx) => {
        const [row] = await tx.db.select().from(jobPlan).where(eq(jobPlan.id, params.id)).for('update');
        if (!row) refuse('not-found', 'That job plan does not exist.');
        if (row.version !== body.version) stale(row);
        await tx.db
          .update(jobPlan)
          .set({ name: body.name, minutes: body.minutes, tasks: body.tasks, version: row.version + 1 })
          .where(eq(jobPlan.id, params.id));
        return { id: params.id };
      });
      return { done: true as const };
    });

    serve(app, house, contracts.listAlertRules, 'signed in', async () => {
      const rows = await db
        .select({ rule: alertRule, className: assetClass.name })
        .from(alertRule)
        .innerJoin(assetClass, eq(assetClass.id, alertRule.assetClassId))
        .orderBy(asc(assetClass.name), asc(alertRule.name))
        .limit(500);
      return { items: rows.map(({ rule, className }) => ({ ...rule, limit: rule.threshold, className })) };
    });
    serve(app, house, contracts.addAlertRule, WRITERS, ({ body: { limit, ...body }, who }) =>
      write(who, 'alert rule', `added ${body.name}`, async (tx) => {
        const [known] = await tx.db
          .select({ id: assetClass.id })
          .from(assetClass)
          .where(eq(assetClass.id, body.assetClassId));
        if (!known) refuse('not-found', 'That asset class does not exist; choose another.', 'assetClassId');
        const [row] = await tx.db
          .insert(alertRule)
          .values({ ...body, threshold: limit })
          .$returningId();
        return { id: row?.id as number };
      }),
    );
    serve(
      app,
      house,
      contracts.changeAlertRule,
      WRITERS,
      async ({ params, body: { limit, version: _, ...body }, body: { version }, who }) => {
        await write(who, 'alert rule', `changed ${body.name}`, async (tx) => {
          const [row] = await tx.db.select().from(alertRule).where(eq(alertRule.id, params.id)).for('update');
          if (!row) refuse('not-found', 'That alert rule does not exist.');
          if (row.version !== version) stale({ ...row, limit: row.threshold });
          await tx.db
            .update(alertRule)
            .set({ ...body, threshold: limit, version: row.version + 1 })
            .where(eq(alertRule.id, params.id));
          return { id: params.id };
        });
        return { done: true as const };
      },
    );
    serve(app, house, contracts.addDevice, WRITERS, async ({ body, who }) => {
      try {
        return await write(who, 'device', `registered ${body.key}`, async (tx) => {
          const [found] = await tx.db.select({ id: asset.id }).from(asset).where(eq(asset.id, body.assetId));
          if (!found) refuse('not-found', 'That asset does not exist.', 'assetId');
          const [row] = await tx.db
            .insert(device)
            .values({ assetId: body.assetId, deviceKey: body.key })
            .$returningId();
          return { id: row?.id as number };
        });
      } catch (error) {
        if (error instanceof Refused && error.refusals[0]?.code === 'taken')
          refuse('taken', 'Another asset’s device uses that key already.', 'key');
        throw error;
      }
    });
  },
  { name: 'stavok-setup-routes', dependencies: ['stavok-authentication'] },
);
