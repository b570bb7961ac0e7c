// What standing makes of visits: windows that have ended, by agreement and by asset.
import { randomUUID } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { buildWorld, openHouse } from './house.ts';

describe('standing of upkeep', () => {
  it('counts windows that have ended, by agreement and by asset, page by page', async () => {
    const late = await openHouse('2027-01-20T10:00:00Z');
    const coordinator = await late.as('coordinator');
    const other = await buildWorld(coordinator, { rule: 'FREQ=MONTHLY;BYMONTHDAY=25', anchor: '2026-11-01' });
    const { firstOrderId } = (
      await coordinator<{ firstOrderId: number }>('POST', '/api/upkeep/commit', { to: '2027-01-20', only: null })
    ).body;
    const { tasks } = (await coordinator<{ tasks: { id: number }[] }>('GET', `/api/orders/${firstOrderId}`)).body;
    for (const act of [
      { kind: 'arrived' },
      { kind: 'task', taskId: tasks[0]?.id, outcome: 'left', text: 'filter sealed' },
      { kind: 'done', text: '' },
    ])
      await coordinator('POST', `/api/orders/${firstOrderId}/events`, {
        requestKey: randomUUID(),
        at: '2027-01-20T10:00:00Z',
        act,
      });
    type Rows = {
      items: { id: number; owed: number; inWindow: number; compliance: number | null; attainment: number | null }[];
      next: string | null;
      total: { owed: number; inWindow: number };
    };
    const period = 'from=2026-11-01&to=2027-01-31';
    const byAgreement = (await coordinator<Rows>('GET', `/api/standing?${period}&by=agreement`)).body;
    expect(byAgreement.items).toEqual([
      expect.objectContaining({ id: other.agreementId, owed: 6, inWindow: 0, compliance: 0, attainment: null }),
    ]);
    const first = (await coordinator<Rows>('GET', `/api/standing?${period}&by=asset&limit=2`)).body;
    const second = (await coordinator<Rows>('GET', `/api/standing?${period}&by=asset&limit=2&after=${first.next}`))
      .body;
    expect([...first.items, ...second.items].map((r) => [r.id, r.owed])).toEqual(other.assetIds.map((id) => [id, 2]));
    expect(second.next).toBeNull();
    const detail = (
      await coordinator<{ visits: { state: string }[] }>(
        'GET',
        `/api/standing/detail?${period}&by=agreement&id=${other.agreementId}`,
      )
    ).body;
    expect(detail.visits.map((v) => v.state).sort()).toEqual([
      'not done',
      'not done',
      'not done',
      'not done',
      'not done',
      'outside window',
    ]);
    expect((await coordinator('GET', `/api/standing/detail?${period}&by=agreement`)).status).toBe(422);
    await late.close();
  });
});
