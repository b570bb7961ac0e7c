// Claims to makers: made with an approval, sent with their paper, accepted in part, closed by what came in, and opened again.
import { asc, desc, eq, inArray } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ClaimList, ClaimPage } from '#api/claims.ts';
import type { PaymentPage } from '#api/payments.ts';
import type { JournalPage } from '#api/journal.ts';
import { asInstant, asLocalDate } from '#core/time/index.ts';
import type { AssetId } from '#core/ids.ts';
import { readContent } from '../src/platform/content.ts';
import { asset, claim, claimEntry, claimLine, claimStep, incomingPayment, outbox } from '../src/tables.ts';
import { openBillingHouse, type BillingHouse } from './billing-house.ts';
import { finding, must } from './house.ts';

let at: BillingHouse;
beforeAll(async () => {
  at = await openBillingHouse();
  await at.house.database.db
    .update(asset)
    .set({ warrantyUntil: asLocalDate('2027-06-30') })
    .where(inArray(asset.id, at.world.assetIds.slice(1) as AssetId[]));
});
afterAll(() => at?.house.close());

const list = async (state: ClaimPage['state']) =>
  must(await at.call<ClaimList>('GET', `/api/settle/claims?state=${state}`));
const read = async (id: number) => must(await at.call<ClaimPage>('GET', `/api/settle/claims/${id}`));
const send = (id: number, body: object, path = '') => at.call('POST', `/api/settle/claims/${id}${path}`, body);
const asked = async (over: { machine?: number } = {}): Promise<ClaimPage> => {
  const order = await at.done({ machine: 1, ...over });
  await at.approve(order);
  const { items } = await list('to send');
  const own = items.find((c) => c.order.id === order);
  return read(own?.id ?? 0);
};
const handedIn = async (): Promise<ClaimPage> => {
  const { id, version } = await asked();
  must(await send(id, { version, way: 'otherwise', text: 'their page, 4711' }, '/send'));
  return read(id);
};
const accepting = (page: ClaimPage, minors: readonly number[], why = 'their own rate') => ({
  version: page.version,
  theirNumber: 'RMA 12',
  lines: page.lines.map((l, i) => ({ chargeId: l.chargeId, minor: minors[i] ?? 0, why })),
});
const answered = async (): Promise<ClaimPage> => {
  const page = await handedIn();
  must(await send(page.id, accepting(page, [100_00]), '/answer'));
  return read(page.id);
};
const kept = async () => {
  const { db } = at.house.database;
  return Promise.all([
    db.select().from(claim).orderBy(asc(claim.id)),
    db.select().from(claimLine).orderBy(asc(claimLine.chargeId)),
    db.select().from(claimEntry).orderBy(asc(claimEntry.id)),
    db.select().from(claimStep).orderBy(asc(claimStep.id)),
    db.select().from(incomingPayment).orderBy(asc(incomingPayment.id)),
  ]);
};
/** Refused with a status at a field, and nothing is another than before. */
async function refused(act: () => ReturnType<typeof send>): Promise<[number, string | undefined]> {
  const before = await kept();
  const { status, body } = await act();
  expect(await kept()).toEqual(before);
  return [status, body.errors?.[0]?.field ?? undefined];
}
const owed = async (): Promise<number> => {
  const { accounts } = must(await at.call<JournalPage>('GET', '/api/settle/journal?month=2026-11'));
  expect(accounts.reduce((sum, a) => sum + a.debit - a.credit, 0)).toBe(0);
  return accounts.filter((a) => a.account === 'owed by makers').reduce((sum, a) => sum + a.debit - a.credit, 0);
};
const payment = async (minor: number, currency = 'EUR'): Promise<number> => {
  const [made] = await at.house.database.db
    .insert(incomingPayment)
    .values({
      ...{
        state: 'open' as const,
        minor,
        left: minor,
        currency: currency as never,
        payer: 'Tindrel Works',
        text: 'RMA',
      },
      ...{ bookedOn: asLocalDate('2026-11-20'), journalOn: asLocalDate('2026-11-20'), payerAccount: '' },
      ...{ personId: 1 as never, at: asInstant('2026-11-20T09:00:00Z') },
    })
    .$returningId();
  return made?.id as number;
};

