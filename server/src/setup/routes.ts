// Reference data in one answer, for the forms of every room.
import fp from 'fastify-plugin';
import { and, asc, desc, eq, inArray, ne, type SQL } from 'drizzle-orm';
import { previewCalendar } from '#api/calendar-effect.ts';
import * as contracts from '#api/setup.ts';
import { WRITERS } from '#core/people.ts';
import { localDateAt } from '#core/time/index.ts';
import { bookWith, calendarBook, changedRow } from '../calendars/index.ts';
import { calendar } from '../calendars/tables.ts';
import { assetClass, jobPlan, jobPlanIncludes } from '../catalogue/tables.ts';
import { plansToDo } from '../catalogue/index.ts';
import { depot, skill } from '../depots/tables.ts';
import { serve, type House } from '../platform/http.ts';
import { craft } from '../labour/tables.ts';
import { clocksOtherwise, orderSettings } from '../orders/index.ts';
import { person } from '../platform/tables.ts';
import { visitsOtherwise } from '../upkeep/index.ts';
import { serviceLevel, serviceLevelPast } from '../service-levels/tables.ts';

export const referenceRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, previewCalendar, async ({ params: { id }, body, who, now }) => {
      const { after, from } = await changedRow(db, id, body, localDateAt(who.zone, now), 'look');
      const books = { before: await calendarBook(db), after: await bookWith(db, id, after) };
      const [clocks, visits] = await Promise.all([
        clocksOtherwise(db, id, from, books, now),
        visitsOtherwise(db, id, from, books),
      ]);
      return { from, clocks, visits };
    });
    serve(app, house, contracts.readReference, async ({ who, now }) => {
      const people = (wanted: SQL) =>
        db
          .select({ id: person.id, name: person.name })
          .from(person)
          .where(and(wanted, eq(person.active, true)))
          .orderBy(asc(person.name))
          .limit(500);
      const [
        calendars,
        serviceLevels,
        past,
        jobPlans,
        includes,
        classes,
        depots,
        skills,
        crafts,
        technicians,
        managers,
        known,
        kept,
        { priorities },
      ] = await Promise.all([
        db.select().from(calendar).orderBy(asc(calendar.name)).limit(500),
        db.select().from(serviceLevel).orderBy(asc(serviceLevel.name)).limit(500),
        db.select().from(serviceLevelPast).orderBy(desc(serviceLevelPast.heldUntil)).limit(2000),
        db.select().from(jobPlan).orderBy(asc(jobPlan.name)).limit(500),
        db.select().from(jobPlanIncludes),
        db.select().from(assetClass).orderBy(asc(assetClass.name)).limit(500),
        db.select({ id: depot.id, name: depot.name }).from(depot).orderBy(asc(depot.name)).limit(500),
        db.select({ id: skill.id, name: skill.name }).from(skill).orderBy(asc(skill.name)).limit(500),
        db.select({ id: craft.id, name: craft.name }).from(craft).orderBy(asc(craft.name)).limit(500),
        people(eq(person.role, 'technician')),
        people(inArray(person.role, [...WRITERS])),
        people(ne(person.role, 'storekeeper')),
        plansToDo(db),
        orderSettings(db),
      ]);
      return {
        today: localDateAt(who.zone, now),
        zone: who.zone,
        priorities,
        calendars: calendars.map(({ past: before, ...c }) => ({
          ...c,
          heldUntil: (before ?? [])
            .map((p) => p.heldUntil)
            .sort()
            .reverse(),
        })),
        serviceLevels: serviceLevels.map((l) => ({ ...l, past: past.filter((p) => p.serviceLevelId === l.id) })),
        jobPlans: jobPlans.map((p) => ({
          ...p,
          alsoSkillIds: p.alsoSkillIds ?? [],
          formIds: [...(kept.get(p.id)?.kept.formIds ?? [])],
          parts: [...(kept.get(p.id)?.kept.parts ?? [])],
          includes: includes.flatMap((i) => (i.largerId === p.id ? [i.smallerId] : [])),
        })),
        classes,
        depots,
        skills,
        crafts,
        technicians,
        managers,
        people: known,
      };
    });
  },
  { name: 'stavok-reference-routes', dependencies: ['stavok-authentication'] },
);
