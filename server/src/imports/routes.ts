// Imports: a file is handed in, mapped, looked through in a dry run, loaded by a worker, and undone as a whole.
import fp from 'fastify-plugin';
import * as contracts from '#api/imports.ts';
import { previewImport, runImport } from '#api/register.ts';
import { localDateAt } from '#core/time/index.ts';
import { sendCsv } from '../platform/csv.ts';
import { serve, type House } from '../platform/http.ts';
import * as commands from './commands.ts';
import { onThread } from './pool.ts';

export const importRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    const at = { db, url: house.config.databaseUrl };

    serve(app, house, previewImport, ({ body, now, who }) =>
      onThread('whole', { url: at.url, text: body.text, today: localDateAt(who.zone, now), load: null }),
    );
    serve(app, house, runImport, ({ body, now, who }) =>
      onThread('whole', {
        url: at.url,
        text: body.text,
        today: localDateAt(who.zone, now),
        load: { who, fileName: body.fileName, now },
      }),
    );
    serve(app, house, contracts.beginImport, ({ query, body, who, now, write }) =>
      commands.handIn({ ...at, who, now, write }, body as Buffer, query),
    );
    serve(app, house, contracts.setImport, ({ params, body, who, now, write }) =>
      commands.mapColumns({ ...at, who, now, write }, params.id, body),
    );
    serve(app, house, contracts.readImport, ({ params, who, now }) =>
      commands.readImport({ ...at, who, now }, params.id),
    );
    serve(app, house, contracts.startImport, async ({ params, who, now, write }) => {
      await commands.beginLoading({ ...at, who, now, write }, params.id);
      house.ring();
      return { done: true as const };
    });
    serve(app, house, contracts.cancelImport, async ({ params, who, now, write }) => {
      await commands.stop({ ...at, who, now, write }, params.id);
      return { done: true as const };
    });
    serve(app, house, contracts.undoImport, async ({ params, who, now, write }) => {
      await commands.takeBack({ ...at, who, now, write }, params.id);
      return { done: true as const };
    });
    serve(app, house, contracts.listImports, async () => ({ items: await commands.latestImports(db) }));
    serve(app, house, contracts.importRemarksCsv, async ({ params, reply, now, who }): Promise<never> => {
      const bad = await commands.remarksOf({ ...at, now, who }, params.id);
      async function* rows() {
        yield await Promise.resolve(bad.map((b) => [b.line, b.column, b.message]));
      }
      return sendCsv(reply, `import-${params.id}-remarks.csv`, ['line', 'column', 'what would be right'], rows());
    });
  },
  { name: 'stavok-import-routes', dependencies: ['stavok-authentication'] },
);