describe('a claim', () => {
  it('is drawn up with the approval of work under a warranty, and goes with it while nobody was asked', async () => {
    const plain = await at.done();
    await at.approve(plain);
    expect((await list('to send')).items).toEqual([]);
    const page = await asked();
    expect([page.maker, page.asked, page.accepted, page.by, page.order.title]).toEqual([
      ...['Tindrel', 179_80, null, null, 'Warm'],
    ]);
    expect(page.lines.map((l) => [l.element, l.text, l.borne, l.machine?.id])).toEqual([
      ['parts', 'GS-720 Door gasket', 179_80, at.world.assetIds[1]],
    ]);
    expect(page.because[0]).toMatch(/^Warranty to 30 Jun 2027/);
    expect(page.gaps).toContain('there is no photo');
    must(await at.manager('DELETE', `/api/settle/orders/${page.order.id}/approval`));
    expect((await list('to send')).items).toEqual([]);
  });

  it('is sent by mail with its paper to where claims of the maker go, once that is known', async () => {
    const page = await asked();
    const mailing = { version: page.version, way: 'mail', text: '' };
    expect(await refused(() => send(page.id, mailing, '/send'))).toEqual([422, 'way']);
    expect(await refused(() => send(page.id, { ...mailing, way: 'otherwise' }, '/send'))).toEqual([422, 'text']);
    const terms = { name: page.maker, mail: 'warranty@tindrel.example', days: 1, version: null };
    must(await at.call('PUT', '/api/settle/makers', terms));
    expect((await at.call('PUT', '/api/settle/makers', terms)).status).toBe(409);
    const late = await read(page.id);
    expect([late.by, late.gaps[0]]).toEqual(['2026-11-24', expect.not.stringContaining('last day') as string]);
    must(await send(page.id, mailing, '/send'));
    const [mail] = await at.house.database.db.select().from(outbox).where(eq(outbox.kind, 'claim sent'));
    expect([mail?.address, mail?.subject, mail?.paperName]).toEqual([
      ...['warranty@tindrel.example', `Warranty claim CL-${page.id}: EUR 179.80`, `CL-${page.id}.pdf`],
    ]);
    const paper = await readContent(at.house.database.db, mail?.paperSha256 ?? '');
    expect(paper.subarray(0, 5).toString()).toBe('%PDF-');
    expect((await send(page.id, { ...mailing, version: page.version + 1 }, '/send')).body.detail).toMatch(/waits/);
    const withdrawn = () => at.manager('DELETE', `/api/settle/orders/${page.order.id}/approval`);
    expect((await refused(withdrawn))[0]).toBe(409);
  });

  it('asks for less than the warranty bears where somebody says so, never for more', async () => {
    const page = await asked();
    const change = (minor: number, maker = page.maker) =>
      at.call('PUT', `/api/settle/claims/${page.id}`, {
        ...{ version: page.version, maker },
        lines: page.lines.map((l) => ({ chargeId: l.chargeId, minor })),
      });
    expect(await refused(() => change(179_81))).toEqual([422, 'lines.0.minor']);
    must(await change(150_00, ''));
    const less = await read(page.id);
    expect([less.asked, less.maker]).toEqual([150_00, '']);
    const nobody = { version: less.version, way: 'otherwise', text: 'x' };
    expect(await refused(() => send(page.id, nobody, '/send'))).toEqual([422, 'maker']);
    expect((await change(100_00)).status).toBe(409);
  });
});

