// Who may come in: people with their roles, and gateways with their keys.
import { and, asc, desc, eq, ne } from 'drizzle-orm';
import type { FastifyInstance } from 'fastify';
import fp from 'fastify-plugin';
import type { Asked } from '#api/contract.ts';
import { addPerson, changePerson, listPeople } from '#api/session.ts';
import { addGateway, FORMER_KEY_DAYS, listGateways, revokeGateway, rotateGateway } from '#api/setup.ts';
import type { CalendarId, CraftId, PersonId } from '#core/ids.ts';
import { DAY, instant, parseZone, type Zone } from '#core/time/index.ts';
import { calendar } from '../calendars/tables.ts';
import { craft } from '../labour/tables.ts';
import { hashKey, hashPassword, newKey } from '../platform/auth.ts';
import type { Tx } from '../platform/database.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse, Refused, stale } from '../platform/refuse.ts';
import { gateway, person, session } from '../platform/tables.ts';
import { writeNamed } from '../platform/writing.ts';

function knownZone(text: string): Zone {
  return (
    parseZone(text) ??
    refuse('invalid', `“${text}” is not a known time zone; use a name such as Europe/Lisbon.`, 'zone')
  );
}

type Works = { readonly craftId?: CraftId | null | undefined; readonly calendarId?: CalendarId | null | undefined };

/** Refused: a craft or a calendar that does not exist. */
async function checkWorks(tx: Tx, { craftId = null, calendarId = null }: Works): Promise<void> {
  const [[known], [held]] = await Promise.all([
    craftId === null ? [null] : tx.db.select({ id: craft.id }).from(craft).where(eq(craft.id, craftId)),
    calendarId === null ? [null] : tx.db.select({ id: calendar.id }).from(calendar).where(eq(calendar.id, calendarId)),
  ]);
  if (known === undefined) refuse('not-found', 'That craft does not exist; choose another.', 'craftId');
  if (held === undefined) refuse('not-found', 'That calendar does not exist; choose another.', 'calendarId');
}

/** Changes who somebody is here; the last administrator stays one. */
async function changeRow(
  tx: Tx,
  id: PersonId,
  body: Asked<typeof changePerson>['body'],
  zone: Zone,
  passwordHash: string | null,
): Promise<void> {
  const [row] = await tx.db.select().from(person).where(eq(person.id, id)).for('update');
  if (!row) refuse('not-found', 'That person does not exist.');
  await checkWorks(tx, body);
  const { passwordHash: _, ...known } = row;
  if (row.version !== body.version) stale(known);
  if (row.role === 'administrator' && !(body.active && body.role === 'administrator')) {
    const others = await tx.db
      .select({ id: person.id })
      .from(person)
      .where(and(eq(person.role, 'administrator'), eq(person.active, true), ne(person.id, row.id)))
      .for('update');
    if (others.length === 0)
      refuse('not-allowed', 'This is the last administrator; make somebody else one first.', 'role');
  }
  await tx.db
    .update(person)
    .set({
      name: body.name,
      role: body.role,
      zone,
      active: body.active,
      phone: body.phone,
      prefers: body.prefers,
      language: body.language,
      craftId: body.craftId,
      calendarId: body.calendarId,
      showsPrice: body.showsPrice,
      version: row.version + 1,
      ...(passwordHash && { passwordHash }),
    })
    .where(eq(person.id, row.id));
  // A new password or a closed door ends what is still open under the old one.
  if (passwordHash || !body.active) await tx.db.delete(session).where(eq(session.personId, row.id));
}

