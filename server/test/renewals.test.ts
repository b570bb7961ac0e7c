// Agreements and time: visits within the term and beyond a counted right, and renewal.
import { like } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { AgreementPage } from '#api/agreements/index.ts';
import type { UpkeepRun } from '#api/upkeep.ts';
import { asInstant, type LocalDate } from '#core/time/index.ts';
import { sweepRenewals } from '../src/agreements/index.ts';
import { agreement } from '../src/tables.ts';
import {
  agreementInForce,
  agreementPage,
  buildWorld,
  endAgreement,
  openHouse,
  type Caller,
  type OwnTerms,
  type TestHouse,
  type World,
  forgetPlan,
} from './house.ts';

let house: TestHouse;
let world: World;
let call: Caller;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

const page = (id: number, on?: string): Promise<AgreementPage> => agreementPage(call, id, on);

const inForce = (...own: OwnTerms): Promise<number> => agreementInForce(call, world, ...own);
const end = (id: number): Promise<void> => endAgreement(call, id);
const verdictOf = async (orderId: number): Promise<string> =>
  (await call<{ lines: [{ verdict: { sentence: string } }] }>('GET', `/api/orders/${orderId}`)).body.lines[0].verdict
    .sentence;

/** What a proposal says of a counted right. */
const beyondOf = (p: UpkeepRun['proposals'][number]): string | null =>
  p.exceptions.find((e) => e.code === 'beyond right')?.text ?? null;

describe('visits', () => {
  it('draw their allowance in the run, one after the other, and the verdict is kept with the order', async () => {
    const id = await inForce({ to: '2027-12-31' }, { kinds: ['preventive'] }, [
      { unit: 'visits', amount: 1, period: 'term', carriesOver: false },
    ]);
    await house.database.pool.query(
      `INSERT INTO schedule (agreement_id, asset_id, job_plan_id, cadence, turns, anchor, convention, early_days, late_days, lead_days, lead_unit)
       VALUES (?, ?, ?, '{"kind": "rule", "rule": "FREQ=WEEKLY;COUNT=2"}', '[]', '2026-11-25', 'none', 1, 1, 30, 'calendar days')`,
      [id, world.assetIds[0], world.jobPlanId],
    );
    await forgetPlan(house.database);
    const visits = ['2026-11-25', '2026-12-02'];
    const [[row]] = (await house.database.pool.query('SELECT MAX(id) AS id FROM schedule')) as unknown as [
      { id: number }[],
    ];
    const only = visits.map((nominal) => ({ scheduleId: row?.id, nominal }));
    const preview = await call<UpkeepRun>('GET', '/api/upkeep?to=2026-12-05');
    const ours = preview.body.proposals.filter((p) => p.scheduleId === row?.id);
    // The other agreement bears the second one, so it is not chargeable.
    expect(ours.map(beyondOf)).toEqual([null, null]);
    const run = await call<{ raised: number }>('POST', '/api/upkeep/commit', { to: '2026-12-05', only });
    expect(run.body.raised).toBe(2);
    expect((await page(id)).allowances[0]).toMatchObject({ granted: 1, drawn: 1 });
    const orders = await call<{ items: { id: number; due: string }[] }>('GET', '/api/orders?kind=preventive&limit=2');
    const said = await Promise.all(orders.body.items.map((o) => verdictOf(o.id)));
    expect(said.filter((s) => s.includes('Own terms'))).toHaveLength(1);
    await end(id);
  });
});

describe('visits beyond a counted right', () => {
  it('are named before they are raised, by due date whatever the order of schedules; the order says why it is chargeable', async () => {
    const alone = await openHouse();
    const caller = await alone.as('coordinator');
    const own = await buildWorld(caller, { assets: 2, inForce: false });
    await caller('PUT', `/api/agreements/${own.agreementId}/allowances`, {
      version: (await caller<{ version: number }>('GET', `/api/agreements/${own.agreementId}`)).body.version,
      allowances: [{ unit: 'visits', amount: 3, period: 'agreement year', carriesOver: false }],
    });
    const { version } = (await caller<{ version: number }>('GET', `/api/agreements/${own.agreementId}`)).body;
    await caller('POST', `/api/agreements/${own.agreementId}/in-force`, { version });
    await alone.database.pool.query(
      'UPDATE schedule SET cadence = \'{"kind": "rule", "rule": "FREQ=MONTHLY;BYMONTHDAY=10"}\', lead_days = 0 WHERE id = 1',
    );
    await alone.database.pool.query(
      'UPDATE schedule SET cadence = \'{"kind": "rule", "rule": "FREQ=MONTHLY;BYMONTHDAY=5"}\', lead_days = 0 WHERE id = 2',
    );
    await forgetPlan(alone.database);
    const run = await caller<UpkeepRun>('GET', '/api/upkeep?to=2026-12-05');
    expect(run.body.proposals.map((p) => [p.due, p.scheduleId, beyondOf(p)])).toEqual([
      ['2026-10-05', 2, null],
      ['2026-10-12', 1, null],
      ['2026-11-05', 2, null],
      ['2026-11-10', 1, '4th of 3: chargeable'],
    ]);
    expect(run.body.counts.exceptions.find((e) => e.code === 'beyond right')?.count).toBe(1);
    const raised = await caller<{ raised: number }>('POST', '/api/upkeep/commit', { to: '2026-12-05', only: null });
    expect(raised.body.raised).toBe(run.body.proposals.length);
    type Listed = { items: { id: number; due: string }[] };
    const orders = (await caller<Listed>('GET', '/api/orders?kind=preventive')).body.items;
    for (const proposal of run.body.proposals) {
      const { due } = proposal;
      const beyond = beyondOf(proposal);
      const id = orders.find((o) => o.due === due)?.id;
      const order = (
        await caller<{ lines: [{ verdict: { sentence: string }; visit: { beyond: string | null } }] }>(
          'GET',
          `/api/orders/${id}`,
        )
      ).body;
      const [{ verdict, visit }] = order.lines;
      expect([due, verdict.sentence.startsWith('Not covered'), visit.beyond !== null]).toEqual([
        due,
        beyond !== null,
        beyond !== null,
      ]);
    }
    await alone.close();
  });
});

