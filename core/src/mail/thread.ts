// The thread of messages: what an answer says it answers (RFC 5322, section 3.6.4), and what a message belongs to that came in.

/** The identifiers in a header such as References, without their brackets; what is none is left out. */
export const idsIn = (header: string): string[] => [...header.matchAll(/<([^<>\s]+)>/g)].map((m) => m[1] as string);

/** At most so many are kept of a long thread: the first and the latest, as RFC 5537, section 3.4.4 has it for the same header. */
const MOST_REFERENCES = 20;

/**
 * What an answer to a message bears: In-Reply-To its identifier, References those the message had and its own after them
 * (RFC 5322, section 3.6.4), and its subject with one “Re: ” before it.
 */
export function answerTo(message: {
  readonly messageId: string;
  readonly references: readonly string[];
  readonly subject: string;
}): { readonly inReplyTo: string; readonly references: readonly string[]; readonly subject: string } {
  const all = [...new Set([...message.references.filter((id) => id !== message.messageId), message.messageId])];
  const [first, ...rest] = all;
  const references =
    all.length <= MOST_REFERENCES || first === undefined ? all : [first, ...rest.slice(1 - MOST_REFERENCES)];
  return { inReplyTo: message.messageId, references, subject: `Re: ${plainSubject(message.subject)}`.trimEnd() };
}

/** Signs of an answer or of being forwarded, in the languages mail is written in here. */
const SIGNS = /^\s*(?:(?:re|aw|antw|rv|res|sv|fw|fwd|wg|enc)(?:\[\d+\])?\s*:\s*)+/iu;

/** A subject without what mail programs put before it. */
export const plainSubject = (subject: string): string => subject.replace(SIGNS, '').replace(/\s+/g, ' ').trim();

/** The nearest message of its thread that is known: what it answers first, then its references from the latest back. */
export function nearestKnown<T>(
  message: { readonly inReplyTo: readonly string[]; readonly references: readonly string[] },
  known: ReadonlyMap<string, T>,
): T | null {
  for (const id of [...message.inReplyTo, ...message.references.toReversed()]) {
    const found = known.get(id);
    if (found !== undefined) return found;
  }
  return null;
}

/**
 * Whether a machine sent it (RFC 3834, section 5; a null return path is a report of delivery, RFC 5321, section 4.5.5): such
 * messages are kept, but nobody is to be called back, and none is answered by itself.
 */
export function isAutomatic(headers: {
  readonly autoSubmitted: string | null;
  readonly precedence: string | null;
  readonly returnPath: string | null;
}): boolean {
  const submitted = headers.autoSubmitted?.trim().toLowerCase() ?? 'no';
  return (
    !/^no\b/.test(submitted) ||
    /^(bulk|junk|list)$/i.test(headers.precedence?.trim() ?? '') ||
    headers.returnPath === ''
  );
}
