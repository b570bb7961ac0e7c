// The routes of mail: for the office.
import fp from 'fastify-plugin';
import { eq } from 'drizzle-orm';
import * as contracts from '#api/mailbox.ts';
import { OFFICE } from '#core/people.ts';
import { asId, type MailId } from '#core/ids.ts';
import { readContent } from '../platform/content.ts';
import { authorised, serve, type House } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { answerOf, joinFrom, nameSenderOf, putAway, raiseFrom } from './acts.ts';
import { listMailOf, readMailOf } from './queries.ts';
import { mail } from './tables.ts';

const done = { done: true as const };

export const mailboxRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    const { db } = database;
    serve(app, house, contracts.listMail, ({ query, now }) => listMailOf(db, query, now));
    serve(app, house, contracts.readMail, ({ params }) => readMailOf(db, params.id));
    serve(app, house, contracts.raiseFromMail, async ({ params, body, who, now }) => {
      const id = await raiseFrom(database, who, params.id, body, now);
      house.ring();
      return { id };
    });
    serve(app, house, contracts.joinFromMail, async ({ params, body, who, now }) => {
      await joinFrom(database, who, params.id, body.orderId, now);
      return done;
    });
    serve(app, house, contracts.putMailAway, async ({ params, body, who, write }) => {
      await putAway(write, who.id, params.id, body.reason);
      return done;
    });
    serve(app, house, contracts.nameSender, ({ params, body, write }) => nameSenderOf(write, params.id, body));
    serve(app, house, contracts.answerMail, async ({ params, body, who, write, now }) => {
      await answerOf(write, who, params.id, body, now);
      house.ring();
      return done;
    });
    app.get<{ Params: { id: string } }>(
      '/api/mail/:id/original',
      { schema: { summary: 'A message as it came (RFC 5322)', tags: ['mailbox'] } },
      async (request, reply) => {
        authorised(request, OFFICE);
        const id = /^[1-9]\d{0,9}$/.test(request.params.id) ? asId<MailId>(Number(request.params.id)) : null;
        const [row] = id === null ? [] : await db.select({ sha256: mail.sha256 }).from(mail).where(eq(mail.id, id));
        if (!row) refuse('not-found', 'That message does not exist.');
        // Never shown by the browser as a page of ours: whatever it holds, it is saved.
        return reply
          .type('application/octet-stream')
          .header('content-disposition', `attachment; filename="mail-${id}.eml"`)
          .send(await readContent(db, row.sha256));
      },
    );
  },
  { name: 'stavok-mailbox-routes', dependencies: ['stavok-authentication'] },
);
