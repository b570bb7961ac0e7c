// Phones that browsers tell things on: kept while somebody wants it, told by their push service, and let go when that knows them no more.
import { createHash } from 'node:crypto';
import { and, count, eq, inArray } from 'drizzle-orm';
import webPush from 'web-push';
import type { PersonId } from '#core/ids.ts';
import { BY_BROWSER, isPushAddress } from '#core/telling.ts';
import type { Instant } from '#core/time/index.ts';
import type { Config } from '../platform/config.ts';
import type { Db, Tx } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import type { Told } from '../platform/writing.ts';
import { pushPhone } from './tables.ts';

type Who = { readonly id: PersonId; readonly name: string };
type Phone = { readonly endpoint: string; readonly p256dh: string; readonly auth: string };

/** Nobody carries more: an old one makes way by itself, once its push service knows it no more. */
const MOST = 10;

const idOf = (endpoint: string): string => createHash('sha256').update(endpoint).digest('hex');

/** From now on they are told by push, on this phone too. One that was another's is theirs now. Refused: an address inside the house. */
export async function followPhone(
  tx: Tx,
  told: Told,
  who: Who,
  { endpoint, p256dh, auth }: Phone,
  { messageUrl, pushKeys }: Config,
  now: Instant,
): Promise<void> {
  if (pushKeys === null) refuse('not-ready', 'This house tells phones nothing by itself: no push keys are set.');
  if (!isPushAddress(endpoint, messageUrl)) refuse('invalid', 'This is not the address of a push service.', 'endpoint');
  await tx.db.select({ id: person.id }).from(person).where(eq(person.id, who.id)).for('update');
  const [held] = await tx.db.select({ n: count() }).from(pushPhone).where(eq(pushPhone.personId, who.id));
  if ((held?.n ?? 0) >= MOST) refuse('too-large', `At most ${MOST} phones are told; leave it on another first.`);
  const values = { personId: who.id, endpoint, p256dh, auth, at: now };
  await tx.db
    .insert(pushPhone)
    .values({ id: idOf(endpoint), ...values })
    .onDuplicateKeyUpdate({ set: values });
  await tx.db.update(person).set({ prefers: 'push' }).where(eq(person.id, who.id));
  told({ subject: 'person', id: who.id, text: 'is told by push, on a phone of theirs' });
}

/** Not told on this phone any more; with the last one they are told by mail again, unless a number of theirs takes pushes. */
export async function leavePhone(tx: Tx, told: Told, who: Who, endpoint: string): Promise<void> {
  const [row] = await tx.db.select({ phone: person.phone }).from(person).where(eq(person.id, who.id)).for('update');
  const [gone] = await tx.db
    .delete(pushPhone)
    .where(and(eq(pushPhone.id, idOf(endpoint)), eq(pushPhone.personId, who.id)));
  if (gone.affectedRows === 0) return;
  if (row?.phone === null && !(await hasBrowsers(tx.db, [who.id])).has(who.id))
    await tx.db.update(person).set({ prefers: 'mail' }).where(eq(person.id, who.id));
  told({ subject: 'person', id: who.id, text: 'is told no more on a phone of theirs' });
}

/** Who of some people is told by a browser. */
export async function hasBrowsers(db: Db, ids: readonly PersonId[]): Promise<Set<PersonId>> {
  if (ids.length === 0) return new Set();
  const rows = await db
    .selectDistinct({ id: pushPhone.personId })
    .from(pushPhone)
    .where(inArray(pushPhone.personId, [...ids]));
  return new Set(rows.map((r) => r.id));
}

type Message = {
  readonly id: number;
  readonly personId: PersonId | null;
  readonly address: string;
  readonly subject: string;
  readonly body: string;
};

/** What a push service takes of a message at most is 4096 bytes with what locks it (RFC 8030, section 7.2). */
const MOST_TEXT = 1500;
const HAND_OVER_MS = 15_000;
/** A phone without signal for longer hears of it when it looks. */
const KEPT_S = 24 * 3600;

/** Links lead to pages of the desk; the phone opens its own day. */
const textOf = ({ body }: Message): string =>
  body
    .split('\n')
    .filter((line) => !/(?<![\w/])house:\//.test(line))
    .join('\n')
    .trim()
    .slice(0, MOST_TEXT);

/**
 * Tells every phone of whom it is for. Gives the word for it; null: there is none, or none took it while a number of theirs does. Those
 * that their push service knows no more are let go.
 */
export async function pushTo(
  db: Db,
  { pushKeys, mailFrom }: Pick<Config, 'pushKeys' | 'mailFrom'>,
  message: Message,
): Promise<string | null> {
  if (message.personId === null || pushKeys === null) return null;
  const phones = await db.select().from(pushPhone).where(eq(pushPhone.personId, message.personId));
  const subject = `mailto:${/<([^>]+)>/.exec(mailFrom)?.[1] ?? mailFrom}`;
  const said = { title: message.subject, body: textOf(message), tag: `outbox-${message.id}` };
  const answers = await Promise.allSettled(
    phones.map(async ({ endpoint, p256dh, auth }) => {
      const { method, headers, body } = webPush.generateRequestDetails(
        { endpoint, keys: { p256dh, auth } },
        JSON.stringify(said),
        { vapidDetails: { subject, ...pushKeys }, TTL: KEPT_S, topic: `outbox-${message.id}` },
      );
      const { status } = await fetch(endpoint, {
        ...{ method, headers: headers as Record<string, string>, body: body as unknown as BodyInit },
        ...{ redirect: 'error', signal: AbortSignal.timeout(HAND_OVER_MS) },
      });
      return status;
    }),
  );
  const ended = phones.filter((_, i) => {
    const answer = answers[i];
    return answer?.status === 'fulfilled' && (answer.value === 404 || answer.value === 410);
  });
  if (ended.length > 0)
    await db.delete(pushPhone).where(
      inArray(
        pushPhone.id,
        ended.map((p) => p.id),
      ),
    );
  const took = answers.filter((a) => a.status === 'fulfilled' && a.value >= 200 && a.value < 300).length;
  if (took > 0) return `${took} of ${phones.length} ${phones.length === 1 ? 'phone' : 'phones'}`;
  if (message.address !== BY_BROWSER) return null;
  throw new Error('no phone of theirs took it');
}
