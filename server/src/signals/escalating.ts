// Who is told of alerts that nobody has acknowledged: by the steps of their rule, one after the other, each once.
import { and, asc, eq, gt, inArray, isNull, lte, sql } from 'drizzle-orm';
import type { AlertId, PersonId } from '#core/ids.ts';
import { isInHours, sayExcess } from '#core/signals/index.ts';
import { linkTo } from '#core/telling.ts';
import { DAY, instant, MINUTE, sayDate, toWallTime, type Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { tellPeople } from '../outbox/index.ts';
import { placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import type { MessageKind } from '../platform/message-kind.ts';
import { person } from '../platform/tables.ts';
import { alert, alertRule, alertTold } from './tables.ts';

export const ALERT_MESSAGE: MessageKind = {
  kind: 'alert',
  says: 'To those whom a rule tells, when an alert is active and nobody has acknowledged it',
  places: ['name', 'rule', 'text', 'machine', 'place', 'since', 'link'],
  words: {
    en: {
      subject: '{rule}: {machine}',
      body: '{name}, since {since}:\n{machine}, {place}\n{text}\n{link}\n',
    },
    pt: {
      subject: '{rule}: {machine}',
      body: '{name}, desde {since}:\n{machine}, {place}\n{text}\n{link}\n',
    },
  },
};

const AT_ONCE = 200;
/** What nobody answered for so long has been told often enough. */
const GIVEN_UP_MS = 2 * DAY;

type Due = { readonly id: AlertId; readonly step: number; readonly personId: PersonId };

/** Alerts that somebody is told of by a step of their rule now: it is time, nobody has acknowledged, and it is among their hours. */
async function dueNow(db: Db, now: Instant): Promise<Due[]> {
  const rows = await db
    .select({ id: alert.id, toldAt: alert.toldAt, tells: alertRule.tells })
    .from(alert)
    .innerJoin(alertRule, eq(alertRule.id, alert.ruleId))
    .where(
      and(
        ...[isNull(alert.endedAt), isNull(alert.withdrawnAt), isNull(alert.acknowledgedAt)],
        ...[
          gt(alert.toldAt, instant(now - GIVEN_UP_MS)),
          lte(alert.toldAt, now),
          gt(sql`json_length(${alertRule.tells})`, 0),
        ],
      ),
    )
    .orderBy(asc(alert.toldAt));
  const steps = rows.flatMap((r) =>
    (r.tells ?? []).flatMap((t, step) =>
      (r.toldAt ?? 0) + t.afterMinutes * MINUTE <= now
        ? [{ id: r.id, step, personId: t.personId, hours: t.hours }]
        : [],
    ),
  );
  if (steps.length === 0) return [];
  const [told, people] = await Promise.all([
    db
      .select({ id: alertTold.alertId, step: alertTold.step })
      .from(alertTold)
      .where(inArray(alertTold.alertId, [...new Set(steps.map((s) => s.id))])),
    db
      .select({ id: person.id, zone: person.zone })
      .from(person)
      .where(inArray(person.id, [...new Set(steps.map((s) => s.personId))])),
  ]);
  const done = new Set(told.map((t) => `${t.id}/${t.step}`));
  const zones = new Map(people.map((p) => [p.id, p.zone]));
  return steps
    .filter((s) => {
      const zone = zones.get(s.personId);
      return zone !== undefined && !done.has(`${s.id}/${s.step}`) && isInHours(s.hours, toWallTime(zone, now).minutes);
    })
    .slice(0, AT_ONCE);
}

/** Tells one person of one alert; nothing where somebody has acknowledged it meanwhile, or another server told. */
async function tellStep(tx: Tx, { id, step, personId }: Due, now: Instant): Promise<boolean> {
  const [found] = await tx.db.select().from(alert).where(eq(alert.id, id)).for('update');
  if (!found || found.acknowledgedAt !== null || found.endedAt !== null || found.withdrawnAt !== null) return false;
  const [told] = await tx.db
    .select({ step: alertTold.step })
    .from(alertTold)
    .where(and(eq(alertTold.alertId, id), eq(alertTold.step, step)));
  if (told) return false;
  const [[rule], [machine], [who]] = await Promise.all([
    tx.db.select().from(alertRule).where(eq(alertRule.id, found.ruleId)),
    tx.db
      .select({ tag: asset.tag, model: asset.model, locationId: asset.locationId, path: location.path })
      .from(asset)
      .leftJoin(location, eq(location.id, asset.locationId))
      .where(eq(asset.id, found.assetId)),
    tx.db.select({ name: person.name, zone: person.zone }).from(person).where(eq(person.id, personId)),
  ]);
  if (!rule || !machine || !who) return false;
  await tx.db.insert(alertTold).values({ alertId: id, step, personId, at: now });
  const places = await placesOf(tx.db, [{ id: machine.locationId, path: machine.path }]);
  const { date, minutes } = toWallTime(who.zone, found.startedAt);
  const two = (n: number): string => String(n).padStart(2, '0');
  await tellPeople(tx, ALERT_MESSAGE, [personId], {
    key: `alert ${id} step ${step}`,
    values: {
      ...{
        name: who.name,
        rule: rule.name,
        text: sayExcess(rule, found.worst),
        machine: `${machine.tag} ${machine.model}`,
      },
      place: places.of(machine.locationId).label,
      since: `${sayDate(date)}, ${two(Math.floor(minutes / 60))}:${two(minutes % 60)}`,
      link: linkTo(found.orderId === null ? '/signals' : `/orders/${found.orderId}`),
    },
    about: { subject: 'alert', id },
    now,
  });
  return true;
}

/** Tells whoever is to be told now; gives how many that were. */
export async function escalate(database: Pick<Database, 'db' | 'transact'>, now: Instant): Promise<number> {
  let told = 0;
  for (const due of await dueNow(database.db, now))
    if (await database.transact((tx) => tellStep(tx, due, now))) told += 1;
  return told;
}
