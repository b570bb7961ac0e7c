// The outbox: reading what left, sending again what could not, and the words of messages.
import { and, desc, eq, lt } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/outbox.ts';
import { checkTemplate, LANGUAGES } from '#core/telling.ts';
import { serve, type House } from '../platform/http.ts';
import { leaveJob } from '../platform/jobs.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import { messageTemplate, outbox } from './tables.ts';
import { DELIVERING } from './telling.ts';

const PAGE = 50;

export const outboxRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;

    serve(app, house, contracts.listOutbox, async ({ query, now }) => {
      const limit = query.limit ?? PAGE;
      const rows = await db
        .select()
        .from(outbox)
        .where(
          and(
            query.state ? eq(outbox.state, query.state) : undefined,
            query.after ? lt(outbox.id, Number(query.after)) : undefined,
          ),
        )
        .orderBy(desc(outbox.id))
        .limit(limit + 1);
      const items = rows.slice(0, limit);
      return {
        items: items.map(({ aboutSubject, aboutId, ...row }) => ({
          ...row,
          about: { subject: aboutSubject, id: aboutId },
        })),
        next: rows.length > limit ? String(items[items.length - 1]?.id) : null,
        now,
      };
    });

    serve(app, house, contracts.sendAgain, async ({ params, now, write }) => {
      await write(async (tx, told) => {
        const [row] = await tx.db.select().from(outbox).where(eq(outbox.id, params.id)).for('update');
        if (!row) refuse('not-found', 'That message does not exist.');
        if (row.state !== 'dead')
          refuse('wrong-stage', row.state === 'sent' ? 'It was sent already.' : 'It is about to be sent.');
        await tx.db.update(outbox).set({ state: 'waiting', problem: null }).where(eq(outbox.id, row.id));
        await leaveJob(tx, DELIVERING, { id: row.id }, { key: `outbox ${row.id} again ${now}` });
        told({ subject: 'message', id: row.id, text: `sent again to ${row.toName}` });
      });
      house.ring();
      return { done: true as const };
    });

    serve(app, house, contracts.listTemplates, async () => {
      const own = new Map((await db.select().from(messageTemplate)).map((t) => [`${t.kind} ${t.language}`, t]));
      return {
        items: house.messages.flatMap(({ kind, says, places, words }) =>
          LANGUAGES.map((language) => {
            const { subject, body, version } = own.get(`${kind} ${language}`) ?? { ...words[language], version: 0 };
            return { kind, says, places: [...places], language, subject, body, version };
          }),
        ),
      };
    });

    serve(app, house, contracts.changeTemplate, ({ params: { kind, language }, body, write }) =>
      write(async (tx, told) => {
        const known = house.messages.find((m) => m.kind === kind);
        if (!known) refuse('not-found', 'There is no such message.');
        const which = and(eq(messageTemplate.kind, kind), eq(messageTemplate.language, language));
        const [held] = await tx.db.select().from(messageTemplate).where(which).for('update');
        if ((held?.version ?? 0) !== body.version) stale(held ?? { ...known.words[language], version: 0 });
        if (body.subject.trim() === '' && body.body.trim() === '') {
          await tx.db.delete(messageTemplate).where(which);
          told({ subject: 'message template', id: 0, text: `${kind} in ${language}: the words it comes with` });
          return { version: 0 };
        }
        const words = accept(checkTemplate(body, known.places));
        const version = body.version + 1;
        await tx.db
          .insert(messageTemplate)
          .values({ kind, language, ...words, version })
          .onDuplicateKeyUpdate({ set: { ...words, version } });
        told({ subject: 'message template', id: 0, text: `${kind} in ${language}: other words` });
        return { version };
      }),
    );
  },
  { name: 'stavok-outbox-routes', dependencies: ['stavok-authentication'] },
);
