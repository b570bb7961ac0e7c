// Rules made of others, over the wire: active while all or any of their parts are, whatever order is told of them in.
import fc from 'fast-check';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { activeParts, advance, activeSpans, seriesRule, watchedFrom } from '#core/signals/index.ts';
import { instant } from '#core/time/index.ts';
import { letTimeGoOn } from '../src/signals/index.ts';
import { alert, alertRule } from '../src/tables.ts';
import { must } from './house.ts';
import { kept, changed } from './every-row.ts';
import { at, openSignals, RULE, type SignalHouse } from './signal-house.ts';

let s: SignalHouse;
beforeAll(async () => {
  s = await openSignals(12);
});
afterAll(() => s.house.close());

const PART = { partOnly: true };
const made = (by: 'all' | 'any', ...of: string[]) => ({ condition: { kind: 'parts', by, of } });
const spansOf = async (id: number, n: number) =>
  (await s.alertsOf(id))
    .filter((a) => a.assetId === s.machine(n) && a.withdrawnAt === null)
    .map((a) => [a.startedAt, a.endedAt]);
const letGoOn = async (upTo: string): Promise<void> => {
  while ((await letTimeGoOn(s.house.database, at(upTo))) > 0);
};

describe('a rule made of others', () => {
  it('is active while all of them are; nobody is told of what is only a part', async () => {
    const door = await s.add('Door open', 'door', PART);
    await s.add('Warm', 'chamber', PART);
    const both = await s.add('Warm with its door open', 'chamber', made('all', 'warm', 'Door open'));
    await s.say(0, 'door', ['09:21', 20]);
    expect(await s.alertsOf(both)).toEqual([]);
    await s.say(0, 'chamber', ['09:23', 20]);
    await s.say(0, 'door', ['09:26', 0]);
    expect(await spansOf(both, 0)).toEqual([[at('09:23'), at('09:26')]]);
    const [told] = await s.alertsOf(both);
    const order = must(await s.call<{ events: { text: string }[] }>('GET', `/api/orders/${told?.orderId}`));
    expect(order.events.map((e) => e.text).join('\n')).toContain('all of “warm”, “Door open”');
    const [part] = await s.alertsOf(door);
    expect([part?.orderId, part?.toldAt, part?.heldBy, part?.endedAt]).toEqual([null, null, 'part', at('09:26')]);
    expect((await s.journal(`rule=${door}&list=to answer`)).items).toEqual([]);
  });

  it('is active while any of them is, over others made of them too, after a delay of its own', async () => {
    const any = await s.add('Door or warm', 'chamber', { ...made('any', 'Door open', 'Warm'), ...PART });
    const later = await s.add('Either for two minutes', 'chamber', {
      ...made('all', 'Door or warm', 'Warm'),
      onDelaySeconds: 120,
    });
    await s.say(1, 'door', ['09:21', 20]);
    await s.say(1, 'chamber', ['09:22', 20]);
    await s.say(1, 'door', ['09:23', 0]);
    expect(await spansOf(later, 1)).toEqual([]);
    await letGoOn('09:25');
    expect([await spansOf(any, 1), await spansOf(later, 1)]).toEqual([[[at('09:21'), null]], [[at('09:24'), null]]]);
    await s.say(1, 'chamber', ['09:27', 0]);
    expect([await spansOf(any, 1), await spansOf(later, 1)]).toEqual([
      [[at('09:21'), at('09:27')]],
      [[at('09:24'), at('09:27')]],
    ]);
  });

  it('that is made while its parts are active begins then; what was before is not its own', async () => {
    await s.add('Frost', 'frost', PART);
    await s.add('Fan', 'fan', PART);
    await s.say(2, 'frost', ['08:00', 20], ['08:10', 0], ['08:20', 20]);
    await s.say(2, 'fan', ['08:00', 20]);
    const both = await s.add('Iced', 'frost', made('all', 'Frost', 'Fan'));
    await letGoOn('09:20');
    expect(await spansOf(both, 2)).toEqual([[at('09:20'), null]]);
    // Changed to be of another: as that one stands.
    const rule = must(await s.call<{ items: { id: number; version: number }[] }>('GET', '/api/alert-rules')).items;
    const version = rule.find((r) => r.id === both)?.version;
    const of = await s.house.database.db
      .select()
      .from(alertRule)
      .where(eq(alertRule.id, both as never));
    const { name, assetClassId, channel, unit, priority } = of[0] as (typeof of)[number];
    must(
      await s.call('PUT', `/api/alert-rules/${both}`, {
        ...{ ...RULE, name, assetClassId, channel, unit, priority, version },
        ...made('all', 'Fan', 'Door open'),
      }),
    );
    await letGoOn('09:21');
    expect((await spansOf(both, 2)).filter(([, to]) => to === null)).toEqual([]);
  });

  it('finds in what is told in any order what it finds in all of it', async () => {
    const [a, b, c] = [
      await s.add('A', 'a', { ...PART, onDelaySeconds: 60 }),
      await s.add('B', 'b', PART),
      await s.add('C', 'c', { ...PART, offDelaySeconds: 60 }),
    ];
    const rules = [
      { id: await s.add('All of three', 'a', { ...made('all', 'A', 'B', 'C'), askFirst: true }), parts: [a, b, c] },
      { id: await s.add('Any of two', 'a', { ...made('any', 'A', 'C'), offDelaySeconds: 60, ...PART }), parts: [a, c] },
    ];
    // Whole minutes after now, for each machine's three channels; told in lots of any order.
    const told = fc.array(
      fc.record({
        channel: fc.constantFrom('a', 'b', 'c'),
        minute: fc.integer({ min: 21, max: 29 }),
        value: fc.constantFrom(0, 20),
      }),
      { minLength: 6, maxLength: 25 },
    );
    const samples = fc.sample(told, { numRuns: 8, seed: 5 });
    for (const [i, all] of samples.entries()) {
      const n = 3 + i;
      for (const { channel, minute, value } of all) await s.say(n, channel, [`09:${minute}`, value]);
      await letGoOn('09:40');
      const partsOf = async (ids: number[]) =>
        (await Promise.all(ids.map((id) => spansOf(id, n)))).map((own) =>
          own.map(([from, to]) => ({ from: instant(from as number), to: to === null ? null : instant(to as number) })),
        );
      for (const { id, parts } of rules) {
        const [rule] = await s.house.database.db
          .select()
          .from(alertRule)
          .where(eq(alertRule.id, id as never));
        const read = activeParts(await partsOf(parts));
        const { happened } = advance(seriesRule(rule as never), watchedFrom(at('09:20')), read, at('09:37'));
        expect([n, id, await spansOf(id, n)]).toEqual([n, id, activeSpans(happened).map((x) => [x.from, x.to])]);
      }
    }
    // The parts themselves were active at times, so that the rules had something to find.
    const found = await s.house.database.db.$count(alert, eq(alert.ruleId, rules[1]?.id as never));
    expect(found).toBeGreaterThan(4);
  });
});

