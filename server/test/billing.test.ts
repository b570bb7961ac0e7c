// From a finished order to an issued invoice and back: looked through, corrected, approved, billed once, credited, settled.
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { JSDOM } from 'jsdom';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Look } from '#api/billing.ts';
import type { DocumentPage } from '#api/documents.ts';
import { must, type Answer } from './house.ts';
import { drawPaper } from '../src/settle/document-paper.ts';
import { orderCharge, orderPayment, person } from '../src/tables.ts';
import { billAsk, openBillingHouse, type BillingHouse } from './billing-house.ts';

let at: BillingHouse;
beforeAll(async () => {
  at = await openBillingHouse();
});
afterAll(() => at.house.close());

const refusedAt = ({ status, body }: Answer): unknown[] => [status, body.errors[0]?.field, body.errors[0]?.code];
const stageOf = async (id: number) => must(await at.call<{ stage: string }>('GET', `/api/orders/${id}`)).stage;
const correct = (id: number, body: object, by = at.manager) =>
  by('POST', `/api/settle/orders/${id}/corrections`, {
    ...{
      requestKey: randomUUID(),
      lineId: null,
      element: null,
      reason: 'late twice',
      goodwill: null,
      payers: [],
      ...body,
    },
  });

describe('a finished order', () => {
  it('is looked through with its list prices, what the agreement bears, and what the customer pays', async () => {
    const id = await at.done();
    const page = await at.look(id);
    // 2 × 89.90 = 179.80, of which 80 % = 143.84 is borne; the toll of 15.00 is the customer's.
    expect(page.charges.map((c) => [c.what, c.list, c.borne, c.pay, c.bearer])).toEqual([
      ['part', 179_80, 143_84, 35_96, expect.stringContaining('Full care')],
      ['other', 15_00, 0, 15_00, null],
    ]);
    expect(page.total).toMatchObject({ list: 194_80, borne: 143_84, pay: 50_96, cost: 114_50, margin: 50_96 - 114_50 });
    expect([page.state, page.odd]).toEqual(['to look at', ['no hours']]);
    const { items } = must(await at.call<{ items: Look[] }>('GET', '/api/settle/orders?only=odd'));
    expect(items.find((i) => i.orderId === id)).toMatchObject({ pay: 50_96, cost: null, odd: ['no hours'] });
  });

  it('is approved as it was seen; another sum, another time, or not done is named and left', async () => {
    const id = await at.done();
    const seen = await at.look(id);
    must(await correct(id, { goodwill: { minor: 1_00 } }));
    const ask = (digest: string | null, of = id) =>
      at.call<{ approved: number; left: { reason: string }[] }>('POST', '/api/settle/approvals', {
        orders: [{ id: of, digest }],
      });
    expect(must(await ask(seen.digest))).toMatchObject({
      approved: 0,
      left: [{ reason: expect.stringContaining('something else') as string }],
    });
    expect(must(await ask((await at.look(id)).digest)).approved).toBe(1);
    expect(must(await ask(null))).toMatchObject({
      approved: 0,
      left: [{ reason: expect.stringContaining('already') as string }],
    });
    expect(must(await ask(null, 99_999))).toMatchObject({ approved: 0, left: [{ reason: 'it is not done.' }] });
  });

  it('approved by two at once is approved once', async () => {
    const id = await at.done();
    const both = await Promise.all(
      [1, 2].map(() =>
        at.call<{ approved: number }>('POST', '/api/settle/approvals', { orders: [{ id, digest: null }] }),
      ),
    );
    expect(both.map((b) => must(b).approved).toSorted()).toEqual([0, 1]);
  });

  it('takes goodwill and other payers with their reasons; the parts add up to the cent', async () => {
    const id = await at.done();
    const [other] = must(await at.call<{ items: { id: number }[] }>('GET', '/api/customers?limit=5'))
      .items.map((c) => c.id)
      .slice(1);
    must(await correct(id, { element: 'other', goodwill: { percent: 33 } }));
    if (other) must(await correct(id, { element: 'parts', payers: [{ customerId: other, percent: 50 }] }));
    const { charges, corrections } = await at.look(id);
    // 33 % of 15.00 is 4.95.
    expect(charges.find((c) => c.what === 'other')).toMatchObject({
      goodwill: 4_95,
      pay: 10_05,
      reasons: ['late twice'],
    });
    for (const c of charges) expect(c.payers.reduce((sum, p) => sum + p.minor, 0)).toBe(c.pay);
    must(await at.manager('DELETE', `/api/settle/orders/${id}/corrections/${corrections[0]?.id}`));
    expect((await at.look(id)).total.goodwill).toBe(0);
  });

  it.each([
    ['without a reason', { reason: ' ', goodwill: { percent: 5 } }, [422, 'reason', 'invalid']],
    ['of more than is left', { goodwill: { minor: 99_999_00 } }, [422, 'off.minor', 'invalid']],
    ['that is neither', {}, [422, 'goodwill', 'invalid']],
    ['of nobody', { payers: [{ customerId: 99_999, percent: 5 }] }, [404, 'payers', 'not-found']],
  ])('refuses a correction %s, and nothing changes', async (_, body, expected) => {
    const id = await at.done();
    const before = await at.look(id);
    expect(refusedAt(await correct(id, body))).toEqual(expected);
    expect(await at.look(id)).toEqual(before);
  });

  it('goodwill is given by managers; above the limit a second person looks, never the same', async () => {
    const id = await at.done({ toll: 100_00 });
    expect((await correct(id, { goodwill: { percent: 5 } }, at.call)).status).toBe(403);
    must(await correct(id, { element: 'other', goodwill: { minor: 60_00 } }));
    must(await at.manager('POST', '/api/settle/approvals', { orders: [{ id, digest: null }] }));
    expect((await at.look(id)).state).toBe('second');
    await at.bill({ orderId: id, customerId: at.world.customerId });
    expect((await at.look(id)).documents).toEqual([]);
    expect((await at.manager('POST', `/api/settle/orders/${id}/second`)).status).toBe(403);
    const administrator = await at.house.as('administrator');
    must(await administrator('POST', `/api/settle/orders/${id}/second`));
    expect((await at.look(id)).state).toBe('approved');
    expect((await administrator('POST', `/api/settle/orders/${id}/second`)).status).toBe(409);
  });

  it('what changes after it was approved is seen, and an approval is taken back while nothing is billed', async () => {
    const id = await at.done();
    await at.approve(id);
    const { lines } = must(await at.call<{ lines: { id: number }[] }>('GET', `/api/orders/${id}`));
    must(
      await at.call('POST', `/api/orders/${id}/costs`, {
        ...{
          requestKey: randomUUID(),
          lineId: lines[0]?.id,
          day: '2026-11-23',
          text: 'Hire',
          cost: 1,
          price: 1,
          taxId: null,
        },
      }),
    );
    expect((await at.look(id)).odd).toContain('changed since it was approved');
    must(await at.call('DELETE', `/api/settle/orders/${id}/approval`));
    expect((await at.look(id)).state).toBe('to look at');
    await at.approve(id);
    await at.bill({ orderId: id, customerId: at.world.customerId });
    expect(refusedAt(await at.call('DELETE', `/api/settle/orders/${id}/approval`))[0]).toBe(409);
  });
});

