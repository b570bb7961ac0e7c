// Agreements acted on at random beside a plain model: what is covered on a day is what was in the book for that day, an amendment
// from a day on changes no day before it, and whatever is refused leaves every table as it was.
import { createHash } from 'node:crypto';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { AgreementPage } from '#api/agreements/index.ts';
import { addDays, asLocalDate, type LocalDate } from '#core/time/index.ts';
import { addLine, agreementInForce, buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
const tags = new Map<number, string>();
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 4, inForce: false });
  const { body } = await call<{ items: { id: number; tag: string }[] }>('GET', '/api/assets?limit=200');
  for (const { id, tag } of body.items) tags.set(id, tag);
});
afterAll(() => house.close());

const TODAY = asLocalDate('2026-11-24');
const FROM = asLocalDate('2026-01-01');
const LAST = asLocalDate('2027-12-31');

/** All that the agreements’ tables hold, in one word. */
async function book(): Promise<string> {
  const tables = [
    'agreement',
    'coverage_line',
    'agreement_amendment',
    'agreement_event',
    'allowance',
    'schedule',
    'audit',
  ];
  const all = await Promise.all(
    tables.map(async (table) => {
      const [rows] = await house.database.pool.query('SELECT * FROM ?? ORDER BY 1', [table]);
      return JSON.stringify(rows);
    }),
  );
  return createHash('sha256').update(all.join('\n')).digest('hex');
}

const page = async (id: number, on?: LocalDate): Promise<AgreementPage> =>
  (await call<AgreementPage>('GET', `/api/agreements/${id}${on ? `?on=${on}` : ''}`)).body;

/** Whether a line names a machine. */
const names = ({ label }: { label: string }, assetId: number): boolean => label.includes(tags.get(assetId) as string);

/** What the model holds: the share of labour for each machine, by the day from which it holds; null is no cover. */
type Model = Map<number, { from: LocalDate; labour: number | null }[]>;
const shareOn = (model: Model, assetId: number, on: LocalDate): number | null =>
  on > LAST ? null : ((model.get(assetId) ?? []).filter((x) => x.from <= on).at(-1)?.labour ?? null);
/** From a day on: what was told for that day and later days before is replaced. */
const tell = (model: Model, assetId: number, from: LocalDate, labour: number | null): void =>
  void model.set(assetId, [...(model.get(assetId) ?? []).filter((x) => x.from < from), { from, labour }]);

const act = fc.record({
  kind: fc.constantFrom('add', 'change', 'remove', 'stale', 'before it began', 'unknown line'),
  asset: fc.integer({ min: 0, max: 3 }),
  labour: fc.constantFrom(0, 25, 50, 80, 100),
  days: fc.integer({ min: 1, max: 200 }),
});
type Act = typeof act extends fc.Arbitrary<infer T> ? T : never;

const terms = (labour: number) => ({
  shares: { labour, parts: 0, consumables: 0, travel: 0 },
  serviceLevelId: world.serviceLevelId,
  kinds: ['repair'],
});

/** The change an act asks for, as far as what is held allows one; later acts are for later days, as amendments must be. */
async function changeOf(id: number, { kind, asset, labour }: Act, from: LocalDate) {
  const assetId = world.assetIds[asset] as number;
  const held = (await page(id, from)).lines.find((l) => names(l, assetId));
  const [added] = addLine({ reach: { kind: 'assets', assetIds: [assetId] }, ...terms(labour) }).changes;
  if (kind === 'unknown line') return { change: { act: 'remove', lineIds: [999_999] }, assetId, becomes: null };
  if (kind === 'add' || !held) return held ? null : { change: added, assetId, becomes: labour };
  if (kind === 'remove') return { change: { act: 'remove', lineIds: [held.id] }, assetId, becomes: null };
  const change = { act: 'change', lineIds: [held.id], terms: { shares: terms(labour).shares } };
  return { change, assetId, becomes: labour };
}

describe('an agreement in force, amended at random', () => {
  it('holds on every day what the book said for it', { timeout: 240_000 }, async () => {
    let [accepted, refused] = [0, 0];
    await fc.assert(
      fc.asyncProperty(fc.array(act, { minLength: 4, maxLength: 9 }), async (acts) => {
        const first = world.assetIds[0] as number;
        const id = await agreementInForce(call, world, { to: LAST }, terms(100));
        const model: Model = new Map([[first, [{ from: FROM, labour: 100 }]]]);
        let from = addDays(TODAY, 1);
        for (const one of acts) {
          from = addDays(from, one.days % 40);
          const asked = await changeOf(id, one, from);
          if (!asked) continue;
          const { version } = await page(id);
          const body = {
            version: one.kind === 'stale' ? version + 7 : version,
            from: one.kind === 'before it began' ? '2020-01-01' : from,
            reason: 'as agreed',
            changes: [asked.change],
          };
          const before = await book();
          const answer = await call('POST', `/api/agreements/${id}/amendments`, body);
          expect(answer.status, JSON.stringify(answer.body)).toBeLessThan(500);
          if (answer.status === 200) {
            accepted += 1;
            expect(['stale', 'before it began', 'unknown line']).not.toContain(one.kind);
            tell(model, asked.assetId, from, asked.becomes);
          } else {
            refused += 1;
            expect(await book()).toBe(before);
          }
        }
        for (const assetId of world.assetIds)
          for (const on of [
            addDays(TODAY, -30),
            TODAY,
            ...[0, 1, 20, 60, 200, 400].map((n) => addDays(TODAY, n + 1)),
          ]) {
            const lines = (await page(id, on)).lines.filter((l) => names(l, assetId));
            expect([assetId, on, lines.map((l) => l.terms.shares.labour)]).toEqual([
              assetId,
              on,
              [shareOn(model, assetId, on)].filter((x) => x !== null),
            ]);
          }
        const last = await page(id);
        await call('POST', `/api/agreements/${id}/stage`, { version: last.version, to: 'ended', reason: 'over' });
      }),
      { numRuns: 6, seed: 21 },
    );
    expect([accepted > 8, refused > 4]).toEqual([true, true]);
  });
});
