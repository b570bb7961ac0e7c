// The agreements' routes: everybody signed in may look; coordinators, managers and administrators write.
import { eq } from 'drizzle-orm';
import type { FastifyInstance } from 'fastify';
import fp from 'fastify-plugin';
import * as contracts from '#api/agreements/index.ts';
import { localDateAt, type LocalDate } from '#core/time/index.ts';
import { pagesOf, sendCsv } from '../platform/csv.ts';
import { seesMoney } from '#core/people.ts';
import { serve, type House } from '../platform/http.ts';
import { agreement } from './tables.ts';
import { unlessTaken } from '../platform/writing.ts';
import { amend, compareOn, previewAmendment } from './amend.ts';
import { changeAdministration, recordIndex } from './administration.ts';
import * as commands from './commands.ts';
import { documentFacts } from './document-facts.ts';
import { drawDocument } from './drawing.ts';
import { openWork } from './ending.ts';
import { readMatrix } from './matrix.ts';
import { noticesFor, seeNotice } from './notices.ts';
import { changeNumbering, readNumbering } from './numbering.ts';
import { readPrice } from './price.ts';
import { listAgreements } from './list.ts';
import { readAgreement, withoutMoney } from './queries.ts';
import { decide, listRenewals } from './renewals.ts';
import { addType, changeType, listTypes } from './types.ts';

const COVERAGE_HEAD = [
  'tag',
  'serial',
  'class',
  'model',
  'place',
  'covered as',
  'labour %',
  'parts %',
  'consumables %',
  'travel %',
  'service level',
  'also covered by',
];

const firstOfMonth = (date: LocalDate): LocalDate => `${date.slice(0, 7)}-01` as LocalDate;

/** A number as part of a file’s name: it may hold slashes. */
const fileNameOf = (number: string): string => number.replace(/[^\p{L}\p{N}.-]+/gu, '-');

/** The list, its file, and one agreement as each role may see it. */
function listRoutes(app: FastifyInstance, house: House): void {
  const { database } = house;
  serve(app, house, contracts.listAgreements, ({ query, now }) =>
    listAgreements(database.db, query, query.after, query.limit ?? 100, now),
  );
  serve(app, house, contracts.agreementsCsv, ({ query, now, who, reply }): Promise<never> => {
    async function* rows() {
      for await (const page of pagesOf((after) => listAgreements(database.db, query, after, 200, now)))
        yield page.map((a) => [
          a.number,
          a.name,
          a.customer.name,
          a.stage,
          a.from,
          a.to,
          a.noticeBy,
          a.lines,
          a.schedules,
        ]);
    }
    const head = ['number', 'name', 'customer', 'stage', 'from', 'to', 'notice by', 'coverage lines', 'schedules'];
    return Promise.resolve(sendCsv(reply, `agreements-${localDateAt(who.zone, now)}.csv`, head, rows()));
  });
  serve(app, house, contracts.readAgreement, async ({ params, query, now, who }) => {
    const page = await readAgreement(database.db, house.lanes, params.id, now, who.zone, query.on);
    return seesMoney(who.role) ? page : withoutMoney(page);
  });
}

/** Writing a draft, its header and schedules, and the stages an agreement goes through. */
function headerRoutes(app: FastifyInstance, house: House): void {
  const { database } = house;
  serve(app, house, contracts.writeAgreement, async ({ body, who, now }) => ({
    id: await commands.writeAgreement(database, body, who, now),
  }));
  serve(app, house, contracts.changeAgreement, async ({ params, body, who, now }) => ({
    version: await commands.changeHeader(database, params.id, body, who, now),
  }));
  serve(app, house, contracts.addSchedules, async ({ params, body, who, now }) => ({
    added: await commands.addSchedules(database, params.id, body, who, now),
  }));
  serve(app, house, contracts.removeSchedule, async ({ params, who, now }) => {
    await commands.removeSchedule(database, params.id, params.schedule, who, now);
    return { done: true as const };
  });
  serve(app, house, contracts.putInForce, async ({ params, body, who, now }) => ({
    version: await commands.setInForce(database, params.id, body.version, who, now),
  }));
  serve(app, house, contracts.moveStage, async ({ params, body, who, now }) => ({
    version: await commands.moveStage(database, params.id, body, who, now),
  }));
  serve(app, house, contracts.openWork, ({ params }) => openWork(database.db, params.id));
}

/** Who looks after an agreement, index values, notices, and the scheme of numbers. */
function careRoutes(app: FastifyInstance, house: House): void {
  const { database } = house;
  serve(app, house, contracts.changeAdministration, async ({ params, body, who, now }) => ({
    version: await changeAdministration(database, params.id, body, who, now),
  }));
  serve(app, house, contracts.addIndexValue, async ({ params, body, who, now }) => ({
    version: await recordIndex(database, params.id, body, who, now),
  }));
  serve(app, house, contracts.readNotices, ({ who, now }) =>
    noticesFor(database.db, who.id, localDateAt(who.zone, now)),
  );
  serve(app, house, contracts.seeNotice, ({ params, who, now, write }) =>
    write(async (tx, told) => {
      await seeNotice(tx, params.id, who, now);
      told({ subject: 'notice', id: params.id, text: 'seen' });
      return { done: true as const };
    }),
  );
  serve(app, house, contracts.readNumbering, async () => {
    const { pattern, next, version } = await readNumbering(database.db);
    return { pattern, next, version };
  });
  serve(app, house, contracts.changeNumbering, ({ body, write }) =>
    write(async (tx, told) => {
      await changeNumbering(tx, body);
      told({
        subject: 'numbering',
        id: 0,
        text: `agreements numbered ${body.pattern}, next ${body.next}`,
      });
      return { done: true as const };
    }),
  );
}

