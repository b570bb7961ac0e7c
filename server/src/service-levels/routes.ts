// Service levels: adding them, and changing them from a day on.
import fp from 'fastify-plugin';
import { and, eq, inArray } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import * as contracts from '#api/setup.ts';
import { checkNewVersion, checkPledge, type Pledge } from '#core/service-levels/index.ts';
import { addDays, sayDay } from '#core/time/index.ts';
import { calendar } from '../calendars/tables.ts';
import type { Tx } from '../platform/database.ts';
import { serve, type House } from '../platform/http.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { writeNamed } from '../platform/writing.ts';
import { serviceLevel, serviceLevelPast } from './tables.ts';

type ServiceLevelBody = Asked<typeof contracts.addServiceLevel>['body'];

export const serviceLevelRoutes = fp<{ house: House }>(
  async (app, { house }) => {
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
    /** Who left since is named too: whoever writes it again takes them out. */
    const checkPeople = async (tx: Tx, pledge: Pledge | null): Promise<void> => {
      const named = [...new Set((pledge?.warnings ?? []).flatMap((w) => w.people))];
      if (named.length === 0) return;
      const here = await tx.db
        .select({ id: person.id })
        .from(person)
        .where(and(inArray(person.id, named), eq(person.active, true)));
      if (here.length < named.length)
        refuse('not-found', 'Somebody who would be told is no longer here; take them out.', 'pledge.warnings');
    };
    serve(app, house, contracts.addServiceLevel, ({ body, write }) =>
      writeNamed(write, 'service level', `added ${body.name}`, async (tx) => {
        await checkCalendars(tx, body.targets, body.pledge ?? null);
        await checkPeople(tx, body.pledge ?? null);
        const [row] = await tx.db
          .insert(serviceLevel)
          .values({ ...body, pledge: pledgeOf(body) })
          .$returningId();
        return { id: row?.id as number };
      }),
    );
    serve(app, house, contracts.changeServiceLevel, async ({ params, body, write }) => {
      const { version, ...next } = body;
      await writeNamed(write, 'service level', `changed ${body.name} from ${sayDay(body.holdsFrom)}`, async (tx) => {
        const [row] = await tx.db.select().from(serviceLevel).where(eq(serviceLevel.id, params.id)).for('update');
        if (!row) refuse('not-found', 'That service level does not exist.');
        if (row.version !== version) stale(row);
        accept(checkNewVersion(body.holdsFrom, row.holdsFrom));
        await checkCalendars(tx, body.targets, body.pledge ?? null);
        await checkPeople(tx, body.pledge ?? null);
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
  },
  { name: 'stavok-service-level-routes', dependencies: ['stavok-authentication'] },
);
