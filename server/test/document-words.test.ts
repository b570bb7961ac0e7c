// The words of documents: every language has all of them, with the same places; dates and amounts as it writes them.
import { describe, expect, it } from 'vitest';
import { LANGUAGES } from '#core/telling.ts';
import { asLocalDate } from '#core/time/index.ts';
import { amountSaid, dateIn, readWords, wordNames, wordsIn } from '../src/settle/words.ts';

describe('words of documents', () => {
  it('every language has the same names, with the same places in them', () => {
    const placesOf = (language: (typeof LANGUAGES)[number]) =>
      wordNames(language).map((name) => {
        const asked = new Proxy({}, { get: (_, place) => `<${String(place)}>` });
        return `${name} ${[...wordsIn(language)(name, asked).matchAll(/<\w+>/g)]
          .map((m) => m[0])
          .toSorted()
          .join(' ')}`;
      });
    for (const language of LANGUAGES) expect(placesOf(language).toSorted()).toEqual(placesOf('en').toSorted());
  });

  it('a name without words is a fault, as is a line without an equals sign', () => {
    expect(() => wordsIn('en')('nothing')).toThrow('no words');
    expect(() => readWords('invoice Invoice')).toThrow('equals sign');
    expect([...readWords('# a remark\n\na = b = c\n')]).toEqual([['a', 'b = c']]);
  });

  it('dates and amounts are written as the language does, to the last cent', () => {
    const day = asLocalDate('2026-09-01');
    expect([dateIn('en', day), dateIn('pt', day)]).toEqual(['1 September 2026', '1 de setembro de 2026']);
    expect([amountSaid('en', 828_180, 'EUR'), amountSaid('pt', 828_180, 'EUR')]).toEqual(['8,281.80', '8281,80']);
    // Beyond what a binary fraction holds.
    expect(amountSaid('en', 9_007_199_254_740_991, 'EUR')).toBe('90,071,992,547,409.91');
    expect(amountSaid('pt', -123_456_789, 'EUR')).toBe('-1 234 567,89');
    expect(amountSaid('en', 5, 'JPY')).toBe('5');
  });
});