describe('an invoice', () => {
  const billed = async (over: Parameters<BillingHouse['done']>[0] = {}) => {
    const id = await at.done(over);
    await at.approve(id);
    await at.bill({ orderId: id, customerId: at.world.customerId });
    const [document] = (await at.look(id)).documents;
    return { id, documentId: document?.id as number };
  };
  const read = async (id: number) => (await at.documents()).find((d) => d.id === id);

  it('lists in full, says what is off, and taxes the sum: by hand 35.96 + 15.00 = 50.96, 23 % 11.72', async () => {
    const { id, documentId } = await billed({ reference: 'PO 77' });
    const page = await read(documentId);
    expect(page?.lines.map((l) => [l.list, l.off, l.net, l.offBecause.slice(0, 8)])).toEqual([
      [179_80, 143_84, 35_96, 'borne by'],
      [15_00, 0, 15_00, ''],
    ]);
    expect(page?.taxes).toEqual([{ category: 'S', hundredths: 2300, taxable: 50_96, tax: 11_72 }]);
    expect(page).toMatchObject({ withoutTax: 50_96, withTax: 62_68, reference: 'PO 77', state: 'issued' });
    expect(page?.number).toMatch(/^INV-\d+$/);
    expect(await stageOf(id)).toBe('settled');
  });

  it('what was paid by card on site is taken off, on one document only', async () => {
    const id = await at.done();
    const [who] = await at.house.database.db.select({ id: person.id }).from(person).limit(1);
    await at.house.database.db.insert(orderPayment).values({
      ...({
        orderId: id as never,
        way: 'card',
        state: 'paid',
        amount: 20_00,
        currency: 'EUR',
        receipt: 'R 1',
      } as const),
      ...{ personId: who?.id as never, at: at.house.now, requestKey: randomUUID(), requestContent: '' },
    });
    await at.approve(id);
    await at.bill({ orderId: id, customerId: at.world.customerId });
    const page = await read((await at.look(id)).documents[0]?.id as number);
    // 62.68 less 20.00.
    expect([page?.withTax, page?.paid, page?.left]).toEqual([62_68, 20_00, 42_68]);
    must(
      await at.call('POST', `/api/settle/documents/${page?.id}/credit`, {
        ...{ requestKey: randomUUID(), reason: 'wrong address', again: true },
        lines: page?.lines.map((l) => ({ lineId: l.id, minor: l.net })),
      }),
    );
    await at.bill({ orderId: id, customerId: at.world.customerId });
    const [, , again] = (await at.look(id)).documents;
    expect((await read(again?.id as number))?.paid).toBe(0);
  });

  it('a bearer with a comma in its name is one bearer, in the words of whoever pays, on paper as well', async () => {
    const id = await at.done();
    await at.approve(id);
    const bearer = 'AG-9 Full care, sterile services';
    await at.house.database.db
      .update(orderCharge)
      .set({ bearer })
      .where(eq(orderCharge.orderId, id as never));
    await at.bill({ orderId: id, customerId: at.world.customerId });
    const page = (await read((await at.look(id)).documents[0]?.id as number)) as DocumentPage;
    expect(page.lines[0]?.offBecause).toBe(`borne by ${bearer}`);
    expect((await drawPaper(page)).subarray(0, 5).toString()).toBe('%PDF-');
  });

  it('is billed once, whoever asks and how often', async () => {
    const id = await at.done();
    await at.approve(id);
    const ask = () => at.bill({ orderId: id, customerId: at.world.customerId });
    await Promise.all([ask(), ask(), ask()]);
    expect((await at.look(id)).documents).toHaveLength(1);
    const requestKey = randomUUID();
    const twice = await Promise.all(
      [1, 2].map(() => at.call<{ id: number }>('POST', '/api/settle/runs', { requestKey, ...billAsk() })),
    );
    expect(new Set(twice.map((t) => must(t).id)).size).toBe(1);
    expect((await at.call('POST', '/api/settle/runs', { requestKey, ...billAsk({ issues: false }) })).status).toBe(409);
  });

  it('a preview is the act: the same documents and sums, and nothing is written by it', async () => {
    const ids = [await at.done(), await at.done({ toll: 0 })];
    await at.approve(...ids);
    type Preview = { documents: number; withTax: number };
    const preview = must(await at.call<Preview>('POST', '/api/settle/runs/preview', billAsk()));
    expect(must(await at.call<Preview>('POST', '/api/settle/runs/preview', billAsk()))).toEqual(preview);
    const run = await at.bill();
    const made = await at.documents(`?run=${run}`);
    expect([made.length, made.reduce((sum, d) => sum + d.withTax, 0)]).toEqual([preview.documents, preview.withTax]);
    expect(must(await at.call<Preview>('POST', '/api/settle/runs/preview', billAsk())).documents).toBe(0);
  });

  it('a draft is issued or given up; given up, it waits to be billed again', async () => {
    const id = await at.done();
    await at.approve(id);
    await at.bill({ orderId: id, customerId: at.world.customerId, issues: false });
    const [draft] = (await at.look(id)).documents;
    expect([draft?.number, await stageOf(id)]).toEqual([null, 'settled']);
    must(await at.call('POST', `/api/settle/documents/${draft?.id}/discard`, { version: 1 }));
    expect([(await at.look(id)).documents, await stageOf(id)]).toEqual([[], 'done']);
    await at.bill({ orderId: id, customerId: at.world.customerId, issues: false });
    const [again] = (await at.look(id)).documents;
    expect((await at.call('POST', `/api/settle/documents/${again?.id}/issue`, { version: 7 })).status).toBe(409);
    must(await at.call('POST', `/api/settle/documents/${again?.id}/issue`, { version: 1 }));
    expect((await read(again?.id as number))?.number).toMatch(/^INV-/);
    for (const act of ['issue', 'discard'])
      expect((await at.call('POST', `/api/settle/documents/${again?.id}/${act}`, { version: 2 })).status).toBe(409);
  });

  it('is credited in part and in full, never for more, and to be billed again where that is wanted', async () => {
    const { id, documentId } = await billed();
    const page = await read(documentId);
    const credit = (body: object) =>
      at.call<{ id: number }>('POST', `/api/settle/documents/${documentId}/credit`, {
        ...{ requestKey: randomUUID(), reason: 'wrong payer', again: false, ...body },
      });
    const [first, second] = page?.lines.map((l) => l.id) as [number, number];
    must(await credit({ lines: [{ lineId: first, minor: 10_00 }] }));
    expect(refusedAt(await credit({ lines: [{ lineId: first, minor: 25_97 }] }))).toEqual([
      422,
      'lines.0.minor',
      'invalid',
    ]);
    expect((await credit({ again: true, lines: [{ lineId: first, minor: 25_96 }] })).status).toBe(409);
    const key = randomUUID();
    const rest = {
      requestKey: key,
      lines: [
        { lineId: first, minor: 25_96 },
        { lineId: second, minor: 15_00 },
      ],
    };
    const both = await Promise.all([credit(rest), credit(rest)]);
    expect(new Set(both.map((b) => must(b).id)).size).toBe(1);
    const after = await read(documentId);
    // Invoice and notes come to nothing together, tax included: 62.68.
    expect([after?.credited, after?.notes.length, after?.withTax]).toEqual([62_68, 2, 62_68]);
    expect(await stageOf(id)).toBe('settled');
    const other = await billed();
    const whole = await read(other.documentId);
    must(
      await at.call('POST', `/api/settle/documents/${other.documentId}/credit`, {
        ...{ requestKey: randomUUID(), reason: 'wrong address', again: true },
        lines: whole?.lines.map((l) => ({ lineId: l.id, minor: l.net })),
      }),
    );
    expect([await stageOf(other.id), (await at.look(other.id)).state]).toEqual(['done', 'approved']);
    await at.bill({ orderId: other.id, customerId: at.world.customerId });
    expect((await at.look(other.id)).documents.map((d) => d.kind)).toEqual(['invoice', 'credit note', 'invoice']);
  });

  it('numbers have no gaps, whoever issues at once', async () => {
    const ids: number[] = [];
    for (let i = 0; i < 6; i += 1) ids.push(await at.done());
    await at.approve(...ids);
    await Promise.all(ids.map((orderId) => at.bill({ orderId, customerId: at.world.customerId })));
    const numbers = async (kind: string) =>
      (await at.documents(`?kind=${kind}`))
        .flatMap((d) => (d.number ? [Number(/\d+$/.exec(d.number)?.[0])] : []))
        .toSorted((a, b) => a - b);
    for (const kind of ['invoice', 'credit%20note']) {
      const all = await numbers(kind);
      expect(all).toEqual(all.map((_, i) => 10_001 + i));
    }
  });

  it('by month stands on one document; what is covered in full is shown where that is wanted', async () => {
    const change = (body: object) =>
      at.call('PUT', `/api/customers/${at.world.customerId}/billing`, {
        ...{ version: 0, grouping: 'month', showsCovered: true, needsReference: false, taxId: null, address: '' },
        ...{ country: 'pt', taxNumber: '', contactId: null, ...body },
      });
    must(await change({}));
    expect((await change({})).status).toBe(409);
    const ids = [await at.done({ toll: 0 }), await at.done()];
    await at.approve(...ids);
    const [page] = await at.documents(`?run=${await at.bill()}`);
    expect([page?.about, page?.lines.length, new Set(page?.lines.map((l) => l.orderId)).size]).toEqual([
      'all of 2026-11',
      3,
      2,
    ]);
    must(await change({ version: 1, needsReference: true }));
    const bare = await at.done();
    expect(await at.approve(bare)).toMatchObject({
      approved: 0,
      left: [{ reason: expect.stringContaining('order number') as string }],
    });
    must(await change({ version: 2, grouping: 'order', showsCovered: false }));
  });

  it('is a PDF, and a file of UBL 2.1 that another reader reads: its sums by EN 16931', async () => {
    const { documentId } = await billed({ reference: 'PO <9> & "x"' });
    const page = await read(documentId);
    const pdf = await at.house.app.inject({
      ...{ method: 'GET', url: `/api/settle/documents/${documentId}/file?as=pdf` },
      headers: { cookie: await cookieOf() },
    });
    expect(pdf.rawPayload.subarray(0, 5).toString()).toBe('%PDF-');
    const file = await at.house.app.inject({
      ...{ method: 'GET', url: `/api/settle/documents/${documentId}/file?as=ubl` },
      headers: { cookie: await cookieOf() },
    });
    // jsdom's own XML parser: not the one that wrote it.
    const xml = new new JSDOM('').window.DOMParser().parseFromString(file.payload, 'application/xml');
    const all = (name: string, of: ParentNode = xml) => [...of.querySelectorAll(`*|${name}`)];
    const minor = (e: Element | undefined) => Math.round(Number(e?.textContent) * 100);
    expect(xml.documentElement.namespaceURI).toBe('urn:oasis:names:specification:ubl:schema:xsd:Invoice-2');
    expect(all('OrderReference')[0]?.textContent?.trim()).toBe('PO <9> & "x"');
    const lines = all('InvoiceLine');
    const net = lines.map((l) => minor(all('LineExtensionAmount', l)[0]));
    expect(net).toEqual(page?.lines.map((l) => l.net));
    const totals = all('LegalMonetaryTotal')[0] as Element;
    const [sum, exclusive, inclusive, payable] = [
      'LineExtensionAmount',
      'TaxExclusiveAmount',
      'TaxInclusiveAmount',
      'PayableAmount',
    ].map((name) => minor(all(name, totals)[0])) as [number, number, number, number];
    // BR-CO-10, BR-CO-13, BR-CO-15, BR-CO-16.
    expect(sum).toBe(net.reduce((a, b) => a + b, 0));
    expect(exclusive).toBe(sum);
    const tax = minor(all('TaxTotal')[0]?.querySelector('TaxAmount') ?? all('TaxAmount')[0]);
    expect([inclusive, payable]).toEqual([exclusive + tax, exclusive + tax]);
    // A line's price times its quantity, less its allowance, is its net amount.
    for (const [i, line] of lines.entries()) {
      const [quantity, price, base] = ['InvoicedQuantity', 'PriceAmount', 'BaseQuantity'].map((n) =>
        Number(all(n, line)[0]?.textContent),
      );
      const off = all('AllowanceCharge', line).reduce((s, a) => s + minor(all('Amount', a)[0]), 0);
      expect(Math.round(((quantity ?? 0) * (price ?? 0) * 100) / (base ?? 1)) - off).toBe(net[i]);
    }
  });
});

/** A session, for what is not JSON. */
async function cookieOf(): Promise<string> {
  const signedIn = await at.house.app.inject({
    ...{ method: 'POST', url: '/api/session' },
    payload: { email: 'coordinator@example.org', password: (await import('./house.ts')).PASSWORD },
  });
  return signedIn.cookies.map((c) => `${c.name}=${c.value}`).join('; ');
}
