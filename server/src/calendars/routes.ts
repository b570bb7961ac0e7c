// Calendars: adding and changing them, and public holidays to begin with.
import fp from 'fastify-plugin';
import Holidays from 'date-holidays';
import { eq } from 'drizzle-orm';
import * as contracts from '#api/setup.ts';
import { readCalendar, type Calendar } from '#core/calendars/index.ts';
import { localDateAt, sayDay } from '#core/time/index.ts';
import { calendarChanged } from '../platform/calendar-changed.ts';
import { serve, type House } from '../platform/http.ts';
import { accept, refuse } from '../platform/refuse.ts';
import { writeNamed } from '../platform/writing.ts';
import { changedRow } from './changing.ts';
import { calendar } from './tables.ts';

/** A calendar as columns; what it was before stays with it. */
const columnsOf = ({ past, weekly, closed, extraOpen, ...named }: Calendar) => ({
  ...named,
  weekly: weekly.map((spans) => [...spans]),
  closed: [...closed],
  extraOpen: extraOpen.map((d) => ({ ...d, spans: [...d.spans] })),
  past: past && past.length > 0 ? [...past] : null,
});

export const calendarRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    serve(app, house, contracts.addCalendar, async ({ body, write }) => {
      const read = accept(readCalendar(body));
      return writeNamed(write, 'calendar', `added ${read.name}`, async (tx) => {
        const [row] = await tx.db.insert(calendar).values(columnsOf(read)).$returningId();
        return { id: row?.id as number };
      });
    });
    serve(app, house, contracts.changeCalendar, async ({ params, body, write, who, now }) => {
      const { holdsFrom = null, name } = body;
      const says = `changed ${name}${holdsFrom === null ? '' : ` from ${sayDay(holdsFrom)}`}`;
      await writeNamed(write, 'calendar', says, async (tx) => {
        const { row, after, from } = await changedRow(tx.db, params.id, body, localDateAt(who.zone, now), 'lock');
        await tx.db
          .update(calendar)
          .set({ ...columnsOf(after), version: row.version + 1 })
          .where(eq(calendar.id, params.id));
        await calendarChanged(tx, params.id, from);
        return { id: params.id };
      });
      house.ring();
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
