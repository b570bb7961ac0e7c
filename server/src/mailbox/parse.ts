// A message as it came, read: headers, words and what is attached (RFC 5322, RFC 2045 to 2047, RFC 2231). Run on a thread.
import { simpleParser, type ParsedMail } from 'mailparser';
import { idsIn } from '#core/mail/index.ts';

export type Attached = { readonly name: string; readonly bytes: Uint8Array };
export type ReadMail = {
  readonly fromName: string;
  readonly fromAddress: string;
  readonly subject: string;
  readonly text: string;
  /** In milliseconds; null where it does not say, or says nothing that is a date. */
  readonly sentAt: number | null;
  readonly inReplyTo: readonly string[];
  readonly references: readonly string[];
  readonly autoSubmitted: string | null;
  readonly precedence: string | null;
  readonly attached: readonly Attached[];
};

/** Longer words are cut; the message as it came has them all. */
const MOST_WORDS = 200_000;
const MOST_ATTACHED = 50;

const headerOf = (parsed: ParsedMail, name: string): string | null => {
  const value = parsed.headers.get(name);
  return typeof value === 'string' ? value : null;
};

const threadOf = (said: string | string[] | undefined): string[] => idsIn([said ?? []].flat().join(' '));

/** Lone halves of characters and the character nothing stands for, which no text may hold. */
const clean = (text: string): string => text.replace(/\p{Surrogate}/gu, '\ufffd').replaceAll('\u0000', '');

export async function parseMail(raw: Uint8Array): Promise<ReadMail> {
  const parsed = await simpleParser(Buffer.from(raw), {
    skipTextToHtml: true,
    skipImageLinks: true,
    skipTextLinks: true,
    maxHtmlLengthToParse: 4 * MOST_WORDS,
  });
  const from = parsed.from?.value[0];
  const sentAt = parsed.date?.getTime() ?? NaN;
  return {
    fromName: clean(from?.name ?? ''),
    fromAddress: clean(from?.address ?? ''),
    subject: clean(parsed.subject ?? ''),
    text: clean(parsed.text ?? '').slice(0, MOST_WORDS),
    sentAt: Number.isFinite(sentAt) ? sentAt : null,
    inReplyTo: threadOf(parsed.inReplyTo),
    references: threadOf(parsed.references),
    autoSubmitted: headerOf(parsed, 'auto-submitted'),
    precedence: headerOf(parsed, 'precedence'),
    attached: parsed.attachments.slice(0, MOST_ATTACHED).map(({ filename, content, contentType }, i) => ({
      name: clean(filename ?? '').trim() || `attached ${i + 1} (${contentType})`,
      bytes: new Uint8Array(content),
    })),
  };
}
