// Finding: how typed words meet the words a thing is known by, with fragments, missing dashes and slips of the finger.

/** Longer words are cut here when they are indexed and asked. */
export const WORD_LIMIT = 40;
/** More words than these in one question, or for one thing, are left out. */
export const QUESTION_WORDS = 6;

/** Lower case without accents, as words are indexed and compared. */
export function plainText(text: string): string {
  return text
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .replace(/ß/g, 'ss')
    .replace(/ø/g, 'o')
    .replace(/æ/g, 'ae');
}

/** The words of a running text (names, streets): letters and digits, everything else parts them. */
export function wordsOf(text: string): string[] {
  return [...new Set(plainText(text).match(/[\p{L}\p{N}]+/gu) ?? [])].map((w) => w.slice(0, WORD_LIMIT));
}

/**
 * The words of an identifier (serial, tag, phone number): all of it without dashes, dots and spaces, so that it is found
 * however its parts are written, and its pieces that are letters only. A piece with digits is found inside the whole.
 */
export function identifierWords(text: string): string[] {
  const pieces = wordsOf(text).filter((w) => !/\p{N}/u.test(w));
  const joined = plainText(text)
    .replace(/[^\p{L}\p{N}]+/gu, '')
    .slice(0, WORD_LIMIT);
  return [...new Set(joined === '' ? pieces : [joined, ...pieces])];
}

/** The words of a question: parted at spaces only, each without its dashes, so that "ULF-720" asks for "ulf720". */
export function questionWords(text: string): string[] {
  const words = plainText(text)
    .split(/\s+/)
    .map((w) => w.replace(/[^\p{L}\p{N}]+/gu, '').slice(0, WORD_LIMIT))
    .filter((w) => w !== '');
  return [...new Set(words)].slice(0, QUESTION_WORDS);
}

/** The runs of three letters a word is indexed by; none for shorter words. */
export function gramsOf(word: string): string[] {
  const grams = new Set<string>();
  for (let i = 0; i + 3 <= word.length; i += 1) grams.add(word.slice(i, i + 3));
  return [...grams];
}

/** Slips (a letter wrong, missing, too many, or two swapped) between two words; stops counting above `most`. */
export function slipsBetween(a: string, b: string, most: number): number {
  if (Math.abs(a.length - b.length) > most) return most + 1;
  let older: number[] = [];
  let last = Array.from({ length: b.length + 1 }, (_, j) => j);
  for (let i = 1; i <= a.length; i += 1) {
    const row = [i];
    for (let j = 1; j <= b.length; j += 1) {
      const same = a[i - 1] === b[j - 1];
      let least = Math.min(
        (row[j - 1] as number) + 1,
        (last[j] as number) + 1,
        (last[j - 1] as number) + (same ? 0 : 1),
      );
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1])
        least = Math.min(least, (older[j - 2] as number) + 1);
      row.push(least);
    }
    if (Math.min(...row) > most) return most + 1;
    [older, last] = [last, row];
  }
  return last[b.length] as number;
}

/** Slips forgiven in a word of this length: none up to three letters, one up to seven, two beyond. */
export function slipsForgiven(length: number): number {
  return length < 4 ? 0 : length < 8 ? 1 : 2;
}

/**
 * How well a known word answers an asked one, from 1 (the same) down: begins with it, holds it, begins with it but for
 * slips. Null when it does not answer. Both words as `questionWords` and `wordsOf` give them.
 */
export function closeness(asked: string, known: string): number | null {
  if (asked === known) return 1;
  const covered = asked.length / known.length;
  if (known.startsWith(asked)) return 0.7 + 0.2 * covered;
  if (asked.length >= 3 && known.includes(asked)) return 0.4 + 0.2 * covered;
  const forgiven = slipsForgiven(asked.length);
  if (forgiven === 0) return null;
  // A slip may also stand in the typed beginning of a longer word.
  const beginning = known.slice(0, Math.min(known.length, asked.length));
  const slips = Math.min(slipsBetween(asked, known, forgiven), slipsBetween(asked, beginning, forgiven));
  return slips > forgiven ? null : 0.35 - 0.1 * slips;
}

/** One of the things a subject is known by: its name for readers, its value as it was written, the words it is found by. */
export type KnownBy = { readonly what: string; readonly value: string; readonly words: readonly string[] };

/**
 * Why a subject was found: for each asked word the thing that answers it best (the earlier one where two answer alike),
 * each told once, in the order asked. Words nothing answers tell nothing.
 */
export function whatMatched(asked: readonly string[], known: readonly KnownBy[]): KnownBy[] {
  const told = new Set<KnownBy>();
  for (const word of asked) {
    let best: { readonly by: KnownBy; readonly score: number } | null = null;
    for (const by of known)
      for (const w of by.words) {
        const score = closeness(word, w);
        if (score !== null && (best === null || score > best.score)) best = { by, score };
      }
    if (best) told.add(best.by);
  }
  return [...told];
}