function peopleRoutes(app: FastifyInstance, house: House): void {
  const { db } = house.database;
  serve(app, house, listPeople, async () => ({
    items: await db
      .select({
        id: person.id,
        name: person.name,
        email: person.email,
        role: person.role,
        zone: person.zone,
        active: person.active,
        phone: person.phone,
        prefers: person.prefers,
        language: person.language,
        craftId: person.craftId,
        calendarId: person.calendarId,
        showsPrice: person.showsPrice,
        version: person.version,
      })
      .from(person)
      .orderBy(desc(person.active), asc(person.name))
      .limit(500),
  }));
  serve(app, house, addPerson, async ({ body, write, now }) => {
    const { password, ...named } = body;
    const zone = knownZone(named.zone);
    const passwordHash = await hashPassword(password);
    try {
      return await writeNamed(write, 'person', `added ${body.email} as ${body.role}`, async (tx) => {
        await checkWorks(tx, named);
        const [row] = await tx.db
          .insert(person)
          .values({ ...named, zone, passwordHash, createdAt: now })
          .$returningId();
        return { id: row?.id as number };
      });
    } catch (error) {
      if (error instanceof Refused && error.refusals[0]?.code === 'taken')
        refuse('taken', 'Somebody signs in with that e-mail address already.', 'email');
      throw error;
    }
  });
  serve(app, house, changePerson, async ({ params, body, write }) => {
    const zone = knownZone(body.zone);
    const passwordHash = body.password === undefined ? null : await hashPassword(body.password);
    const text = `changed ${body.name}: ${body.role}${body.active ? '' : ', may not sign in'}${passwordHash ? ', new password' : ''}`;
    await writeNamed(write, 'person', text, async (tx) => {
      await changeRow(tx, params.id, body, zone, passwordHash);
      return { id: params.id };
    });
    return { done: true as const };
  });
}

function gatewayRoutes(app: FastifyInstance, house: House): void {
  const { db } = house.database;
  serve(app, house, listGateways, async ({ now }) => {
    const rows = await db
      .select({
        ...{ id: gateway.id, name: gateway.name, createdAt: gateway.createdAt, active: gateway.active },
        formerUntil: gateway.formerUntil,
      })
      .from(gateway)
      .orderBy(desc(gateway.active), asc(gateway.name))
      .limit(500);
    return {
      items: rows.map((g) => ({
        ...g,
        formerUntil: g.active && g.formerUntil !== null && g.formerUntil > now ? g.formerUntil : null,
      })),
    };
  });
  serve(app, house, addGateway, async ({ body, write, now }) => {
    const key = newKey('gw');
    return writeNamed(write, 'gateway', `created a key for ${body.name}`, async (tx) => {
      const [row] = await tx.db
        .insert(gateway)
        .values({ name: body.name, keyHash: hashKey(key), createdAt: now })
        .$returningId();
      return { id: row?.id as number, key };
    });
  });
  serve(app, house, rotateGateway, ({ params, write, now }) => {
    const key = newKey('gw');
    return writeNamed(write, 'gateway', 'changed its key', async (tx) => {
      const [row] = await tx.db.select().from(gateway).where(eq(gateway.id, params.id)).for('update');
      if (!row) refuse('not-found', 'That gateway does not exist.');
      if (!row.active) refuse('conflict', 'Its key was revoked; create a key for a new gateway.');
      const formerUntil = instant(now + FORMER_KEY_DAYS * DAY);
      await tx.db
        .update(gateway)
        .set({ keyHash: hashKey(key), formerHash: row.keyHash, formerUntil })
        .where(eq(gateway.id, row.id));
      return { id: row.id, key };
    });
  });
  serve(app, house, revokeGateway, async ({ params, write }) => {
    await writeNamed(write, 'gateway', 'revoked its key', async (tx) => {
      const [row] = await tx.db.select().from(gateway).where(eq(gateway.id, params.id)).for('update');
      if (!row) refuse('not-found', 'That gateway does not exist.');
      await tx.db.update(gateway).set({ active: false }).where(eq(gateway.id, row.id));
      return { id: row.id };
    });
    return { done: true as const };
  });
}

export const accessRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    peopleRoutes(app, house);
    gatewayRoutes(app, house);
  },
  { name: 'stavok-access-routes', dependencies: ['stavok-authentication'] },
);
