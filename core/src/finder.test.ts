import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  closeness,
  gramsOf,
  identifierWords,
  questionWords,
  slipsBetween,
  slipsForgiven,
  whatMatched,
  wordsOf,
  WORD_LIMIT,
  type KnownBy,
} from './finder.ts';

const lowerWord = fc.stringMatching(/^[a-z0-9]{1,12}$/);

describe('words', () => {
  it('come without case and accents, each once', () =>
    expect(wordsOf('Rúa do Muíño 21, DAMIRO · rua')).toEqual(['rua', 'do', 'muino', '21', 'damiro']));
  it('of an identifier are all of it without dashes, and its pieces of letters', () => {
    expect(identifierWords('LOAD-000123')).toEqual(['load000123', 'load']);
    expect(identifierWords('ULF720-Q1100')).toEqual(['ulf720q1100']);
    expect(identifierWords('+351 912 345 678')).toEqual(['351912345678']);
    expect(identifierWords('--')).toEqual([]);
  });
  it('of a question are parted at spaces, dashes dropped, at most six', () => {
    expect(questionWords(' ULF-720  costabela ')).toEqual(['ulf720', 'costabela']);
    expect(questionWords('a b c d e f g h')).toHaveLength(6);
    expect(questionWords('… – ·')).toEqual([]);
  });
  it('are cut where they are endless', () => expect(wordsOf('x'.repeat(500))[0]).toHaveLength(WORD_LIMIT));
  it('have letter groups from three letters on', () => {
    expect(gramsOf('horta')).toEqual(['hor', 'ort', 'rta']);
    expect(gramsOf('aaaa')).toEqual(['aaa']);
    expect(gramsOf('ab')).toEqual([]);
  });
});

describe('slips', () => {
  it.each([
    ['horta', 'horta', 0],
    ['horta', 'hotra', 1],
    ['horta', 'hort', 1],
    ['horta', 'hoorta', 1],
    ['horta', 'harta', 1],
    ['steriliser', 'sterliizer', 2],
    ['abc', 'xyz', 3],
  ])('between %s and %s: %i', (a, b, n) => expect(slipsBetween(a, b, 3)).toBe(n));
  it('are counted only to the most that matters', () => expect(slipsBetween('abcdef', 'uvwxyz', 2)).toBe(3));
  it('are the same from either side, and none only between the same words', () =>
    fc.assert(
      fc.property(lowerWord, lowerWord, (a, b) => {
        expect(slipsBetween(a, b, 20)).toBe(slipsBetween(b, a, 20));
        expect(slipsBetween(a, b, 20) === 0).toBe(a === b);
      }),
    ));
});

describe('how well a word answers', () => {
  it('the same is best, then the beginning, then a part, then a slip', () => {
    const scores = ['horta', 'hortanova', 'novahorta', 'hprta'].map((known) => closeness('horta', known) as number);
    expect(scores).toEqual([...scores].sort((a, b) => b - a));
    expect(new Set(scores).size).toBe(4);
  });
  it('a slip in the beginning of a longer word is forgiven, more is not', () => {
    expect(closeness('norvlea', 'norveladiagnostics')).not.toBeNull();
    expect(closeness('nrvlae', 'norvela')).toBeNull();
  });
  it('nothing is forgiven in short words, and short parts do not answer', () => {
    expect(closeness('ab', 'ac')).toBeNull();
    expect(closeness('or', 'horta')).toBeNull();
  });
  it('any beginning and any part of three letters answers', () =>
    fc.assert(
      fc.property(lowerWord, fc.nat(11), fc.nat(11), (word, i, j) => {
        const part = word.slice(Math.min(i, j), Math.max(i, j));
        if (part.length >= 3) expect(closeness(part, word)).toBeGreaterThan(0);
        if (word.startsWith(part) && part !== '') expect(closeness(part, word)).toBeGreaterThan(0.6);
      }),
    ));
  it('one wrong letter in a word of four or more still answers', () =>
    fc.assert(
      fc.property(fc.stringMatching(/^[a-z]{4,12}$/), fc.nat(11), (word, at) => {
        const i = at % word.length;
        const slip = `${word.slice(0, i)}7${word.slice(i + 1)}`;
        expect(slipsForgiven(slip.length)).toBeGreaterThan(0);
        expect(closeness(slip, word)).not.toBeNull();
      }),
    ));
});

describe('what matched', () => {
  const by = (what: string, value: string): KnownBy => ({
    what,
    value,
    words: [...wordsOf(value), ...identifierWords(value)],
  });
  const known = [
    by('tag', 'Q101'),
    by('serial', 'ULF720-Q101'),
    by('customer', 'Clínica Horta'),
    by('address', 'Rua Horta 7'),
  ];
  const told = (q: string) => whatMatched(questionWords(q), known).map((k) => k.what);
  it('is the thing that answers best, the earlier of two alike, each told once', () => {
    expect(told('q101')).toEqual(['tag']);
    expect(told('ulf-720')).toEqual(['serial']);
    expect(told('ulf720q1o1')).toEqual(['serial']);
    expect(told('horta')).toEqual(['customer']);
    expect(told('rua horta q101')).toEqual(['address', 'customer', 'tag']);
    expect(told('clinica horta')).toEqual(['customer']);
    expect(told('nothing here')).toEqual([]);
  });
  it('tells nothing that answers no asked word, and leaves no answered word untold', () =>
    fc.assert(
      fc.property(fc.array(lowerWord, { maxLength: 4 }), fc.array(lowerWord, { maxLength: 4 }), (asked, values) => {
        const things = values.map((v) => by('thing', v));
        const answers = (w: string, k: KnownBy) => k.words.some((x) => closeness(w, x) !== null);
        const matched = whatMatched(asked, things);
        expect(matched.every((k) => asked.some((w) => answers(w, k)))).toBe(true);
        for (const w of asked) expect(matched.some((k) => answers(w, k))).toBe(things.some((k) => answers(w, k)));
      }),
    ));
});
