import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { checkTemplate, fillTemplate, linkTo, placesIn, wayTo, withAddresses } from './telling.ts';

const known = ['agreement', 'day'];
const template = { subject: 'Notice: {agreement}', body: 'It renews unless you decide by {day}.\n{agreement}' };

describe('a template', () => {
  it('is filled at every place', () =>
    expect(fillTemplate(template, { agreement: 'AG-2004', day: 'Tue 1 Dec' })).toEqual({
      subject: 'Notice: AG-2004',
      body: 'It renews unless you decide by Tue 1 Dec.\nAG-2004',
    }));

  it.each([
    [{ ...template, body: 'Hello {name}' }, 'body', '{agreement}, {day}'],
    [{ ...template, subject: '  ' }, 'subject', 'needed'],
    [{ ...template, body: 'until {day' }, 'body', 'brace'],
    [{ ...template, body: '{ day }' }, 'body', 'brace'],
  ])('%j is refused at its %s', (wrong, field, words) => {
    const answer = checkTemplate(wrong, known);
    expect(answer.ok).toBe(false);
    if (!answer.ok) {
      expect(answer.refusals[0]?.field).toBe(field);
      expect(answer.refusals[0]?.message).toContain(words);
    }
  });

  it('never lets what is put into a subject begin another header', () =>
    fc.assert(
      fc.property(fc.string(), fc.string(), (a, b) => {
        const { subject } = fillTemplate({ subject: '{a}', body: 'x' }, { a: `${a}\r\nBcc: ${b}` });
        expect(subject).not.toMatch(/[\r\n]/);
      }),
    ));

  it('once checked is filled without anything left over', () =>
    fc.assert(
      fc.property(fc.array(fc.constantFrom('{agreement}', '{day}', ' ', 'text', '\n'), { minLength: 1 }), (parts) => {
        const checked = checkTemplate({ subject: 'x', body: `x${parts.join('')}` }, known);
        expect(checked.ok).toBe(true);
        if (checked.ok) expect(placesIn(fillTemplate(checked.value, { agreement: 'A', day: 'D' }).body)).toEqual([]);
      }),
    ));
});

describe('the way to somebody', () => {
  it.each([
    [
      { mail: 'a@b', phone: '1', prefers: 'message' },
      { way: 'message', address: '1' },
    ],
    [
      { mail: 'a@b', phone: null, prefers: 'message' },
      { way: 'mail', address: 'a@b' },
    ],
    [
      { mail: null, phone: '1', prefers: 'mail' },
      { way: 'message', address: '1' },
    ],
    [
      { mail: null, phone: '1', prefers: 'push' },
      { way: 'push', address: '1' },
    ],
    [{ mail: null, phone: null, prefers: 'mail' }, null],
  ] as const)('%j', (who, way) => expect(wayTo(who)).toEqual(way));
});

describe('a page of this house in a message', () => {
  it('gets the public address when it leaves, wherever it stands, and nothing else is touched', () => {
    const address = 'https://stavok.example.org';
    expect(withAddresses(`See ${linkTo('/orders/7')}\n(${linkTo('/assets/tag/Q1%2F2')})`, address)).toBe(
      'See https://stavok.example.org/orders/7\n(https://stavok.example.org/assets/tag/Q1%2F2)',
    );
    for (const plain of ['warehouse:/dock 4', 'the house: / the hall', 'a house:', 'https://house:/x'])
      expect(withAddresses(plain, address)).toBe(plain);
    // An address is put in as it is, whatever it looks like as a pattern.
    expect(withAddresses(linkTo('/a'), 'https://$&.example')).toBe('https://$&.example/a');
  });
});
