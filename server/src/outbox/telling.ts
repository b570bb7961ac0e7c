// Telling somebody outside: the message is written in the transaction of what it tells, once for its key, and left to be delivered.
import { and, eq, inArray } from 'drizzle-orm';
import type { PersonId } from '#core/ids.ts';
import { fillTemplate, wayTo, type Language, type Reachable, type Template } from '#core/telling.ts';
import type { Instant } from '#core/time/index.ts';
import type { Tx } from '../platform/database.ts';
import { leaveJob } from '../platform/jobs.ts';
import type { MessageKind } from '../platform/message-kind.ts';
import { person } from '../platform/tables.ts';
import { hasBrowsers } from './phones.ts';
import { messageTemplate, outbox } from './tables.ts';

export const DELIVERING = 'deliver';

type To = Reachable & { readonly name: string; readonly language: Language; readonly personId: PersonId | null };
type Values = Readonly<Record<string, string>>;
export type Telling = {
  /** What lets it be said once, such as "renewal 17 2026-12-01". */
  readonly key: string;
  /** What is put into it; of words of ours, in the language of whoever is told. */
  readonly values: Values | ((language: Language) => Values);
  readonly about: { readonly subject: string; readonly id: number };
  readonly now: Instant;
  /** Of a message it answers: sent by mail, it goes into the same thread. */
  readonly thread?: {
    readonly inReplyTo: string;
    readonly references: readonly string[];
    readonly subject?: string;
  } | null;
  /** A paper that goes with it by mail, as it is kept. */
  readonly paper?: { readonly sha256: string; readonly name: string };
};

async function wordsOf(tx: Tx, { kind, words }: MessageKind, language: Language): Promise<Template> {
  const [own] = await tx.db
    .select({ subject: messageTemplate.subject, body: messageTemplate.body })
    .from(messageTemplate)
    .where(and(eq(messageTemplate.kind, kind), eq(messageTemplate.language, language)));
  return own ?? words[language];
}

/** Says whether the message was left; not where it was said before, or where they can be reached by no way. */
export async function tellOutside(tx: Tx, message: MessageKind, to: To, telling: Telling): Promise<boolean> {
  const by = wayTo(to);
  if (by === null) return false;
  const { values } = telling;
  const { subject, body } = fillTemplate(
    await wordsOf(tx, message, to.language),
    typeof values === 'function' ? values(to.language) : values,
  );
  const [held] = await tx.db.select({ id: outbox.id }).from(outbox).where(eq(outbox.outKey, telling.key)).for('update');
  if (held) return false;
  const thread = by.way === 'mail' ? telling.thread : null;
  const [made] = await tx.db
    .insert(outbox)
    .values({
      outKey: telling.key,
      kind: message.kind,
      way: by.way,
      address: by.address,
      toName: to.name,
      personId: to.personId,
      subject: (thread?.subject ?? subject).slice(0, 300),
      inReplyTo: thread?.inReplyTo ?? null,
      threadIds: thread?.references ?? [],
      paperSha256: telling.paper?.sha256 ?? null,
      paperName: telling.paper?.name ?? null,
      body,
      aboutSubject: telling.about.subject,
      aboutId: telling.about.id,
      state: 'waiting',
      createdAt: telling.now,
    })
    .$returningId();
  const id = made?.id as number;
  await leaveJob(tx, DELIVERING, { id }, { key: `outbox ${id}` });
  return true;
}

/** Tells people of the house, each by the way and in the language they chose. */
export async function tellPeople(
  tx: Tx,
  message: MessageKind,
  ids: readonly PersonId[],
  telling: Telling,
): Promise<void> {
  if (ids.length === 0) return;
  const people = await tx.db
    .select()
    .from(person)
    .where(and(inArray(person.id, [...ids]), eq(person.active, true)));
  const browsers = await hasBrowsers(tx.db, ids);
  for (const p of people)
    await tellOutside(
      tx,
      message,
      {
        ...{ name: p.name, personId: p.id, mail: p.email, phone: p.phone, prefers: p.prefers, language: p.language },
        hasBrowser: browsers.has(p.id),
      },
      { ...telling, key: ids.length === 1 ? telling.key : `${telling.key} to ${p.id}` },
    );
}
