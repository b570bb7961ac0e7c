// Mail: taken by SMTP as any mail program sends it, read as RFC 5322 and RFC 2047 have it (their examples, and a second published
// parser beside ours), matched, made an order or a part of one, and answered in its thread.
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import fc from 'fast-check';
import { createTransport } from 'nodemailer';
import PostalMime from 'postal-mime';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { freePort } from '../../commands/mariadb.ts';
import { startGateways, type StandInGateways } from '#standins/gateways.ts';
import type { MailPage, MailRow } from '#api/mailbox.ts';
import type { OrderPage } from '#api/orders.ts';
import { identifierOf } from '../src/mailbox/intake.ts';
import { parseMail } from '../src/mailbox/parse.ts';
import { attachment, mail, workOrder } from '../src/tables.ts';
import { refusedAt } from './calling.ts';
import { buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

const PNG = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);
let gateways: StandInGateways;
let house: TestHouse;
let call: Caller;
let world: World;
let port: number;
let marta: number;

beforeAll(async () => {
  [gateways, port] = await Promise.all([startGateways(), freePort()]);
  house = await openHouse(undefined, false, { mailboxPort: port, mailUrl: gateways.mailUrl });
  call = await house.as('coordinator');
  world = await buildWorld(call);
  const contact = { name: 'Marta Costa', role: null, email: 'marta@norvela.example', phone: null, preferred: 'e-mail' };
  marta = (await call<{ id: number }>('POST', `/api/customers/${world.customerId}/contacts`, contact)).body.id;
});
afterAll(async () => {
  await house?.close();
  await gateways?.stop();
});

type Sent = Parameters<ReturnType<typeof createTransport>['sendMail']>[0];
async function send(message: Sent): Promise<void> {
  const transport = createTransport({ host: '127.0.0.1', port, secure: false, ignoreTLS: true });
  try {
    await transport.sendMail({ to: 'service@stavok.example', from: 'Marta Costa <marta@norvela.example>', ...message });
  } finally {
    transport.close();
  }
}
const list = async (state = 'to look at'): Promise<MailRow[]> =>
  (await call<{ items: MailRow[] }>('GET', `/api/mail?state=${encodeURIComponent(state)}`)).body.items;
const page = async (id: number): Promise<MailPage> => (await call<MailPage>('GET', `/api/mail/${id}`)).body;
/** The message with this subject, once it was read. */
async function come(subject: string, state?: string): Promise<MailPage> {
  await expect
    .poll(async () => (await list(state)).filter((m) => m.isRead).map((m) => m.subject), { timeout: 10_000 })
    .toContain(subject);
  return page((await list(state)).find((m) => m.subject === subject)?.id as number);
}
const order = async (id: number): Promise<OrderPage> => (await call<OrderPage>('GET', `/api/orders/${id}`)).body;
const asked = (over: object = {}) => ({
  ...{ requestKey: randomUUID(), assetIds: [world.assetIds[0]], priority: 1, cause: 'wear', title: 'Warm' },
  ...{ receivedAt: '2026-11-24T09:00:00Z', callerId: marta, ...over },
});

