// A message that came in and was read, for tests of what is made of it.
import { asInstant } from '#core/time/index.ts';
import type { MailId } from '#core/ids.ts';
import { keepRead, parseMail, takeMail } from '../src/mailbox/index.ts';
import type { Database } from '../src/platform/database.ts';
import { NOW } from './house.ts';

export async function mailed(database: Database, lines: readonly string[]): Promise<MailId> {
  const raw = Buffer.from(lines.join('\r\n'));
  const id = await takeMail(database, raw, { returnPath: 'a@x.example', now: asInstant(NOW) });
  const read = await parseMail(raw);
  await database.transact((tx) => keepRead(tx, id, read, 'http://stavok.example.org'));
  return id;
}

/** Two messages of somebody nobody knows yet. */
export async function mailOfTheDay(database: Database): Promise<void> {
  for (const subject of ['First', 'Second'])
    await mailed(database, ['From: Zita Nunes <zita@new.example>', `Subject: ${subject}`, '', 'It beeps.']);
}
