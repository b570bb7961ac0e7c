// The standing's routes.
import fp from 'fastify-plugin';
import type { Asked } from '#api/contract.ts';
import { readDerivations } from '#api/derivations.ts';
import { readReliability } from '#api/reliability.ts';
import * as contracts from '#api/standing.ts';
import type { AgreementId } from '#core/ids.ts';
import { sayAmountOf } from '#core/money.ts';
import { addDays, daysBetween, localDateAt, type Instant, type LocalDate } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import { sendCsv } from '../platform/csv.ts';
import type { Db } from '../platform/database.ts';
import { sendJsonFile } from '../platform/json-file.ts';
import { serve, type House, type Person } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { clocksOf, visitsOf } from '../orders/index.ts';
import { derivationsOf } from './derivations.ts';
import { pledgesOf, pledging } from './pledges.ts';
import { reliabilityIn } from './reliability.ts';
import { statementPieces } from './statement.ts';
import { instantsOf, standingRows, standingTotal, type AskedPeriod } from './queries.ts';

const MAX_PERIOD_DAYS = 1100;
const PAGE = 100;
const DETAIL_LIMIT = 500;

type PeriodAsking = {
  readonly query: { readonly from: LocalDate; readonly to: LocalDate };
  readonly who: Person;
  readonly now: Instant;
};

function periodOf({ query, who, now }: PeriodAsking): AskedPeriod {
  if (query.to < query.from)
    refuse('invalid', 'The period ends before it starts; give an end on or after the start.', 'to');
  if (daysBetween(query.from, query.to) > MAX_PERIOD_DAYS)
    refuse('too-large', `A period is at most ${MAX_PERIOD_DAYS} days long.`, 'to');
  return { from: query.from, to: query.to, zone: who.zone, now, today: localDateAt(who.zone, now) };
}

const PLEDGE_HEAD = ['credit owed', 'currency', 'availability agreed %', 'availability %'];
const NOT_PLEDGED = PLEDGE_HEAD.map(() => '');

const percent = (share: number | null): string => (share === null ? '' : (share * 100).toFixed(1));

type By = Asked<typeof contracts.standingCsv>['query']['by'];

const headOf = (by: By): string[] => [
  'number',
  by,
  'customer',
  'promises met',
  'promises missed',
  'attainment %',
  'visits owed',
  'visits in window',
  'upkeep in window %',
  'declined',
  ...(by === 'agreement' ? PLEDGE_HEAD : []),
];

/** What was pledged to these agreements and came of it, in cells of a file. */
async function pledgedOf(db: Db, ids: readonly number[], period: AskedPeriod): Promise<Map<number, string[]>> {
  const told = new Map<number, string[]>();
  for (const id of await pledging(db, ids as AgreementId[])) {
    const pledges = await pledgesOf(db, id, period);
    const credit = pledges.reduce((sum, p) => sum + p.amount, 0);
    const available = pledges.flatMap((p) => (p.availability ? [p.availability] : []));
    told.set(id, [
      pledges.length === 0 ? '' : sayAmountOf(credit, pledges[0]?.currency).replaceAll(',', ''),
      pledges[0]?.currency ?? '',
      available.map((a) => (a.target / 100).toFixed(2)).join('; '),
      available.map((a) => percent(a.share)).join('; '),
    ]);
  }
  return told;
}

/** The rows of the whole file, piece by piece. */
async function* rowsOf(db: Db, by: By, period: AskedPeriod) {
  for (let after = 0; ;) {
    const page = await standingRows(db, by, period, after, 1000);
    const pledged =
      by === 'asset'
        ? null
        : await pledgedOf(
            db,
            page.map((r) => r.id),
            period,
          );
    yield page.map((r) => [
      r.detail,
      r.label,
      r.customer,
      r.met,
      r.missed,
      percent(r.attainment),
      r.owed,
      r.inWindow,
      percent(r.compliance),
      r.declined,
      ...(pledged ? (pledged.get(r.id) ?? NOT_PLEDGED) : []),
    ]);
    const last = page[page.length - 1];
    if (page.length < 1000 || !last) return;
    after = last.id;
  }
}

export const standingRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.readStanding, async (asking) => {
      const { query } = asking;
      const period = periodOf(asking);
      const limit = query.limit ?? PAGE;
      const [rows, total] = await Promise.all([
        standingRows(db, query.by, period, Number(query.after ?? 0) || 0, limit + 1),
        standingTotal(db, period),
      ]);
      const items = rows.slice(0, limit);
      return {
        items,
        next: rows.length > limit ? String(items[items.length - 1]?.id) : null,
        total,
        from: period.from,
        to: period.to,
        now: period.now,
      };
    });

    serve(app, house, contracts.standingDetail, async (asking) => {
      const { query } = asking;
      const period = periodOf(asking);
      if ((query.agreement === undefined) === (query.asset === undefined))
        refuse('invalid', 'Ask for one agreement or one asset.', 'agreement');
      const { from, to } = instantsOf(period);
      const subject = query.agreement !== undefined ? { agreementId: query.agreement } : { assetId: query.asset };
      const [clocks, visits, pledges] = await Promise.all([
        clocksOf(db, await calendarBook(db), period.now, { ...subject, dueFrom: from, dueTo: to }, DETAIL_LIMIT),
        visitsOf(
          db,
          period.today,
          {
            ...subject,
            windowFrom: period.from,
            windowTo: period.to < period.today ? addDays(period.to, 1) : period.today,
          },
          DETAIL_LIMIT,
        ),
        query.agreement === undefined ? [] : pledgesOf(db, query.agreement, period),
      ]);
      return {
        clocks: clocks.filter((c) => c.state === 'met' || c.state === 'missed'),
        visits: visits.filter((v) => v.state !== 'held'),
        pledges,
      };
    });

    serve(app, house, readReliability, async (asking) => {
      const period = periodOf(asking);
      const { from, to } = instantsOf(period);
      const { models, machines } = await reliabilityIn(db, { from, to: to < period.now ? to : period.now });
      return { from: period.from, to: period.to, models, machines };
    });
    serve(app, house, contracts.statementData, (asking) => {
      const { query, reply } = asking;
      const period = periodOf(asking);
      const name = `statement-${query.customer}-${period.from}-${period.to}.json`;
      return sendJsonFile(reply, name, statementPieces(db, query.customer, period));
    });
    serve(app, house, readDerivations, ({ params, query, now }) => derivationsOf(db, params.id, query, now));
    serve(app, house, contracts.standingCsv, (asking): Promise<never> => {
      const { query, reply } = asking;
      const period = periodOf(asking);
      const name = `standing-${query.by}-${period.from}-${period.to}.csv`;
      return Promise.resolve(sendCsv(reply, name, headOf(query.by), rowsOf(db, query.by, period)));
    });
  },
  { name: 'stavok-standing-routes', dependencies: ['stavok-authentication'] },
);