describe('a message', () => {
  it('of a contact is a call to look at: theirs, with the machines it names and the photo that came with it', async () => {
    const [, tagged] = world.assetIds;
    const { tag } = (await call<{ tag: string }>('GET', `/api/assets/${tagged}`)).body;
    await send({
      subject: 'Chamber too warm – urgent',
      text: `The unit ${tag} shows +12 °C.\n\nOn 20 Nov 2026, Stavok wrote:\n> your visit is planned\n`,
      attachments: [
        { filename: 'display.png', content: PNG },
        { filename: 'log.csv', content: 'a;b' },
      ],
    });
    const got = await come('Chamber too warm – urgent');
    expect(got).toMatchObject({
      fromName: 'Marta Costa',
      customer: { id: world.customerId },
      contact: { id: marta },
      own: `The unit ${tag} shows +12 °C.`,
      quoted: 'On 20 Nov 2026, Stavok wrote:\n> your visit is planned',
      proposed: null,
      machines: [{ id: tagged, tag }],
    });
    expect(got.notKept).toEqual([
      { name: 'log.csv', bytes: 3, why: '“log.csv” is not a photo or PDF; attach JPEG, PNG, WebP or PDF.' },
    ]);
    const files = await call<{ items: { name: string }[] }>('GET', `/api/files?subject=mail&subjectId=${got.id}`);
    expect(files.body.items.map((f) => f.name)).toEqual(['display.png']);
    const original = await call<{ text: string }>('GET', `/api/mail/${got.id}/original`);
    expect(original.body.text).toContain('display.png');
    expect((await call<{ mailbox: number }>('GET', '/api/counts')).body.mailbox).toBe((await list()).length);
  });

  it('becomes an order: its words a note, its photo with it, and what is told of it in its thread', async () => {
    await send({
      subject: 'Door broken',
      text: 'The door does not close.',
      messageId: '<door@norvela.example>',
      attachments: [{ filename: 'door.png', content: PNG }],
    });
    const { id } = await come('Door broken');
    const { body } = await call<{ id: number }>('POST', `/api/mail/${id}/orders`, asked({ title: 'Door broken' }));
    const raised = await order(body.id);
    expect(raised.events.map((e) => e.text).join('\n')).toContain('mail of Marta Costa: The door does not close.');
    const files = await call<{ items: { name: string }[] }>('GET', `/api/files?subject=order&subjectId=${body.id}`);
    expect(files.body.items.map((f) => f.name)).toEqual(['door.png']);
    expect(await page(id)).toMatchObject({ state: 'on an order', orderId: body.id });
    await expect
      .poll(() => gateways.taken.map((t) => t.text).join(), { timeout: 8000 })
      .toContain('door@norvela.example');
    const told = gateways.taken.find((t) => t.text.includes('door@norvela.example'));
    const read = await PostalMime.parse(told?.text ?? '');
    expect([read.inReplyTo, read.references, read.subject]).toEqual([
      '<door@norvela.example>',
      '<door@norvela.example>',
      'Re: Door broken',
    ]);
    // The answer to what was told finds the order by itself.
    await send({
      subject: 'AW: Door broken',
      text: 'Thank you.',
      inReplyTo: read.messageId,
      references: [read.references ?? '', read.messageId ?? ''],
    });
    const reply = await come('AW: Door broken');
    expect([reply.orderId, reply.open[0]?.likely]).toEqual([body.id, true]);
    expect((await call('POST', `/api/mail/${reply.id}/join`, { orderId: body.id })).status).toBe(200);
    expect((await call('POST', `/api/mail/${reply.id}/join`, { orderId: body.id })).status).toBe(200);
    expect((await order(body.id)).events.filter((e) => e.text.includes('Thank you.'))).toHaveLength(1);
  });

  it('is answered in its thread, once for one request', async () => {
    await send({
      subject: 'Re: opening hours',
      text: 'When?',
      messageId: '<h2@norvela.example>',
      inReplyTo: '<h1@norvela.example>',
      references: '<h0@norvela.example> <h1@norvela.example>',
    });
    const { id } = await come('Re: opening hours');
    const requestKey = randomUUID();
    for (const _ of [1, 2])
      expect((await call('POST', `/api/mail/${id}/answers`, { requestKey, text: 'From eight.' })).status).toBe(200);
    await expect
      .poll(() => gateways.taken.filter((t) => t.text.includes('From eight.')).length, { timeout: 8000 })
      .toBe(1);
    const read = await PostalMime.parse(gateways.taken.find((t) => t.text.includes('From eight.'))?.text ?? '');
    expect(read).toMatchObject({
      subject: 'Re: opening hours',
      inReplyTo: '<h2@norvela.example>',
      references: '<h0@norvela.example> <h1@norvela.example> <h2@norvela.example>',
      to: [{ address: 'marta@norvela.example' }],
    });
    expect((await page(id)).answers.map((a) => a.body)).toEqual(['From eight.\n\nThe coordinator\n']);
  });

  it('of somebody new makes a contact of them, and their other messages are theirs', async () => {
    const from = '"Nunes, Zita" <zita@new.example>';
    await send({ from, subject: 'First', text: 'Hello\n-- \nZita Nunes\nTel. +351 900 333 444' });
    await send({ from, subject: 'Second', text: 'Hello again' });
    const [first, second] = [await come('First'), await come('Second')];
    expect([first.customer, first.contact, first.open]).toEqual([null, null, []]);
    expect(first.proposed).toEqual({ name: 'Zita Nunes', email: 'zita@new.example', phone: '+351 900 333 444' });
    const { name, phone } = first.proposed ?? { name: '', phone: null };
    const made = await call<{ contactId: number }>('POST', `/api/mail/${first.id}/sender`, {
      customerId: world.customerId,
      name,
      phone,
      language: 'pt',
    });
    expect(made.status).toBe(200);
    expect((await page(second.id)).contact).toEqual({ id: made.body.contactId, name: 'Zita Nunes' });
    const again = await call('POST', `/api/mail/${second.id}/sender`, { customerId: world.customerId, name });
    expect(refusedAt(again)).toEqual([409, null, 'conflict']);
    // From now on they are known, and others of their house are their customer’s only if all are.
    await send({ from: 'post@new.example', subject: 'Third', text: 'x' });
    expect(await come('Third')).toMatchObject({ customer: { id: world.customerId }, contact: null });
  });

  it('that comes twice is one, also by two deliveries at once', async () => {
    const twice = { subject: 'Twice', text: 'x', messageId: '<twice@norvela.example>' };
    await Promise.all([send(twice), send(twice), send(twice)]);
    await send(twice);
    await come('Twice');
    expect((await list()).filter((m) => m.subject === 'Twice')).toHaveLength(1);
  });

  it('of a machine is put away by itself and not answered; somebody may look at it nevertheless', async () => {
    await send({ subject: 'Out of office', text: 'Back on Monday', headers: { 'auto-submitted': 'auto-replied' } });
    const { id, putAwayReason } = await come('Out of office', 'put away');
    expect(putAwayReason).toBe('sent by a machine');
    const answer = await call('POST', `/api/mail/${id}/answers`, { requestKey: randomUUID(), text: 'x' });
    expect(refusedAt(answer)).toEqual([409, null, 'conflict']);
    expect((await call('POST', `/api/mail/${id}/away`, { reason: null })).status).toBe(200);
    expect((await page(id)).state).toBe('to look at');
    expect(refusedAt(await call('POST', `/api/mail/${id}/away`, { reason: ' ' }))[1]).toBe('reason');
  });

  it('that claims a thread which is not theirs is nobody’s', async () => {
    const theirs = await come('AW: Door broken', 'on an order');
    const stranger = {
      from: 'who@elsewhere.example',
      inReplyTo: '<door@norvela.example>',
      references: '<outbox-1@stavok.example.org>',
    };
    await send({ ...stranger, subject: 'Re: your order', text: 'pay here' });
    expect(await come('Re: your order')).toMatchObject({ orderId: null, customer: null });
    expect(theirs.orderId).not.toBeNull();
  });

  it('that names another customer’s order in its subject is not believed', async () => {
    const raised = (await call<{ id: number }>('POST', '/api/orders', asked())).body.id;
    const number = `WO-${10_000 + raised}`;
    await send({ subject: `about ${number}`, text: 'x', from: 'who@elsewhere.example' });
    await send({ subject: `question on ${number}`, text: 'x' });
    expect((await come(`about ${number}`)).orderId).toBeNull();
    expect((await come(`question on ${number}`)).orderId).toBe(raised);
  });
});

