// What technicians tell of their own by phone: the van counted and parts of it handed over, their week handed in, absences.
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { CountPage, CountRow } from '#api/counts.ts';
import type { WeekSheet } from '#api/labour.ts';
import { below, seeded } from '#core/random.ts';
import { asInstant } from '#core/time/index.ts';
import { absence, countLine, stockMove, timeSheet } from '../src/tables.ts';
import { kindsOf, minutesAfter, phoneOf, reasonOf, told } from './field-house.ts';
import { must, type Caller } from './house.ts';
import { openStockHouse, refusing, stockLine, type StockHouse } from './stock-house.ts';

let here: StockHouse;
let own: Caller;
let phone: ReturnType<typeof phoneOf>;
beforeAll(async () => {
  here = await openStockHouse();
  own = await here.house.as('technician');
  phone = phoneOf(own);
});
afterAll(() => here?.house.close());

const NOON = asInstant('2026-11-24T09:40:00Z');
const at = (minutes: number): string => minutesAfter(NOON, minutes);
const counted = (partId: number, n: number, when = at(0), serials: string[] = []) =>
  told({ kind: 'counted', partId, thousandths: n * 1000, serials }, when);
const handed = (partId: number, n: number, toId = here.north) =>
  told({ kind: 'handed over', toId, text: '', lines: [{ partId, thousandths: n * 1000, serials: [] }] }, at(0));
const onHand = async (partId: number, storeId: number): Promise<number> =>
  (await here.inStore(partId, storeId))?.onHand ?? 0;
const openCounts = async (): Promise<CountRow[]> =>
  must(await here.desk<{ items: CountRow[] }>('GET', `/api/stock-counts?store=${here.van}`)).items.filter(
    (c) => c.state === 'open',
  );
async function countedAs(partId: number) {
  for (const { id } of await openCounts()) {
    const page = must(await here.desk<CountPage>('GET', `/api/stock-counts/${id}`));
    const row = page.rows.find((r) => r.part.id === partId);
    if (row) return row.counted;
  }
  return undefined;
}

describe('parts of the van', () => {
  it('are handed over once, however often it is told, and the phone shows where they may go', async () => {
    const partId = await here.addPart();
    must(await here.receive(here.van, [stockLine(partId, 5)]));
    const { stores, van } = await phone.days();
    expect(stores.map((s) => s.name)).toEqual(expect.arrayContaining(['North', 'South']));
    expect(stores.map((s) => s.id)).not.toContain(van?.id);
    const act = handed(partId, 2);
    expect(kindsOf(await phone.send(act, act))).toEqual(['taken', 'taken']);
    expect([await onHand(partId, here.van), await onHand(partId, here.north)]).toEqual([3000, 2000]);
  });

  it('more than there are is refused and moves nothing', async () => {
    const partId = await here.addPart();
    must(await here.receive(here.van, [stockLine(partId, 1)]));
    const before = await here.house.database.db.select().from(stockMove);
    expect(reasonOf((await phone.send(handed(partId, 2)))[0])).not.toBe('taken');
    expect(reasonOf((await phone.send(handed(partId, 1, here.van)))[0])).toContain('choose another store');
    expect(await here.house.database.db.select().from(stockMove)).toEqual(before);
  });

  it('counted by phone stand in one open count; what others moved after it is no difference', async () => {
    const [one, two] = [await here.addPart(), await here.addPart()];
    must(await here.receive(here.van, [stockLine(one, 4), stockLine(two, 4)]));
    // The fixed clock of the house stands after these counts: what came into the van came after them.
    expect(kindsOf(await phone.send(counted(one, 0, at(-5))))).toEqual(['taken']);
    expect(await countedAs(one)).toMatchObject({ expected: 0, difference: 0 });
    const late = minutesAfter(here.house.now, 1);
    expect(kindsOf(await phone.send(counted(two, 3, late)))).toEqual(['taken']);
    expect(await countedAs(two)).toMatchObject({ expected: 4000, difference: -1000 });
    expect(await openCounts()).toHaveLength(1);
    const { rows } = must(await here.desk<CountPage>('GET', `/api/stock-counts/${(await openCounts())[0]?.id}`));
    expect(rows.map((r) => r.part.id)).toEqual(expect.arrayContaining([one, two]));
    // Counted again, the later holds, in the same count.
    await phone.send(counted(two, 4, late));
    expect(await countedAs(two)).toMatchObject({ difference: 0 });
  });

  it('what this phone told before the count is counted in, whenever it arrives', async () => {
    const partId = await here.addPart();
    must(await here.receive(here.van, [stockLine(partId, 6)]));
    const late = minutesAfter(here.house.now, 1);
    expect(kindsOf(await phone.send(handed(partId, 2), counted(partId, 4, late)))).toEqual(['taken', 'taken']);
    expect(await countedAs(partId)).toMatchObject({ expected: 4000, difference: 0 });
  });

  it('counts that cannot be are refused and keep nothing', async () => {
    const [plain, bySerial] = [await here.addPart(), await here.addPart({ serialTracked: true })];
    const refused = refusing(() => here.house, [countLine]);
    const said: string[] = [];
    for (const act of [
      counted(bySerial, 2, at(0), ['A']),
      counted(bySerial, 2, at(0), ['A', 'A']),
      counted(plain, 1, at(0), ['A']),
      counted(999_999, 1),
    ])
      await refused(async () => {
        const [outcome] = await phone.send(act);
        said.push(reasonOf(outcome));
        return { status: 409 } as never;
      });
    expect(said.map((s) => s.split(/[:;.]/)[0])).toEqual([
      'Gasket is kept by serial',
      'Each serial stands once',
      'Gasket is not kept by serial',
      'That part does not exist',
    ]);
  });

  it('random days of a van: differences are what a person would have found', async () => {
    const random = seeded(20261128);
    for (let run = 0; run < 12; run += 1) {
      const partId = await here.addPart();
      must(await here.receive(here.van, [stockLine(partId, 10)]));
      let left = 10;
      const acts = Array.from({ length: 3 + below(random, 4) }, () => {
        const n = 1 + below(random, 2);
        left -= n;
        return handed(partId, n);
      }).filter(() => left >= 0);
      const really = Math.max(0, left - below(random, 2));
      // Each told twice: lost answers.
      const outcomes = await phone.send(
        ...acts.flatMap((a) => [a, a]),
        counted(partId, really, minutesAfter(here.house.now, 1)),
      );
      expect(outcomes.at(-1)?.kind).toBe('taken');
      const taken = new Set(outcomes.flatMap((o) => (o.kind === 'taken' ? [o.id] : [])));
      const gone = acts
        .filter((a) => taken.has(a.id))
        .reduce((sum, { body }) => sum + (body.kind === 'handed over' ? (body.lines[0]?.thousandths ?? 0) : 0), 0);
      expect(await onHand(partId, here.van)).toBe(10_000 - gone);
      expect(await countedAs(partId)).toMatchObject({
        expected: 10_000 - gone,
        difference: really * 1000 - 10_000 + gone,
      });
    }
  });
});

