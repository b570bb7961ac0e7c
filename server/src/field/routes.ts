// The routes of the field: what a phone holds, the acts it sends, and the photos they name.
import fp from 'fastify-plugin';
import * as contracts from '#api/field.ts';
import type { OrderId } from '#core/ids.ts';
import { mediaTypeOf } from '../assets/index.ts';
import { followPhone, leavePhone } from '../outbox/index.ts';
import { keepContent } from '../platform/content.ts';
import { serve, type House, type Person } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import type { Instant } from '#core/time/index.ts';
import { readDays } from './days.ts';
import { readOrdersOf } from './orders.ts';
import { fieldPhoto } from './tables.ts';
import { takeActs } from './taking.ts';

/** Kept once under its name, however often it is sent. */
async function keepPhoto(write: Write, who: Person, id: string, bytes: Buffer, now: Instant): Promise<void> {
  const mediaType = await mediaTypeOf('photo', bytes);
  if (mediaType === 'application/pdf') refuse('malformed', 'This is a PDF, not a photo.', 'file');
  await write(async (tx) => {
    const sha256 = await keepContent(tx, bytes, mediaType);
    await tx.db
      .insert(fieldPhoto)
      .values({ id, personId: who.id, sha256, at: now })
      .onDuplicateKeyUpdate({ set: { id } });
  });
}

export const fieldRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    serve(app, house, contracts.readField, ({ who, now }) =>
      readDays(database.db, who, now, house.config.pushKeys?.publicKey ?? null),
    );
    serve(app, house, contracts.followPhone, async ({ body, who, now, write }) => {
      await write((tx, told) => followPhone(tx, told, who, body, house.config, now));
      return { done: true as const };
    });
    serve(app, house, contracts.leavePhone, async ({ body, who, write }) => {
      await write((tx, told) => leavePhone(tx, told, who, body.endpoint));
      return { done: true as const };
    });
    serve(app, house, contracts.readFieldOrders, ({ query, who, now }) =>
      readOrdersOf(database.db, who, query.ids.split(',').map(Number) as OrderId[], now),
    );
    serve(app, house, contracts.sendActs, async ({ body, who, now, request }) => {
      const failed = (fault: unknown): void => request.log.error({ err: fault }, 'an act of a phone');
      const outcomes = await takeActs(database, who, body.acts, now, failed);
      return { now, outcomes: outcomes.map((o) => (o.kind === 'refused' ? { ...o, refusals: [...o.refusals] } : o)) };
    });
    serve(app, house, contracts.sendPhoto, async ({ params, body, who, now, write }) => {
      await keepPhoto(write, who, params.id, body as Buffer, now);
      return { done: true as const };
    });
  },
  { name: 'stavok-field-routes', dependencies: ['stavok-authentication'] },
);
