// Numbers of agreements: the provider’s own scheme, filled in for each new agreement, or a number given by hand.
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import type { LocalDate } from '../time/index.ts';

/** `{number}`, `{number:4}` (at least four digits) and `{year}` are filled in; everything else stands as it is. */
const PLACES = /\{(number)(?::([1-9]))?\}|\{(year)\}/g;
const LONGEST_PATTERN = 30;
const ALLOWED = /^[\p{L}\p{N}][\p{L}\p{N} ./_-]*$/u;

/** Takes a scheme. Refused, at `pattern`: none or more than one `{number}`, braces of another kind, signs that a number should not have. */
export function checkPattern(pattern: string): Decided<string> {
  const wrong = (message: string): Decided<string> => refused(refusal('invalid', message, 'pattern'));
  const counted = [...pattern.matchAll(PLACES)].filter((m) => m[1] !== undefined).length;
  if (pattern.length > LONGEST_PATTERN) return wrong(`At most ${LONGEST_PATTERN} characters.`);
  if (counted !== 1)
    return wrong('Write {number} once, where the running number goes, such as AG-{number} or {year}/{number:4}.');
  if (!ALLOWED.test(pattern.replace(PLACES, '0')))
    return wrong('Besides {number}, {number:4} and {year}, use letters, digits, spaces and . / _ - only.');
  return decided(pattern);
}

/** The number that a scheme gives on a day. */
export function numberBy(pattern: string, next: number, on: LocalDate): string {
  return pattern.replace(PLACES, (_, number: string | undefined, digits: string | undefined) =>
    number === undefined ? on.slice(0, 4) : String(next).padStart(Number(digits ?? 1), '0'),
  );
}

/** Takes a number given by hand; it may be any text of letters, digits, spaces and . / _ - that fits on a letter head. */
export function checkNumber(number: string): Decided<string> {
  const plain = number.trim().replace(/\s+/g, ' ');
  return plain.length <= 40 && ALLOWED.test(plain)
    ? decided(plain)
    : refused(
        refusal(
          'invalid',
          'Write a number of at most 40 letters, digits, spaces and . / _ - , such as AG-2041.',
          'number',
        ),
      );
}
