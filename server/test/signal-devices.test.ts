// Devices over the wire: those that nobody knows, and those that go to another machine.
import { asc, eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { totalRun } from '#core/meters.ts';
import type { Instant } from '#core/time/index.ts';
import { letTimeGoOn } from '../src/signals/index.ts';
import { channel, meter, meterReading, reading, unknownDevice } from '../src/tables.ts';
import { must } from './house.ts';
import { at, keyOf, openSignals, type SignalHouse } from './signal-house.ts';

let s: SignalHouse;
beforeAll(async () => {
  s = await openSignals(2);
});
afterAll(() => s.house.close());

describe('a counter', () => {
  it('goes on over what it does by itself and over resets, sent twice and late, and feeds its meter', async () => {
    const { database } = s.house;
    const classes = must(await s.call<{ classes: { id: number; version: number }[] }>('GET', '/api/catalogue')).classes;
    const { version } = classes.find((c) => c.id === s.classId) as { version: number };
    const meters = [{ name: 'run hours', unit: 'h', channel: 'hours', wrapsAt: 1000 }];
    const changed = { name: 'Ultra-low freezer', version, jobPlanIds: [], meters };
    must(await s.call('PUT', `/api/asset-classes/${s.classId}`, changed));
    const counted = async () => {
      const [own] = await database.db
        .select()
        .from(meter)
        .where(eq(meter.assetId, s.machine(1) as never));
      const rows = await database.db
        .select()
        .from(meterReading)
        .where(eq(meterReading.meterId, own?.id as never))
        .orderBy(asc(meterReading.at), asc(meterReading.id));
      return { of: own?.wrapsAt, total: totalRun(rows.map((r) => ({ ...r, anew: r.anew !== null }))), n: rows.length };
    };
    await s.say(1, 'hours', ['01:00', 940]);
    expect(await counted()).toEqual({ of: 1000, total: 0, n: 1 });
    await s.say(1, 'hours', ['02:00', 980], ['03:00', 20]);
    expect((await counted()).total).toBe(80);
    // Sent again nothing is counted twice; what comes late was counted with what came after it.
    await s.say(1, 'hours', ['02:00', 980], ['02:30', 995], ['03:00', 20]);
    expect((await counted()).total).toBe(80);
    // Switched off and on: it begins at 0, far below where it would by itself.
    await s.say(1, 'hours', ['04:00', 70], ['04:10', 2], ['05:30', 9]);
    expect((await counted()).total).toBe(80 + 50 + 9);
  });
});

describe('devices', () => {
  it('that nobody knows wait by name, are refused or tied, and flood no list', async () => {
    const send = (names: string[]) =>
      s.call<{ setAside: { message: string }[] }>('POST', '/api/readings', [
        { n: `${keyOf(s.machine(0))}:fine`, v: 1, t: at('09:00') / 1000 },
        ...names.map((name) => ({ n: `${name}:chamber`, v: 1, t: at('09:00') / 1000 })),
      ]);
    must(await send(['stranger-1', 'stranger-2']));
    type Listed = { items: { id: number; key: string; channels: string }[]; next: string | null };
    const listed = must(await s.call<Listed>('GET', '/api/unknown-devices'));
    expect(listed.items.map((u) => [u.key, u.channels]).sort()).toEqual([
      ['stranger-1', 'chamber'],
      ['stranger-2', 'chamber'],
    ]);
    const [first] = listed.items.filter((u) => u.key === 'stranger-1');
    must(await s.call('POST', `/api/unknown-devices/${first?.id}/refuse`, { refused: true }));
    expect(must(await s.call<Listed>('GET', '/api/unknown-devices')).items.map((u) => u.key)).toEqual(['stranger-2']);
    must(await s.call('POST', '/api/devices', { assetId: s.machine(0), key: 'stranger-2' }));
    expect(must(await s.call<Listed>('GET', '/api/unknown-devices')).items).toEqual([]);
    must(await send(['stranger-2', 'stranger-1']));
    expect((await s.house.database.db.select().from(channel)).some((c) => c.channel === 'chamber')).toBe(true);
    // Ten thousand names: so many are listed, the rest is only named.
    for (let i = 0; i < 13; i += 1) await send(Array.from({ length: 900 }, (_, k) => `flood-${i * 900 + k}`));
    expect(await s.house.database.db.$count(unknownDevice)).toBeLessThanOrEqual(1001);
    expect(must(await s.call<Listed>('GET', '/api/unknown-devices?limit=200')).next).not.toBeNull();
  });

  it('move from a time on: what was said before stays the old machine’s, also of alerts', async () => {
    const id = await s.add('Moved', 'moved');
    await s.say(0, 'moved', ['08:00', 5], ['08:30', 20], ['08:50', 20]);
    const devices = must(await s.call<{ items: { id: number; key: string }[] }>('GET', '/api/devices')).items;
    const own = devices.find((d) => d.key === keyOf(s.machine(0))) as { id: number };
    const move = (assetId: number, from: Instant) => s.call('POST', `/api/devices/${own.id}/move`, { assetId, from });
    for (const [answer, field] of [
      [await move(999_999, at('08:20')), 'assetId'],
      [await move(s.machine(0), at('08:20')), 'assetId'],
      [await move(s.machine(1), at('23:00')), 'from'],
    ] as const)
      expect(answer.body.errors[0]?.field).toBe(field);
    must(await move(s.machine(1), at('08:20')));
    await letTimeGoOn(s.house.database, at('09:20'));
    const alerts = await s.alertsOf(id);
    expect(alerts.map((a) => [a.assetId, a.startedAt, a.withdrawnAt !== null]).sort()).toEqual(
      [
        [s.machine(0), at('08:30'), true],
        [s.machine(1), at('08:30'), false],
      ].sort(),
    );
    expect(await s.house.database.db.$count(reading, eq(reading.channel, 'moved'))).toBe(3);
    const back = await move(s.machine(0), at('08:10'));
    expect([back.status, back.body.errors[0]?.field]).toEqual([422, 'from']);
    const points = (assetId: number) =>
      s
        .call<{ points: { at: number }[] }>('GET', `/api/assets/${assetId}/readings?channel=moved`)
        .then((r) => r.body.points.length);
    expect([await points(s.machine(0)), await points(s.machine(1))]).toEqual([1, 2]);
  });
});