// Last: sweeping in times to come ends what the other tests stand on.
describe('renewal', () => {
  const at = (text: string) => asInstant(text);
  it('happens by itself the day after the notice date, with a version of its own, and not twice', async () => {
    const id = await inForce({ renewalMode: 'renews by itself', renewalMonths: 12, noticeDays: 30, priceMinor: 50_00 });
    expect(await sweepRenewals(house.database, at('2026-12-01T10:00:00Z'))).toMatchObject({
      renewed: 0,
    });
    const renewals = await call<{ items: { id: number; sentence: string }[] }>('GET', '/api/renewals?days=60');
    expect(renewals.body.items.find((i) => i.id === id)?.sentence).toContain('notice by 1 Dec 2026, in 7 days');
    expect(await sweepRenewals(house.database, at('2026-12-02T10:00:00Z'))).toMatchObject({
      renewed: 1,
    });
    expect(await sweepRenewals(house.database, at('2026-12-02T10:00:00Z'))).toMatchObject({
      renewed: 0,
    });
    const after = await page(id);
    expect([after.to, after.noticeBy, after.events[0]?.who]).toEqual(['2027-12-31', '2027-12-01', null]);
    await end(id);
  });

  it('comes to a due one however many wait for a decision ahead of it', async () => {
    const [row] = await house.database.db.select().from(agreement).limit(1);
    const { id: _, ...header } = row as typeof agreement.$inferSelect;
    const waiting = Array.from({ length: 1200 }, (_each, i) => ({
      ...header,
      number: `WAITS-${i}`,
      requestKey: `waits-${i}-for-a-decision`,
      stage: 'in force' as const,
      renewalMode: 'to be renegotiated' as const,
      termTo: '2027-12-31' as LocalDate,
      noticeBy: '2026-01-01' as LocalDate,
    }));
    await house.database.db.insert(agreement).values(waiting);
    const id = await inForce({ renewalMode: 'renews by itself', renewalMonths: 12, noticeDays: 30 });
    expect(await sweepRenewals(house.database, at('2026-12-02T10:00:00Z'))).toMatchObject({
      renewed: 1,
      ended: 0,
    });
    expect((await page(id)).to).toBe('2027-12-31');
    await house.database.db.delete(agreement).where(like(agreement.number, 'WAITS-%'));
    await end(id);
  });

  it('accepted, every price changes from the new term on; declined, it ends after its last day', async () => {
    const id = await inForce({ priceMinor: 100_00 }, { priceMinor: 10_05 });
    const accept = { version: (await page(id)).version, decision: 'accepted', months: 6, priceChange: 350, reason: '' };
    expect((await call('POST', `/api/agreements/${id}/renewal`, accept)).status).toBe(200);
    const after = await page(id, '2027-01-01');
    expect([after.to, after.priceMinor, after.lines[0]?.terms.priceMinor]).toEqual(['2027-06-30', 103_50, 10_40]);
    expect((await page(id, '2026-12-31')).lines[0]?.terms.priceMinor).toBe(10_05);

    const decline = { version: after.version, decision: 'declined', reason: 'they close' };
    expect((await call('POST', `/api/agreements/${id}/renewal`, decline)).status).toBe(200);
    expect((await page(id)).renewal).toBe('Declined: it ends on 30 Jun 2027.');
    await sweepRenewals(house.database, at('2027-06-30T10:00:00Z'));
    expect((await page(id)).stage).toBe('in force');
    await sweepRenewals(house.database, at('2027-07-01T10:00:00Z'));
    expect((await page(id)).stage).toBe('ended');
  });
});
