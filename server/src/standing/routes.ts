// The standing's routes.
import fp from 'fastify-plugin';
import { correctOrder, previewCorrection, readClockHistory } from '#api/corrections.ts';
import { readDerivations } from '#api/derivations.ts';
import { readReliability } from '#api/reliability.ts';
import * as contracts from '#api/standing.ts';
import type { StandingBy, StandingRow } from '#api/standing.ts';
import { closeStandingMonth, readAdjustments, readStandingMonths } from '#api/standing-months.ts';
import type { AgreementId, Id } from '#core/ids.ts';
import { sayAmountOf } from '#core/money.ts';
import { refusal } from '#core/refusal.ts';
import { attainmentShare, periodBefore } from '#core/standing/index.ts';
import { daysBetween, localDateAt, type Instant, type LocalDate } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import { sendCsv } from '../platform/csv.ts';
import type { Db } from '../platform/database.ts';
import { sendJsonFile } from '../platform/json-file.ts';
import { serve, type House, type Person } from '../platform/http.ts';
import { onThreads } from '../platform/threads.ts';
import { refuse } from '../platform/refuse.ts';
import { clocksOf, visitsOf } from '../orders/index.ts';
import { derivationsOf } from './derivations.ts';
import { pledgesOf, pledging } from './pledges.ts';
import { reliabilityIn } from './reliability.ts';
import { STATEMENT_HEAD, statementPieces, statementRows } from './statement.ts';
import type * as thread from './thread.ts';
import { instantsOf, type AskedPeriod } from './period.ts';
import { closeMonth } from './closing.ts';
import { clockHistoryOf, correct, previewCorrectionOf } from './corrections.ts';
import type { Told, Within } from './counting.ts';
import { courseOf } from './course.ts';
import { adjustmentsOf, standingMonths } from './months.ts';
import { ALL, figuresIn, standingPage, standingTotal, toldOf, withinCustomer } from './queries.ts';

const MAX_PERIOD_DAYS = 1100;
const PAGE = 100;
const FILE_PAGE = 1000;
const DETAIL_LIMIT = 500;
const AMISS_LIMIT = 100;

const onThread = onThreads<Pick<typeof thread, 'statement'>>(
  new URL('./thread.ts', import.meta.url),
  refusal('too-large', 'That is too much to be drawn at once; choose a shorter period.', 'to'),
);

/** Where a list of standing goes on, as it was sent. */
function toldAfter(text: string | undefined): Told | null {
  if (text === undefined) return null;
  const [amiss, id] = text.split('-').map(Number);
  return { amiss: amiss ?? 0, id: id ?? 0 };
}

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

const headOf = (by: StandingBy): string[] => [
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
async function* rowsOf(db: Db, by: StandingBy, period: AskedPeriod, within: Within) {
  for (let after: Told | null = null; ;) {
    const page: StandingRow[] = await standingPage(db, by, period, { after, limit: FILE_PAGE, within });
    const pledged =
      by !== 'agreement'
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
    const last = page.at(-1);
    if (page.length < FILE_PAGE || !last) return;
    after = toldOf(last);
  }
}

export const standingRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.readStanding, async (asking) => {
      const { query } = asking;
      const period = periodOf(asking);
      const limit = query.limit ?? PAGE;
      const whose = query.customer === undefined ? ALL : ({ of: 'customer', id: query.customer } as const);
      const within = withinCustomer(query.by, query.customer);
      const [rows, total] = await Promise.all([
        standingPage(db, query.by, period, { after: toldAfter(query.after), limit: limit + 1, within }),
        standingTotal(db, period, whose),
      ]);
      const items = rows.slice(0, limit);
      const last = items.at(-1);
      const told = rows.length > limit && last ? toldOf(last) : null;
      return {
        items,
        next: told && `${told.amiss}-${told.id}`,
        total,
        from: period.from,
        to: period.to,
        now: period.now,
      };
    });

    serve(app, house, contracts.readStandingBefore, async (asking) => {
      const { query } = asking;
      const period = periodOf(asking);
      const earlier = { ...period, ...periodBefore(period) };
      const whose = query.customer === undefined ? ALL : ({ of: 'customer', id: query.customer } as const);
      const ids = query.ids === '' ? [] : query.ids.split(',').map(Number);
      const [total, figures] = await Promise.all([
        standingTotal(db, earlier, whose),
        figuresIn(db, query.by, ids, earlier),
      ]);
      return {
        ...{ from: earlier.from, to: earlier.to, total },
        attainment: Object.fromEntries([...figures].map(([id, n]) => [String(id), attainmentShare(n)])),
      };
    });

    serve(app, house, contracts.standingDetail, async (asking) => {
      const { query } = asking;
      const period = periodOf(asking);
      const { by, id } = query;
      const onlyAmiss = by !== 'agreement' && by !== 'asset';
      const limit = onlyAmiss ? AMISS_LIMIT : DETAIL_LIMIT;
      const whose = { [`${by}Id`]: id };
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

    serve(app, house, readStandingMonths, ({ now }) => standingMonths(db, now));
    serve(app, house, readAdjustments, (asking) => adjustmentsOf(db, periodOf(asking)));
    serve(app, house, closeStandingMonth, async ({ body, who, now, write }) => {
      await closeMonth(write, body, who.id, now);
      return { done: true as const };
    });

    serve(app, house, readReliability, async (asking) => {
      const period = periodOf(asking);
      const { from, to } = instantsOf(period);
      const { models, machines } = await reliabilityIn(db, { from, to: to < period.now ? to : period.now });
      return { from: period.from, to: period.to, models, machines };
    });
    serve(app, house, contracts.statementPaper, async (asking): Promise<never> => {
      const { query, reply } = asking;
      const period = periodOf(asking);
      const ask = { url: house.config.databaseUrl, customer: query.customer, period };
      const paper = Buffer.from(await onThread('statement', ask));
      const name = `statement-${query.customer}-${period.from}-${period.to}.pdf`;
      return reply
        .type('application/pdf')
        .header('content-disposition', `inline; filename="${name}"`)
        .send(paper) as never;
    });
    serve(app, house, contracts.statementCsv, (asking): Promise<never> => {
      const { query, reply } = asking;
      const period = periodOf(asking);
      const name = `statement-${query.customer}-${period.from}-${period.to}.csv`;
      return Promise.resolve(sendCsv(reply, name, STATEMENT_HEAD, statementRows(db, query.customer, period)));
    });
    serve(app, house, contracts.statementData, (asking) => {
      const { query, reply } = asking;
      const period = periodOf(asking);
      const name = `statement-${query.customer}-${period.from}-${period.to}.json`;
      return sendJsonFile(reply, name, statementPieces(db, query.customer, period));
    });
    serve(app, house, readClockHistory, ({ params, now }) => clockHistoryOf(db, params.id, now));
    serve(app, house, previewCorrection, ({ params, body, who, now }) =>
      previewCorrectionOf(house.database, who, params.id, body, now),
    );
    serve(app, house, correctOrder, async ({ params, body, who, now, write }) => {
      await correct(write, who, params.id, body, now);
      return { done: true as const };
    });
    serve(app, house, readDerivations, ({ params, query, now }) => derivationsOf(db, params.id, query, now));
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
