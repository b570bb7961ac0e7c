// The words of documents, by language, out of plain text files: whoever wants another language writes another file.
import { readFileSync } from 'node:fs';
import { decimalsOf, fixedPoint } from '#core/money.ts';
import { LANGUAGES, type Language } from '#core/telling.ts';
import type { LocalDate } from '#core/time/index.ts';

export type Words = (name: string, values?: Readonly<Record<string, string>>) => string;

/** Lines of `name = words`; what begins with # is a remark. */
export function readWords(text: string): ReadonlyMap<string, string> {
  return new Map(
    text
      .split('\n')
      .filter((line) => line.trim() !== '' && !line.startsWith('#'))
      .map((line) => {
        const at = line.indexOf('=');
        if (at < 0) throw new Error(`“${line}” wants a name, an equals sign and its words`);
        return [line.slice(0, at).trim(), line.slice(at + 1).trim()] as const;
      }),
  );
}

const held = new Map<Language, ReadonlyMap<string, string>>(
  LANGUAGES.map((language) => [
    language,
    readWords(readFileSync(new URL(`./words/${language}.txt`, import.meta.url), 'utf8')),
  ]),
);

/** A name that a language has no words for is a fault: each has all of them (a test holds it). */
export const wordsIn =
  (language: Language): Words =>
  (name, values = {}) => {
    const words = held.get(language)?.get(name);
    if (words === undefined) throw new Error(`there are no words for “${name}” in ${language}`);
    return words.replace(/\{(\w+)\}/g, (_, place: string) => values[place] ?? '');
  };

export const wordNames = (language: Language): string[] => [...(held.get(language)?.keys() ?? [])];

const LOCALES: Readonly<Record<Language, string>> = { en: 'en-GB', pt: 'pt-PT' };
/** The letters of papers have no narrow spaces. */
const plain = (text: string): string => text.replace(/[\u202f\u00a0]/g, ' ');

/** Made once: a formatter costs a hundred times what it formats. */
const DATES = Object.fromEntries(
  LANGUAGES.map((language) => [
    language,
    new Intl.DateTimeFormat(LOCALES[language], { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' }),
  ]),
) as Readonly<Record<Language, Intl.DateTimeFormat>>;
const AMOUNTS = new Map<string, Intl.NumberFormat>();

/** "1 September 2026", "1 de setembro de 2026". */
export const dateIn = (language: Language, date: LocalDate): string => plain(DATES[language].format(Date.parse(date)));

/** "8,281.80", "8281,80": from its digits, never as a binary fraction. */
export function amountSaid(language: Language, minor: number, currency: string): string {
  const places = decimalsOf(currency);
  const key = `${language} ${places}`;
  const format =
    AMOUNTS.get(key) ??
    new Intl.NumberFormat(LOCALES[language], { minimumFractionDigits: places, maximumFractionDigits: places });
  AMOUNTS.set(key, format);
  return plain(format.format(fixedPoint(minor, places) as unknown as number));
}
