// Mail: senders, threads and words. Outside sources: RFC 5322 (appendix A.2), RFC 3834, RFC 3676.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type ContactId, type CustomerId } from '../ids.ts';
import {
  answerTo,
  contactIn,
  idsIn,
  isAutomatic,
  marksIn,
  matchSender,
  nearestKnown,
  partWords,
  phoneIn,
  plainSubject,
  saidIn,
  type KnownSender,
} from './index.ts';

const known = (contactId: number, customerId: number, email: string): KnownSender => ({
  contactId: asId<ContactId>(contactId),
  customerId: asId<CustomerId>(customerId),
  email,
});

describe('who sent it', () => {
  const people = [
    known(1, 10, 'marta@norvela.example'),
    known(2, 10, 'rui@norvela.example'),
    known(3, 20, 'lab@serra.example'),
    known(4, 20, 'lab@serra.example'),
    known(5, 30, 'ana@post.example'),
    known(6, 40, 'rita@post.example'),
  ];
  it.each<[string, number | null, number | null, string]>([
    ['Marta@Norvela.Example', 1, 10, 'the contact with the address, however it is written'],
    ['new@norvela.example', null, 10, 'the customer all of whose people write from there'],
    ['lab@serra.example', null, 20, 'a mailbox of several people: the customer alone'],
    ['zoe@post.example', null, null, 'a domain of several customers says nothing'],
    ['x@nowhere.example', null, null, 'nobody we know'],
    ['', null, null, 'no address at all'],
  ])('%s', (address, contactId, customerId) => {
    expect(matchSender(address, people)).toEqual({ contactId, customerId });
  });

  it('is never somebody whose address or domain is another, whoever else is known', () => {
    const address = fc
      .tuple(fc.constantFrom('a', 'b', 'c'), fc.constantFrom('x.example', 'y.example', 'z.example'))
      .map(([who, where]) => `${who}@${where}`);
    const list = fc.array(fc.tuple(address, fc.integer({ min: 1, max: 4 })), { maxLength: 12 });
    fc.assert(
      fc.property(address, list, (own, rows) => {
        const all = rows.map(([email, customer], i) => known(i + 1, customer, email));
        const found = matchSender(own, all);
        const same = all.filter((k) => k.email === own);
        if (found.contactId !== null) expect(same.map((k) => k.contactId)).toEqual([found.contactId]);
        if (found.customerId !== null) {
          const pool = same.length > 0 ? same : all.filter((k) => k.email.endsWith(own.slice(1)));
          expect(new Set(pool.map((k) => k.customerId))).toEqual(new Set([found.customerId]));
        }
      }),
    );
  });

  it('is made a contact with what the message says', () => {
    const text = 'The chamber is warm.\n\n-- \nMarta Costa\nSerial 20261124001\nTel. +351 21 555 0147';
    expect(contactIn({ name: 'Costa, Marta', address: 'M.Costa@norvela.example', text })).toEqual({
      name: 'Marta Costa',
      email: 'm.costa@norvela.example',
      phone: '+351 21 555 0147',
    });
    expect(contactIn({ name: '', address: 'ana-rita.sousa+lab@post.example', text: '' })).toEqual({
      name: 'Ana Rita Sousa',
      email: 'ana-rita.sousa+lab@post.example',
      phone: null,
    });
  });

  it.each([
    ['call me at +44 20 7946 0958', '+44 20 7946 0958'],
    ['Telefon: 030 5550123', '030 5550123'],
    ['on 2026-11-24 the unit 20261124001 failed', null],
    ['telemóvel 912 345 678', '912 345 678'],
    ['Teléfono: 600 418 220', '600 418 220'],
    ['+12', null],
  ])('a number in “%s”: %s', (text, number) => expect(phoneIn(text)).toBe(number));
});

