// Decided again: another priority, machine or cause, shown before it is done, with both decisions kept.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { DecidedAgain } from '#api/calls.ts';
import { rebuild } from '../src/platform/derived.ts';
import { DERIVED } from '../src/rooms.ts';
import { calling, refusedAt } from './calling.ts';
import { agreementInForce, buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 5 });
});
afterAll(() => house.close());

const { raised, page, record } = calling(() => ({ call, world }));
/** Everything that follows from events is what they say. */
const isDerived = async (): Promise<void> => {
  for (const { differing } of await rebuild(house.database, DERIVED, house.now, false)) expect(differing).toEqual([]);
};

describe('decided again', () => {
  const change = (id: number, body: object, key = randomUUID()) =>
    call('POST', `/api/orders/${id}/changes`, { requestKey: key, text: 'looked at it', ...body });
  const look = (id: number, body: object) => call<DecidedAgain>('POST', `/api/orders/${id}/changes/preview`, body);
  const clockFacts = (of: readonly { target: string; state: string; dueAt: number | null }[]) =>
    of.map((c) => [c.target, c.state, c.dueAt]).sort();

  it('another priority gives other clocks from the same start; the preview is the act, and writes nothing', async () => {
    const id = await raised();
    await record(id, { kind: 'told', technician: 'Somebody' });
    const before = await page(id);
    const seen = await look(id, { priority: 2 });
    expect(await page(id)).toEqual(before);
    expect(clockFacts(seen.body.clocksBefore)).toEqual(clockFacts(before.clocks));
    const key = randomUUID();
    for (let i = 0; i < 2; i += 1) expect((await change(id, { priority: 2 }, key)).status).toBe(200);
    const after = await page(id);
    expect(clockFacts(after.clocks)).toEqual(clockFacts(seen.body.clocksAfter));
    expect([after.priority, after.clocks.map((c) => [c.target, c.state])]).toEqual([2, [['response', 'met']]]);
    expect(after.events.filter((e) => e.kind === 'changed')).toHaveLength(1);
    expect(after.lines[0]?.former.map((f) => f.promise)).toEqual([before.lines[0]?.verdict?.promise]);
    await isDerived();
  });

  it('a cause that the agreement excludes takes the line out of its cover, and back', async () => {
    const id = await raised();
    const [line] = (await page(id)).lines;
    const to = (cause: string) => change(id, { lines: [{ lineId: line?.id, cause }] });
    expect((await to('misuse')).status).toBe(200);
    const out = await page(id);
    expect(out.lines[0]?.verdict?.sentence).toContain('Not covered');
    expect([out.clocks.length, out.lines[0]?.former[0]?.sentence]).toEqual([0, line?.verdict?.sentence]);
    expect((await to('wear')).status).toBe(200);
    const back = await page(id);
    expect([back.lines[0]?.verdict, back.lines[0]?.former.length]).toEqual([line?.verdict, 2]);
    await isDerived();
  });

  it('gives counted rights back and draws them anew: the order’s own draw does not stand in its way', async () => {
    const assetIds = [world.assetIds[1]];
    await agreementInForce(
      call,
      world,
      {},
      { reach: { kind: 'assets', assetIds }, kinds: ['repair'], excludedCauses: ['accident'] },
      [{ unit: 'call-outs', amount: 1, period: 'term year', carriesOver: false }],
    );
    const id = await raised({ assetIds });
    const [line] = (await page(id)).lines;
    expect((await change(id, { priority: 2 })).status).toBe(200);
    expect((await page(id)).lines[0]?.verdict?.sentence).toBe(line?.verdict?.sentence);
  });

  it('is refused where nothing would change, for machines of others, and once it is over', async () => {
    const id = await raised({ assetIds: world.assetIds.slice(0, 2) });
    const [one, two] = (await page(id)).lines;
    expect(refusedAt(await change(id, {}))).toEqual([422, 'priority', 'missing']);
    expect(refusedAt(await change(id, { lines: [{ lineId: 987_654, cause: 'misuse' }] }))).toEqual([
      404,
      'lines.0.lineId',
      'not-found',
    ]);
    expect(refusedAt(await change(id, { lines: [{ lineId: one?.id, assetId: two?.assetId }] }))).toEqual([
      409,
      'lines.0.assetId',
      'conflict',
    ]);
    await record(id, { kind: 'called off', text: 'by mistake' });
    const before = await page(id);
    expect((await change(id, { priority: 3 })).status).toBe(409);
    expect(await page(id)).toEqual(before);
  });
});
