// The words of a message: what its writer wrote, apart from what they answered and from the lines below their name.

export type MailWords = {
  /** What was written for us. */
  readonly own: string;
  /** The message it answers, as it was put below or between. */
  readonly quoted: string;
};

/** The line before what is quoted, in the languages mail is written in here. */
const INTRODUCES =
  /^(?:(?:on|am|em|le|el) .{6,120}(?:wrote|schrieb.*|escreveu|a écrit|escribió) ?:|-{2,} ?(?:original message|mensagem original|ursprüngliche nachricht|message d'origine).*|(?:from|von|de): .+@.+)$/iu;

/** Parts a message: lines that begin with “>” and everything below the line that introduces them are quoted (RFC 3676, section 4.5). */
export function partWords(text: string): MailWords {
  const lines = text.replace(/\r\n?/g, '\n').split('\n');
  const from = lines.findIndex((line) => INTRODUCES.test(line.trim()));
  const above = from === -1 ? lines : lines.slice(0, from);
  const below = from === -1 ? [] : lines.slice(from);
  const isQuoted = (line: string): boolean => line.startsWith('>');
  const own = above.filter((line) => !isQuoted(line)).join('\n');
  const quoted = [...above.filter(isQuoted), ...below].join('\n');
  return { own: own.replace(/\n{3,}/g, '\n\n').trim(), quoted: quoted.trim() };
}

/** The line that parts a signature (RFC 3676, section 4.3). */
const SIGNATURE = /^-- ?$/m;

/** What is asked of us: the writer’s own words without the signature below them. */
export function saidIn(text: string): string {
  const { own } = partWords(text);
  const at = own.search(SIGNATURE);
  return (at === -1 ? own : own.slice(0, at)).trim();
}

/** Most words of a message that are looked up as serials or tags. */
const MOST_MARKS = 60;

/** Words that may be a machine’s serial or tag, as they are written: with a digit and at least four letters and digits. */
export function marksIn(text: string): string[] {
  const words = text
    .split(/[\s,;:!?()"“”]+/u)
    .map((word) => word.replace(/[.'’]+$/, ''))
    .filter((word) => /\p{N}/u.test(word) && (word.match(/[\p{L}\p{N}]/gu)?.length ?? 0) >= 4 && word.length <= 60);
  return [...new Set(words)].slice(0, MOST_MARKS);
}