describe('refused without a trace', () => {
  const held = async () => ({
    mail: await house.database.db.select().from(mail),
    orders: await house.database.db.$count(workOrder),
    files: await house.database.db.$count(attachment),
  });

  it('a message of 30 MB, told so to whoever hands it over; the next one is taken', async () => {
    const before = await held();
    const text = 'x'.repeat(30 * 1024 * 1024);
    await expect(send({ subject: 'Huge', text })).rejects.toThrow(/552.*25 MB at most/s);
    expect(await held()).toEqual(before);
    await send({ subject: 'After the huge one', text: 'x' });
    await come('After the huge one');
  }, 60_000);

  it('an order of a message that is on one, or of nothing; a machine or an order that does not exist', async () => {
    await send({ subject: 'Raised already', text: 'x' });
    const { id } = await come('Raised already');
    const first = await call<{ id: number }>('POST', `/api/mail/${id}/orders`, asked());
    expect(first.status).toBe(200);
    await send({ subject: 'Loose', text: 'x' });
    const loose = await come('Loose');
    const before = await held();
    expect(refusedAt(await call('POST', `/api/mail/${id}/orders`, asked()))).toEqual([409, null, 'wrong-stage']);
    expect(refusedAt(await call('POST', `/api/mail/${id}/away`, { reason: 'x' }))).toEqual([409, null, 'wrong-stage']);
    expect(refusedAt(await call('POST', '/api/mail/99999/orders', asked()))).toEqual([404, null, 'not-found']);
    expect((await call('POST', `/api/mail/${loose.id}/orders`, asked({ assetIds: [99_999] }))).status).toBe(404);
    expect((await call('POST', `/api/mail/${loose.id}/join`, { orderId: 99_999 })).status).toBe(404);
    expect(await held()).toEqual(before);
  });

  it('mail and its files for a technician', async () => {
    const technician = await house.as('technician');
    const [{ id } = { id: 0 }] = await house.database.db
      .select({ id: mail.id })
      .from(mail)
      .where(eq(mail.subject, 'Door broken'));
    for (const url of [
      '/api/mail',
      `/api/mail/${id}`,
      `/api/mail/${id}/original`,
      `/api/files?subject=mail&subjectId=${id}`,
    ])
      expect((await technician('GET', url)).status).toBe(403);
    const [file] = await house.database.db.select().from(attachment).where(eq(attachment.subject, 'mail'));
    expect((await technician('GET', `/api/files/${file?.id}/content`)).status).toBe(403);
    expect((await call('DELETE', `/api/files/${file?.id}`)).status).toBe(403);
  });
});