describe('the thread', () => {
  it('of an answer, and of the answer to it, is that of RFC 5322, appendix A.2', () => {
    const first = { messageId: '1234@local.machine.example', references: [], subject: 'Saying Hello' };
    const second = answerTo(first);
    expect(second).toEqual({
      inReplyTo: '1234@local.machine.example',
      references: ['1234@local.machine.example'],
      subject: 'Re: Saying Hello',
    });
    const third = answerTo({ messageId: '3456@example.net', references: second.references, subject: second.subject });
    expect(third).toEqual({
      inReplyTo: '3456@example.net',
      references: ['1234@local.machine.example', '3456@example.net'],
      subject: 'Re: Saying Hello',
    });
  });

  it('keeps its first and its latest messages, each once, however long it grows', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 60 }), (length) => {
        let references: readonly string[] = [];
        for (let i = 0; i < length; i += 1)
          ({ references } = answerTo({ messageId: `${i}@x.example`, references, subject: '' }));
        expect(new Set(references).size).toBe(references.length);
        expect(references.length).toBe(Math.min(length, 20));
        expect([references[0], references.at(-1)]).toEqual(['0@x.example', `${length - 1}@x.example`]);
      }),
    );
  });

  it.each([
    ['AW: RE: Fwd: chamber  too warm', 'chamber too warm'],
    ['Re[2]: x', 'x'],
    ['Regarding: x', 'Regarding: x'],
    ['Enc: RES: avaria', 'avaria'],
  ])('a subject %s is %s', (said, plain) => expect(plainSubject(said)).toBe(plain));

  it('is found by what it answers first, then by the latest reference that is known', () => {
    const map = new Map([
      ['a@x', 1],
      ['b@x', 2],
    ]);
    expect(nearestKnown({ inReplyTo: ['z@x'], references: ['a@x', 'b@x', 'q@x'] }, map)).toBe(2);
    expect(nearestKnown({ inReplyTo: ['a@x'], references: ['b@x'] }, map)).toBe(1);
    expect(nearestKnown({ inReplyTo: [], references: ['q@x'] }, map)).toBeNull();
    expect(idsIn('<a@x>\r\n\t<b@x> (comment) broken@x <c d>')).toEqual(['a@x', 'b@x']);
  });

  // RFC 3834, section 5: “auto-generated”, “auto-replied”; “no” is what people write.
  it.each([
    [{ autoSubmitted: 'auto-replied', precedence: null, returnPath: 'a@x' }, true],
    [{ autoSubmitted: 'auto-generated; owner=a', precedence: null, returnPath: 'a@x' }, true],
    [{ autoSubmitted: 'No', precedence: null, returnPath: 'a@x' }, false],
    [{ autoSubmitted: null, precedence: 'bulk', returnPath: 'a@x' }, true],
    [{ autoSubmitted: null, precedence: null, returnPath: '' }, true],
    [{ autoSubmitted: null, precedence: null, returnPath: null }, false],
  ])('%o was sent by a machine: %s', (headers, answer) => expect(isAutomatic(headers)).toBe(answer));
});

describe('the words', () => {
  it('are the writer’s own, apart from what they answer', () => {
    const text = 'It still alarms.\r\n\r\nOn 24 Nov 2026, Stavok wrote:\r\n> we have your call\r\n> Q1001';
    expect(partWords(text)).toEqual({
      own: 'It still alarms.',
      quoted: 'On 24 Nov 2026, Stavok wrote:\n> we have your call\n> Q1001',
    });
    expect(partWords('> is it on?\nYes.\n> since when?\nMonday.')).toEqual({
      own: 'Yes.\nMonday.',
      quoted: '> is it on?\n> since when?',
    });
  });

  it('lose nothing: every line is in one of the two', () => {
    const line = fc.constantFrom('> a', 'b', '', 'On 1 May 2026, A wrote:', 'From: a@x.example', '-- ', 'c d');
    fc.assert(
      fc.property(fc.array(line, { maxLength: 20 }), (lines) => {
        const { own, quoted } = partWords(lines.join('\n'));
        const kept = [...own.split('\n'), ...quoted.split('\n')].map((x) => x.trim()).filter((x) => x !== '');
        expect(kept.toSorted()).toEqual(
          lines
            .map((x) => x.trim())
            .filter((x) => x !== '')
            .toSorted(),
        );
      }),
    );
  });

  it('end at the signature, and name serials and tags', () => {
    const text = 'Unit AB-1042, serial 77/2211-C. Please come.\n-- \nLab 1001, room 12345';
    expect(saidIn(text)).toBe('Unit AB-1042, serial 77/2211-C. Please come.');
    expect(marksIn(saidIn(text))).toEqual(['AB-1042', '77/2211-C']);
  });
});
