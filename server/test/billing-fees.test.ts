// Agreements bill themselves by their plan: what is due, pro rata, amendments' differences, suspensions and ends; once, whoever asks.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { BillingPreview } from '#api/documents.ts';
import { agreementInForce, agreementPage, must } from './house.ts';
import { billAsk, openBillingHouse, type BillingHouse } from './billing-house.ts';

let at: BillingHouse;
beforeAll(async () => {
  at = await openBillingHouse();
});
afterAll(() => at.house.close());

const fees = { takesOrders: false, takesFees: true };
/** Lines of an agreement's documents, in the order in which they were billed, below zero where they were given back. */
const billedOf = async (agreementId: number) =>
  (await at.documents())
    .toReversed()
    .flatMap((d) =>
      d.lines.flatMap((l) =>
        l.agreementId === agreementId
          ? [`${/\d+ \w+ \d+/.exec(l.text)?.[0]} ${d.kind === 'invoice' ? l.net : -l.net}`]
          : [],
      ),
    );
const move = async (id: number, to: string) =>
  must(
    await at.call('POST', `/api/agreements/${id}/stage`, {
      version: (await agreementPage(at.call, id)).version,
      to,
      reason: 'so be it',
    }),
  );

describe('an agreement', () => {
  it('bills each period once, from the day from which the house bills; a run twice bills nothing more', async () => {
    const id = await agreementInForce(at.call, at.world, { priceMinor: 310_00, from: '2026-09-01', to: '2027-08-31' });
    await at.bill({ ...fees, upTo: '2026-12-01' });
    // The house bills from November: what fell due before was billed elsewhere.
    expect(await billedOf(id)).toEqual(['1 November 2026 31000', '1 December 2026 31000']);
    await Promise.all([at.bill({ ...fees, upTo: '2026-12-01' }), at.bill({ ...fees, upTo: '2026-12-01' })]);
    expect(await billedOf(id)).toHaveLength(2);
    await move(id, 'ended');
    // Ended on 24 November: 24 of 30 days of 310.00 are 248.00, and December comes back whole.
    await at.bill({ ...fees, upTo: '2026-12-01' });
    expect((await billedOf(id)).slice(2).toSorted()).toEqual(['1 December 2026 -31000', '1 November 2026 -6200']);
  });

  it('amended within billed periods makes differences, never a change of what was issued', async () => {
    const id = await agreementInForce(at.call, at.world, { priceMinor: 300_00, from: '2026-11-01', to: '2027-10-31' });
    await at.bill({ ...fees, upTo: '2026-12-31' });
    const before = (await at.documents()).filter((d) => d.lines.some((l) => l.agreementId === id));
    const { version } = await agreementPage(at.call, id);
    must(
      await at.call('POST', `/api/agreements/${id}/amendments`, {
        ...{
          version,
          from: '2026-12-01',
          reason: 'one machine fewer',
          changes: [],
          priceMinor: 200_00,
        },
      }),
    );
    await at.bill({ ...fees, upTo: '2026-12-31' });
    expect(await billedOf(id)).toEqual(['1 November 2026 30000', '1 December 2026 30000', '1 December 2026 -10000']);
    const after = await at.documents();
    // Its paper may have been drawn meanwhile.
    for (const document of before)
      expect(after.find((d) => d.id === document.id)).toEqual({
        ...document,
        hasPaper: expect.any(Boolean) as boolean,
      });
    await move(id, 'ended');
  });

  it('suspended rests by the day, or goes on where that was agreed; a run names what bills nothing', async () => {
    const rests = await agreementInForce(at.call, at.world, {
      priceMinor: 300_00,
      from: '2026-11-01',
      to: '2027-10-31',
    });
    await move(rests, 'suspended');
    type Preview = { leftOut: { agreementId: number; reason: string }[] };
    const ask = billAsk({ ...fees, upTo: '2026-11-30' });
    await at.bill(ask);
    // 23 of 30 days, until the day before it was suspended.
    expect(await billedOf(rests)).toEqual(['1 November 2026 23000']);
    const preview = must(await at.call<Preview>('POST', '/api/settle/runs/preview', ask));
    expect(preview.leftOut.find((l) => l.agreementId === rests)?.reason).toMatch(/suspended/);
    await move(rests, 'ended');
    const goesOn = await agreementInForce(at.call, at.world, {
      ...{ priceMinor: 300_00, from: '2026-11-01', to: '2027-10-31', suspendedBilling: true },
    });
    await move(goesOn, 'suspended');
    await at.bill(ask);
    expect(await billedOf(goesOn)).toEqual(['1 November 2026 30000']);
    await move(goesOn, 'ended');
  });

  it('gives back what its service level pledges for a month in which promises were missed, once', async () => {
    const level = must(
      await at.call<{ id: number }>('POST', '/api/service-levels', {
        ...{ name: 'Pledged', pauses: [] },
        targets: {
          1: { response: { measure: 'elapsed', minutes: 60 }, restoration: { measure: 'elapsed', minutes: 240 } },
        },
        pledge: { warnPercent: 25, availability: null, tiers: [{ below: 6000, credit: 1000 }], cap: 800 },
      }),
    );
    // Beside the world's own agreement it would be the stricter of two.
    await move(at.world.agreementId, 'ended');
    const id = await agreementInForce(
      at.call,
      at.world,
      { priceMinor: 310_00, from: '2026-10-01', to: '2027-09-30' },
      { serviceLevelId: level.id },
    );
    const order = must(
      await at.call<{ id: number }>('POST', '/api/orders', {
        ...{ requestKey: randomUUID(), assetIds: [at.world.assetIds[0]], priority: 1, cause: 'wear', title: 'Warm' },
        receivedAt: '2026-10-27T08:00:00Z',
      }),
    );
    const record = async (when: string, act: object) =>
      must(
        await at.call('POST', `/api/orders/${order.id}/events`, {
          requestKey: randomUUID(),
          at: `2026-10-27T${when}:00Z`,
          act,
        }),
      );
    await record('08:30', { kind: 'told', technician: 'A. Brandel' });
    await record('13:00', { kind: 'arrived' });
    await record('14:00', { kind: 'restored' });
    const ask = { ...fees, upTo: '2026-11-30' };
    const preview = must(await at.call<BillingPreview>('POST', '/api/settle/runs/preview', billAsk(ask)));
    await at.bill(ask);
    // October itself was billed elsewhere; 50 % kept gives 10 %, capped at 8 % of 310.00.
    expect(await billedOf(id)).toEqual(['1 October 2026 -2480', '1 November 2026 31000']);
    const [document] = (await at.documents()).filter((d) => d.lines.some((l) => l.agreementId === id));
    expect(document?.lines[0]?.text).toBe(
      'Credit for promises of Pledged, 1 October 2026 to 31 October 2026: 1 of 2 kept',
    );
    expect(preview.shown.map((d) => d.withoutTax)).toContain(285_20);
    await at.bill(ask);
    expect(await billedOf(id)).toHaveLength(2);
    await move(id, 'ended');
  });

  it('without a price is named, and nothing is billed without saying what, or in whose name', async () => {
    const id = await agreementInForce(at.call, at.world, { from: '2026-11-01' });
    type Preview = { leftOut: { agreementId: number; reason: string }[] };
    const preview = must(await at.call<Preview>('POST', '/api/settle/runs/preview', billAsk({ ...fees })));
    expect(preview.leftOut.find((l) => l.agreementId === id)?.reason).toMatch(/no price/);
    const nothing = await at.call(
      'POST',
      '/api/settle/runs/preview',
      billAsk({ takesOrders: false, takesFees: false }),
    );
    expect([nothing.status, nothing.body.errors[0]?.field]).toEqual([422, 'takesOrders']);
  });
});