/** Coverage, counted rights, amendments, price and renewals. */
function termRoutes(app: FastifyInstance, house: House): void {
  const { database } = house;
  serve(app, house, contracts.changeLines, async ({ params, body, who, now }) => {
    await commands.changeLines(database, params.id, body.changes, who, now);
    return { done: true as const };
  });
  serve(app, house, contracts.setAllowances, async ({ params, body, who, now }) => ({
    version: await commands.setAllowances(database, params.id, body, who, now),
  }));
  serve(app, house, contracts.readMatrix, ({ params, query, who, now }) => {
    const today = localDateAt(who.zone, now);
    const ask = { on: query.on ?? today, show: query.show ?? 'all', after: query.after, limit: query.limit ?? 100 };
    return readMatrix(database.db, house.lanes, params.id, ask, today, now);
  });
  serve(app, house, contracts.previewAmendment, ({ params, body, who, now }) =>
    previewAmendment(database, params.id, body, who, now),
  );
  serve(app, house, contracts.amend, async ({ params, body, who, now }) => ({
    version: await amend(database, params.id, body, who, now),
  }));
  serve(app, house, contracts.compareVersions, ({ params, query }) =>
    compareOn(database.db, params.id, query.a, query.b),
  );
  serve(app, house, contracts.readPrice, ({ params, query, who, now }) =>
    readPrice(database.db, params.id, query.from ?? firstOfMonth(localDateAt(who.zone, now)), query.months ?? 12),
  );
  serve(app, house, contracts.listRenewals, ({ query, who, now }) =>
    listRenewals(database.db, localDateAt(who.zone, now), query.days ?? 90),
  );
  serve(app, house, contracts.decideRenewal, async ({ params, body, who, now }) => ({
    version: await decide(database, params.id, body, who, now),
  }));
}

/** The provider’s own kinds of agreement. */
function typeRoutes(app: FastifyInstance, house: House): void {
  const { database } = house;
  serve(app, house, contracts.listAgreementTypes, async () => ({ items: await listTypes(database.db) }));
  const named = <T>(work: () => Promise<T>): Promise<T> =>
    unlessTaken('There is an agreement type of that name already.', 'name', work);
  serve(app, house, contracts.addAgreementType, ({ body, write }) =>
    named(() =>
      write(async (tx, told) => {
        const id = await addType(tx, body);
        told({ subject: 'agreement type', id, text: `added ${body.name}` });
        return { id };
      }),
    ),
  );
  serve(app, house, contracts.changeAgreementType, ({ params, body, write }) =>
    named(() =>
      write(async (tx, told) => {
        await changeType(tx, params.id, body);
        told({ subject: 'agreement type', id: params.id, text: `changed ${body.name}` });
        return { done: true as const };
      }),
    ),
  );
}

/** What is printed or saved of one agreement. */
function fileRoutes(app: FastifyInstance, house: House): void {
  const { database } = house;
  serve(app, house, contracts.agreementPdf, async ({ params, who, now, reply }): Promise<never> => {
    const page = await readAgreement(database.db, house.lanes, params.id, now, who.zone);
    const facts = await documentFacts(database.db, params.id, localDateAt(who.zone, now));
    return reply
      .type('application/pdf')
      .header('content-disposition', `inline; filename="${fileNameOf(page.number)}.pdf"`)
      .send(await drawDocument({ page, facts })) as never;
  });
  serve(app, house, contracts.coverageCsv, async ({ params, query, who, now, reply }): Promise<never> => {
    const today = localDateAt(who.zone, now);
    const on = query.on ?? today;
    const [row] = await database.db
      .select({ number: agreement.number })
      .from(agreement)
      .where(eq(agreement.id, params.id));
    async function* rows() {
      for await (const page of pagesOf((after) =>
        readMatrix(database.db, house.lanes, params.id, { on, show: 'all', after, limit: 1000 }, today, now),
      ))
        yield page.map((m) => [
          m.tag,
          m.serial,
          m.className,
          `${m.maker} ${m.model}`,
          m.place,
          m.reach ?? 'not covered by this agreement',
          m.shares?.labour ?? null,
          m.shares?.parts ?? null,
          m.shares?.consumables ?? null,
          m.shares?.travel ?? null,
          m.serviceLevel,
          m.others.join('; '),
        ]);
    }
    return sendCsv(reply, `${fileNameOf(row?.number ?? '')}-coverage-${on}.csv`, COVERAGE_HEAD, rows());
  });
}

export const agreementRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    for (const routes of [listRoutes, headerRoutes, careRoutes, termRoutes, typeRoutes, fileRoutes]) routes(app, house);
  },
  { name: 'stavok-agreement-routes', dependencies: ['stavok-authentication'] },
);
