// The standing's routes.
import fp from 'fastify-plugin';
import { readReliability } from '#api/reliability.ts';
import { readReview } from '#api/review.ts';
import * as contracts from '#api/standing.ts';
import type { AgreementId, Id, LocationId } from '#core/ids.ts';
import { attainmentShare, periodBefore } from '#core/standing/index.ts';
import { calendarBook } from '../calendars/index.ts';
import { sendCsv } from '../platform/csv.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { clocksOf, visitsOf } from '../orders/index.ts';
import { pledgesOf } from './pledges.ts';
import { placesIn, whereOf } from './places.ts';
import { reliabilityIn } from './reliability.ts';
import { reviewOf } from './review.ts';
import { instantsOf, periodOf } from './period.ts';
import { headOf, rowsOf } from './rows-file.ts';
import type { Told } from './counting.ts';
import { ALL, courseOf } from './course.ts';
import { figuresIn, standingPage, standingTotal, toldOf, withinCustomer } from './queries.ts';

const PAGE = 100;
const DETAIL_LIMIT = 500;

/** Where a list of standing goes on, as it was sent. */
function toldAfter(text: string | undefined): Told | null {
  if (text === undefined) return null;
  const [amiss, id] = text.split('-').map(Number);
  return { amiss: amiss ?? 0, id: id ?? 0 };
}

export const standingRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.readStanding, async (asking) => {
      const { query } = asking;
      const period = periodOf(asking);
      const limit = query.limit ?? PAGE;
      const within = withinCustomer(query.by, query.customer);
      const ask = { after: toldAfter(query.after), limit: limit + 1, within };
      const rows = await standingPage(db, query.by, period, ask);
      const items = rows.slice(0, limit);
      const last = items.at(-1);
      const told = rows.length > limit && last ? toldOf(last) : null;
      const { from, to, now } = period;
      return { items, next: told && `${told.amiss}-${told.id}`, from, to, now };
    });

    serve(app, house, contracts.readStandingTotal, async (asking) => {
      const { customer } = asking.query;
      const period = periodOf(asking);
      const earlier = { ...period, ...periodBefore(period) };
      const whose = customer === undefined ? ALL : ({ of: 'customer', id: customer } as const);
      const [total, before] = await Promise.all([standingTotal(db, period, whose), standingTotal(db, earlier, whose)]);
      return { total, before: { ...before, from: earlier.from, to: earlier.to } };
    });

    serve(app, house, contracts.readStandingBefore, async (asking) => {
      const { by, ids } = asking.query;
      const period = periodOf(asking);
      const named = ids === '' ? [] : ids.split(',').map(Number);
      const figures = await figuresIn(db, by, named, { ...period, ...periodBefore(period) });
      return { attainment: Object.fromEntries([...figures].map(([id, n]) => [String(id), attainmentShare(n)])) };
    });

    serve(app, house, contracts.standingDetail, async (asking) => {
      const { query } = asking;
      const period = periodOf(asking);
      const { by, id } = query;
      const onlyAmiss = by !== 'agreement' && by !== 'asset';
      const limit = onlyAmiss ? contracts.AMISS_SHOWN : DETAIL_LIMIT;
      const whose = by === 'place' ? await whereOf(db, id as Id<string> as LocationId) : { [`${by}Id`]: id };
      const { from, to, now, today } = period;
      const counted = { days: { from, to }, now, isAmiss: onlyAmiss };
      const ended = { days: { from, to }, isAmiss: onlyAmiss };
      const [clocks, visits, pledges] = await Promise.all([
        clocksOf(db, await calendarBook(db), now, { ...whose, counted }, limit),
        visitsOf(db, today, { ...whose, ended }, limit),
        by === 'agreement' ? pledgesOf(db, id as Id<string> as AgreementId, period) : [],
      ]);
      return { clocks, visits, onlyAmiss, pledges };
    });

    serve(app, house, contracts.readStandingCourse, (asking) => {
      const { query } = asking;
      if ((query.by === 'all') !== (query.id === undefined))
        refuse('missing', 'Name of which one, or ask for all.', 'id');
      return courseOf(db, { of: query.by, id: query.id ?? 0 }, periodOf(asking));
    });

    serve(app, house, contracts.readStandingPlaces, (asking) => placesIn(db, asking.params.id, periodOf(asking)));
    serve(app, house, readReview, (asking) => reviewOf(db, asking.who, asking.params.id, periodOf(asking)));
    serve(app, house, readReliability, async (asking) => {
      const period = periodOf(asking);
      const { from, to } = instantsOf(period);
      const found = await reliabilityIn(db, { from, to: to < period.now ? to : period.now });
      return { from: period.from, to: period.to, ...found };
    });
    serve(app, house, contracts.standingCsv, (asking): Promise<never> => {
      const { query, reply } = asking;
      const period = periodOf(asking);
      const name = `standing-${query.by}-${period.from}-${period.to}.csv`;
      return Promise.resolve(
        sendCsv(reply, name, headOf(query.by), rowsOf(db, query.by, period, withinCustomer(query.by, query.customer))),
      );
    });
  },
  { name: 'stavok-standing-routes', dependencies: ['stavok-authentication'] },
);
