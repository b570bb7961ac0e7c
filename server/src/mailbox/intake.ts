// The mailbox: takes messages by SMTP (RFC 5321). A message is answered for once it is kept; its words are read some moments later.
import { createHash } from 'node:crypto';
import { eq } from 'drizzle-orm';
import type { FastifyBaseLogger } from 'fastify';
import { SMTPServer } from 'smtp-server';
import type { MailId } from '#core/ids.ts';
import { MOST_MAIL_BYTES } from '#core/mail/index.ts';
import type { Instant } from '#core/time/index.ts';
import { keepContent } from '../platform/content.ts';
import type { Database } from '../platform/database.ts';
import type { House } from '../platform/http.ts';
import { leaveJob } from '../platform/jobs.ts';
import { announce } from '../platform/live.ts';
import type { Going } from '../room.ts';
import { MAIL_CHANGED, READING } from './reading.ts';
import { mail } from './tables.ts';

/** Messages that are being taken at once; the next caller is asked to come back. */
const MOST_AT_ONCE = 8;
const STANDS_STILL_MS = 60_000;
const HEADER_BYTES = 64 * 1024;

/** Its own identifier, as the header says it; one made of its content where it says none. */
export function identifierOf(raw: Buffer): string {
  const text = raw.subarray(0, HEADER_BYTES).toString('latin1');
  const [header = ''] = text.split(/\r?\n\r?\n/, 1);
  const said = /^message-id:\s*<([^<>\s]{1,250})>/im.exec(header)?.[1];
  return said ?? `none-${createHash('sha256').update(raw).digest('hex')}`;
}

/** Keeps a message that came in, and leaves its reading; the same message that comes again is the one that is there. */
export async function takeMail(
  database: Database,
  raw: Buffer,
  { returnPath, now }: { readonly returnPath: string; readonly now: Instant },
): Promise<MailId> {
  const messageId = identifierOf(raw);
  return database.transact(async (tx) => {
    const held = (): Promise<{ id: MailId }[]> =>
      tx.db.select({ id: mail.id }).from(mail).where(eq(mail.messageId, messageId));
    const [before] = await held();
    if (before) return before.id;
    const sha256 = await keepContent(tx, raw, 'message/rfc822');
    // Two deliveries of one message at once: the second finds the first.
    await tx.db
      .insert(mail)
      .values({
        ...{ messageId, sha256, bytes: raw.length, returnPath: returnPath.slice(0, 320), receivedAt: now },
        state: 'to look at',
        ...{ threadIds: [], notKept: [] },
      })
      .onDuplicateKeyUpdate({ set: { messageId } });
    const [made] = await held();
    const id = made?.id as MailId;
    await leaveJob(tx, READING, { id }, { key: `mail ${id}` });
    await announce(tx, MAIL_CHANGED);
    return id;
  });
}

const smtpError = (code: number, message: string): Error => Object.assign(new Error(message), { responseCode: code });

export function openMailbox(house: House, log: FastifyBaseLogger): Going | null {
  const { config, database, readNow } = house;
  if (config.mailboxPort === null) return null;
  let isUp = false;
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['AUTH', 'STARTTLS'],
    size: MOST_MAIL_BYTES,
    maxClients: MOST_AT_ONCE,
    socketTimeout: STANDS_STILL_MS,
    disableReverseLookup: true,
    onData(stream, session, done) {
      const parts: Buffer[] = [];
      // What comes past the limit is not held.
      stream.on('data', (part: Buffer) => stream.sizeExceeded || parts.push(part));
      stream.on('end', () => {
        if (stream.sizeExceeded) {
          log.warn({ from: session.envelope.mailFrom }, 'mail refused: too large');
          return done(
            smtpError(
              552,
              `A message may have ${MOST_MAIL_BYTES / 1024 / 1024} MB at most. Send the photos smaller, or in several messages.`,
            ),
          );
        }
        const returnPath = session.envelope.mailFrom === false ? '' : session.envelope.mailFrom.address;
        takeMail(database, Buffer.concat(parts), { returnPath, now: readNow() }).then(
          (id) => {
            house.ring();
            done(null, `kept as ${id}`);
          },
          (error: unknown) => {
            log.error({ err: error }, 'mail not kept');
            // Temporary: whoever hands it over tries again (RFC 5321, section 4.2.1).
            done(smtpError(451, 'It could not be kept just now; try again.'));
          },
        );
      });
    },
  });
  server.on('error', (error) => log.warn({ err: error }, 'mailbox'));
  server.listen(config.mailboxPort, '127.0.0.1', () => (isUp = true));
  return {
    isUp: () => isUp,
    stop: () => new Promise<void>((closed) => server.close(closed)),
  };
}