describe('a week', () => {
  it('is shown with what was entered, handed in once, and sent back with the reason', async () => {
    const [week] = (await phone.days()).weeks;
    expect(week).toMatchObject({ week: '2026-11-23', state: 'open' });
    const act = told({ kind: 'handed in', week: '2026-11-23' }, at(0));
    expect(kindsOf(await phone.send(act, act))).toEqual(['taken', 'taken']);
    expect((await phone.days()).weeks[0]?.state).toBe('handed in');
    expect(reasonOf((await phone.send(told({ kind: 'handed in', week: '2026-11-23' }, at(1))))[0])).toContain(
      'handed in already',
    );
    const back = { act: 'send back', reason: 'Tuesday is missing' };
    must(await here.desk<WeekSheet>('POST', `/api/time/sheets/${here.technician}/2026-11-23`, back));
    expect((await phone.days()).weeks[0]).toMatchObject({ state: 'sent back', reason: 'Tuesday is missing' });
    const before = await here.house.database.db.select().from(timeSheet);
    expect(reasonOf((await phone.send(told({ kind: 'handed in', week: '2026-12-28' }, at(2))))[0])).toContain(
      'has not begun',
    );
    expect(await here.house.database.db.select().from(timeSheet)).toEqual(before);
  });

  it('absences are asked for; who is sick is absent; one beside another is refused', async () => {
    const asked = (kind: 'leave' | 'sick', day: string) => {
      const span = { from: `${day}T00:00:00Z`, to: `${day}T23:00:00Z` };
      return told({ kind: 'absent', absence: { kind, ...span, text: '' } }, at(0));
    };
    const leave = asked('leave', '2026-12-14');
    expect(kindsOf(await phone.send(leave, leave, asked('sick', '2026-12-15')))).toEqual(['taken', 'taken', 'taken']);
    expect((await phone.days()).absences.map((a) => [a.kind, a.state])).toEqual([
      ['leave', 'asked'],
      ['sick', 'agreed'],
    ]);
    expect(reasonOf((await phone.send(asked('leave', '2026-12-14')))[0])).toContain('already');
    expect(await here.house.database.db.select().from(absence)).toHaveLength(2);
  });
});