const raw = (lines: string[]): Buffer => Buffer.from(lines.join('\r\n'), 'latin1');

describe('reading', () => {
  // RFC 2047, section 8: the display forms of its examples.
  it.each([
    ['=?ISO-8859-1?Q?a?=', 'a'],
    ['=?ISO-8859-1?Q?a?= b', 'a b'],
    ['=?ISO-8859-1?Q?a?= =?ISO-8859-1?Q?b?=', 'ab'],
    ['=?ISO-8859-1?Q?a?=  =?ISO-8859-1?Q?b?=', 'ab'],
    ['=?ISO-8859-1?Q?a?=\r\n    =?ISO-8859-1?Q?b?=', 'ab'],
    ['=?ISO-8859-1?Q?a_b?=', 'a b'],
    ['=?ISO-8859-1?Q?a?= =?ISO-8859-2?Q?_b?=', 'a b'],
    [
      '=?ISO-8859-1?B?SWYgeW91IGNhbiByZWFkIHRoaXMgeW8=?=\r\n =?ISO-8859-2?B?dSB1bmRlcnN0YW5kIHRoZSBleGFtcGxlLg==?=',
      'If you can read this you understand the example.',
    ],
  ])('RFC 2047: %s', async (subject, shown) => {
    expect((await parseMail(raw([`Subject: ${subject}`, 'From: a@x.example', '', 'x']))).subject).toBe(shown);
  });

  it.each([
    ['=?US-ASCII?Q?Keith_Moore?= <moore@cs.utk.example>', 'Keith Moore', 'moore@cs.utk.example'],
    ['=?ISO-8859-1?Q?Keld_J=F8rn_Simonsen?= <keld@dkuug.example>', 'Keld Jørn Simonsen', 'keld@dkuug.example'],
    ['=?ISO-8859-1?Q?Patrik_F=E4ltstr=F6m?= <paf@nada.example>', 'Patrik Fältström', 'paf@nada.example'],
    // RFC 5322, appendix A.1.2: a quoted name with a comma’s relatives, and a group of nobody’s phrase.
    ['"Joe Q. Public" <john.q.public@example.com>', 'Joe Q. Public', 'john.q.public@example.com'],
    ['"Giant; \\"Big\\" Box" <sysservices@example.net>', 'Giant; "Big" Box', 'sysservices@example.net'],
  ])('senders: %s', async (from, name, address) => {
    const read = await parseMail(raw([`From: ${from}`, '', 'x']));
    expect([read.fromName, read.fromAddress]).toEqual([name, address]);
  });

  it('RFC 5322, appendix A.2: a reply names what it answers', async () => {
    const read = await parseMail(
      raw([
        'From: Mary Smith <mary@example.net>',
        'To: "John Doe" <jdoe@machine.example>',
        'Subject: Re: Saying Hello',
        'Date: Fri, 21 Nov 1997 10:01:10 -0600',
        'Message-ID: <3456@example.net>',
        'In-Reply-To: <1234@local.machine.example>',
        'References: <1234@local.machine.example>',
        '',
        'This is a reply to your hello.',
      ]),
    );
    expect(read).toMatchObject({
      inReplyTo: ['1234@local.machine.example'],
      references: ['1234@local.machine.example'],
      sentAt: Date.parse('1997-11-21T16:01:10Z'),
    });
    expect(identifierOf(raw(['Message-ID:', ' <3456@example.net>', '', 'Message-ID: <no@x>']))).toMatch(
      /^3456@example.net$|^none-/,
    );
    expect(identifierOf(raw(['Subject: x', '', 'Message-ID: <no@x>']))).toMatch(/^none-/);
  });

  it('a charset that does not exist, halves of characters and no header at all: what can be read is, and nothing throws', async () => {
    const broken = await parseMail(
      raw(['From: a@x.example', 'Content-Type: text/plain; charset=klingon-9', '', 'caf\xe9 open']),
    );
    expect(broken.text).toContain('open');
    const utf = await parseMail(
      raw(['Subject: =?utf-8?Q?=FF=FE_x?=', 'Content-Type: text/plain; charset=utf-8', '', 'a\xff\xfeb']),
    );
    expect([utf.subject, utf.text].join()).not.toMatch(/\p{Surrogate}|\0/u);
    expect(await parseMail(Buffer.from(''))).toMatchObject({ fromAddress: '', subject: '', attached: [] });
  });

  it('says of what it was made of what a second published parser says', async () => {
    const words = fc.string({
      unit: fc.constantFrom('a', 'ß', 'é', '中', ' ', ',', '“', 'z', '7'),
      minLength: 1,
      maxLength: 40,
    });
    const bytes = fc.uint8Array({ maxLength: 60 });
    const transport = createTransport({ streamTransport: true, buffer: true });
    await fc.assert(
      fc.asyncProperty(words, words, words, bytes, async (name, subject, text, content) => {
        const { message } = await transport.sendMail({
          ...{ from: { name, address: 'a@x.example' }, to: 'b@x.example', subject, text: `${text}\n${subject}` },
          // One blank at a time: the sender folds a name within its quotes, and readers differ on what a
          // folded run of blanks was.
          attachments: [{ filename: `${name.replace(/ +/g, ' ').trim() || 'x'}.bin`, content: Buffer.from(content) }],
        });
        const [ours, theirs] = [await parseMail(message as Buffer), await PostalMime.parse(message as Buffer)];
        expect([ours.fromName, ours.fromAddress, ours.subject.trim(), ours.text.trim()]).toEqual([
          ...[theirs.from?.name ?? '', theirs.from && 'address' in theirs.from ? theirs.from.address : ''],
          ...[theirs.subject?.trim() ?? '', theirs.text?.trim() ?? ''],
        ]);
        expect(ours.attached.map((a) => [a.name, [...a.bytes]])).toEqual(
          theirs.attachments.map((a) => [a.filename, [...new Uint8Array(a.content as ArrayBuffer)]]),
        );
      }),
      { numRuns: 60 },
    );
  });
});