describe('refused, and nothing is changed', () => {
  it.each<[string, object, string, RegExp]>([
    ['a part that is not there', made('all', 'Warm', 'Nowhere'), 'condition.of', /has no rule “Nowhere”/],
    ['only one part', made('all', 'Warm'), 'condition.of', /Two rules at least/],
    ['itself as a part', made('any', 'Warm', 'Refused'), 'condition.of', /made of each other/],
  ])('%s', async (_, over, field, text) => {
    const before = await kept(s.house);
    const classId = s.classId;
    const { status, body } = await s.call<never>('POST', '/api/alert-rules', {
      ...RULE,
      name: 'Refused',
      assetClassId: classId,
      channel: 'chamber',
      unit: '',
      priority: 2,
      ...over,
    });
    expect(status).toBeGreaterThanOrEqual(400);
    const [refusal] = (body as unknown as { errors: { field: string; message: string }[] }).errors;
    expect([refusal?.field, refusal?.message]).toEqual([field, expect.stringMatching(text)]);
    expect(changed(before, await kept(s.house))).toEqual([]);
  });

  it('a circle over others, and a new name for what others are made of', async () => {
    const rows = must(await s.call<{ items: Record<string, unknown>[] }>('GET', '/api/alert-rules')).items;
    const bodyOf = (name: string) => {
      const body = rows.find((r) => r.name === name) as Record<string, unknown>;
      return { id: Number(body.id), body };
    };
    const before = await kept(s.house);
    const door = bodyOf('Door or warm');
    const circle = await s.call('PUT', `/api/alert-rules/${door.id}`, {
      ...door.body,
      ...made('any', 'Warm', 'Either for two minutes'),
    });
    const warm = bodyOf('Warm');
    const renamed = await s.call('PUT', `/api/alert-rules/${warm.id}`, { ...warm.body, name: 'Warmer' });
    expect([circle, renamed].map((r) => [r.status, JSON.stringify(r.body)])).toEqual([
      [409, expect.stringContaining('made of each other')],
      [409, expect.stringContaining('refers to “Warm”; change that one first')],
    ]);
    expect(changed(before, await kept(s.house))).toEqual([]);
  });
});

describe('tried on the past', () => {
  it('finds what its parts would have found together', async () => {
    const ask = { name: 'Tried', assetClassId: s.classId, channel: 'chamber', unit: '', priority: 2, days: 1 };
    await s.say(11, 'door', ['07:00', 20], ['07:10', 0], ['07:20', 20]);
    await s.say(11, 'chamber', ['07:05', 20], ['07:25', 0]);
    const body = { ...RULE, ...ask, ...made('all', 'Warm', 'Door open'), ruleId: null };
    type Answer = { tried: { alerts: number; shown: { assetId: number; from: number; to: number | null }[] } };
    const { tried } = must(await s.call<Answer>('POST', '/api/alert-rules/preview', body));
    const own = tried.shown.filter((x) => x.assetId === s.machine(11)).map((x) => [x.from, x.to]);
    expect(own.toReversed()).toEqual([
      [at('07:05'), at('07:10')],
      [at('07:20'), at('07:25')],
    ]);
  });
});