describe('an answer', () => {
  it('is accepted in part with a reason, put right, and paid by a payment that is left for the rest', async () => {
    const page = await handedIn();
    const before = await owed();
    expect(await refused(() => send(page.id, accepting(page, [100_00], ' '), '/answer'))).toEqual([422, 'lines.0.why']);
    expect(await refused(() => send(page.id, accepting(page, [179_81]), '/answer'))).toEqual([422, 'lines.0.minor']);
    must(await send(page.id, accepting(page, [100_00]), '/answer'));
    expect((await owed()) - before).toBe(100_00);
    must(await send(page.id, accepting(await read(page.id), [120_00]), '/answer'));
    expect((await owed()) - before).toBe(120_00);
    const [small, other, paid] = [await payment(50_00), await payment(500_00, 'USD'), await payment(300_00)];
    const { payments, version } = await read(page.id);
    expect(payments.map((p) => p.id)).toEqual([small, paid]);
    const close = (incomingId: number | null, minor = 120_00, because = '') =>
      send(page.id, { version, way: 'payment', minor, because, theirNumber: '', incomingId }, '/close');
    for (const id of [small, other, null, 9999])
      expect(await refused(() => close(id))).toEqual([expect.any(Number), 'incomingId']);
    expect(await refused(() => close(paid, 110_00))).toEqual([422, 'because']);
    must(await close(paid, 110_00, 'their charges'));
    expect([await owed(), (await read(page.id)).state]).toEqual([before, 'closed']);
    const leftOf = async () =>
      (
        await at.house.database.db
          .select()
          .from(incomingPayment)
          .where(eq(incomingPayment.id, paid as never))
      )[0]?.left;
    expect(await leftOf()).toBe(190_00);
    const paidBy = async () => must(await at.call<PaymentPage>('GET', `/api/settle/payments/${paid}`)).claims;
    expect(await paidBy()).toEqual([{ id: page.id, maker: 'Tindrel', minor: 110_00 }]);
    const opened = { version: (await read(page.id)).version, because: 'the payment was another’s' };
    expect((await send(page.id, opened, '/open')).status).toBe(403);
    must(await at.manager('POST', `/api/settle/claims/${page.id}/open`, opened));
    expect([await owed(), await leftOf(), (await read(page.id)).state]).toEqual([before + 120_00, 300_00, 'answered']);
    expect(await paidBy()).toEqual([]);
    expect((await read(page.id)).steps.map((s) => s.what)).toEqual([
      ...['sent', 'answered', 'answered', 'closed', 'opened again'],
    ]);
  });

  it('is closed once by two at once, by their credit note', async () => {
    const page = await answered();
    const body = {
      version: page.version,
      way: 'credit note',
      minor: 100_00,
      because: '',
      theirNumber: 'CN 9',
      incomingId: null,
    };
    const both = await Promise.all([send(page.id, body, '/close'), send(page.id, body, '/close')]);
    expect(both.map((b) => b.status).toSorted()).toEqual([200, 409]);
    const entries = await at.house.database.db
      .select()
      .from(claimEntry)
      .where(eq(claimEntry.claimId, page.id as never))
      .orderBy(desc(claimEntry.id));
    expect(entries.map((e) => [e.kind, e.minor])).toEqual([
      ['credit note', 100_00],
      ['accepted', 100_00],
    ]);
  });

  it('is not waited for any more where a manager gives the claim up with a reason', async () => {
    const page = await handedIn();
    const giving = { version: page.version, because: 'their term had run out' };
    expect((await send(page.id, giving, '/give-up')).status).toBe(403);
    must(await at.manager('POST', `/api/settle/claims/${page.id}/give-up`, giving));
    expect((await list('closed')).items.map((c) => c.id)).toContain(page.id);
    expect((await send(page.id, accepting(await read(page.id), [1]), '/answer')).status).toBe(409);
  });
});

it('and what was billed are found by their numbers as they stand on paper, by the office alone', async () => {
  const page = await asked();
  await at.bill();
  const [document] = await at.documents('?state=issued');
  const find = finding(at.call);
  expect((await find(`cl-${page.id}`)).claim.map((h) => [h.id, h.beside])).toEqual([[page.id, 'claim, to send']]);
  expect((await find(document?.number ?? '')).document.map((h) => h.id)).toEqual([document?.id]);
  expect((await find(`X${document?.number}`)).document).toEqual([]);
  const technician = finding(await at.house.as('technician'));
  expect([(await technician(`CL-${page.id}`)).claim, (await technician(document?.number ?? '')).document]).toEqual([
    [],
    [],
  ]);
});
