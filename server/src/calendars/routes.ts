// Calendars: adding and changing them, and public holidays to begin with.
import fp from 'fastify-plugin';
import Holidays from 'date-holidays';
import { eq } from 'drizzle-orm';
import * as contracts from '#api/setup.ts';
import { readCalendar } from '#core/calendars/index.ts';
import { serve, type House } from '../platform/http.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import { writeNamed } from '../platform/writing.ts';
import { calendar } from './tables.ts';

export const calendarRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    serve(app, house, contracts.addCalendar, async ({ body, write }) => {
      const read = accept(readCalendar(body));
      return writeNamed(write, 'calendar', `added ${read.name}`, async (tx) => {
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
    serve(app, house, contracts.changeCalendar, async ({ params, body, write }) => {
      const read = accept(readCalendar(body));
      await writeNamed(write, 'calendar', `changed ${read.name}`, async (tx) => {
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
    serve(app, house, contracts.proposeHolidays, async ({ query }) => {
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
  },
  { name: 'stavok-calendar-routes', dependencies: ['stavok-authentication'] },
);
