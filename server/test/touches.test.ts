// What an act changes, the screens that show it fetch again: each read that answers otherwise after a write must read a thing that
// was announced with it. All reads of all rooms before and after each act of a day's work.
import { gt } from 'drizzle-orm';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { AnyContract, Thing } from '#api/contract.ts';
import { openHouse, type Caller, type TestHouse } from './house.ts';
import { change } from '../src/platform/tables.ts';
import type { Ids } from './act.ts';
import { DAY, standingBefore, thingsOfTheDay } from './a-days-work.ts';
import { mailOfTheDay } from './mailed.ts';
import { everyContract } from './every-contract.ts';

/** Worked out beside requests, some seconds later, and announced by itself. */
const LATER: readonly Thing[] = ['outlook', 'jobs', 'outbox', 'session'];
/** What a screen shows; the own page of an import or a run has nothing in common with the rest. */
const OWN_PAGES = ['/api/imports/:id', '/api/upkeep/runs/:id', '/api/rota/plans/:id'];
const isShown = ({ method, path, reads }: AnyContract): boolean =>
  method === 'GET' && !OWN_PAGES.includes(path) && !!reads && !reads.some((thing) => LATER.includes(thing));

let house: TestHouse;
let call: Caller;
let contracts: readonly AnyContract[];
let ids: Ids;

/** Which of a room's things each parameter names, and what a read has to be asked with. */
const urlsOf = (contract: AnyContract): string[] => {
  const [, , room] = contract.path.split('/');
  const named = {
    customers: ids.customer,
    assets: ids.asset,
    agreements: ids.agreement,
    orders: ids.order,
    schedules: 1,
    patterns: ids.pattern,
    rota: ids.order,
  };
  const id = { ...named, locations: ids.place, imports: 1, mail: 1, offers: 1 }[room as 'assets'];
  const path = contract.path
    .replace(':id', String(id))
    .replace(':person', String(ids.technician))
    .replace(':week', '2026-11-23');
  const query: Record<string, string[]> = {
    '/api/find': ['q=ULF', 'q=Norvela', 'q=Fan', 'q=care'],
    '/api/upkeep': ['to=2027-06-30'],
    '/api/upkeep/nothing': ['to=2027-06-30'],
    '/api/upkeep/year': [`year=2027&customer=${ids.customer}`],
    '/api/upkeep/took': [`jobPlan=${ids.plan}`],
    '/api/upkeep/facility': [`place=${ids.place}`],
    '/api/patterns/:id/followers': ['from=2026-12-01'],
    '/api/files': [`subject=asset&subjectId=${ids.asset}`],
    '/api/standing': ['from=2026-10-01&to=2026-12-01&by=agreement', 'from=2026-10-01&to=2026-12-01&by=asset'],
    '/api/standing/detail': [`from=2026-10-01&to=2026-12-01&agreement=${ids.agreement}`],
    '/api/agreements/:id/compare': ['a=2026-02-01&b=2026-12-01'],
    '/api/agreements/:id/price': ['from=2026-01-01&months=24'],
    '/api/cover': [`asset=${ids.asset}&at=2026-11-24T10:00:00Z&kind=repair&cause=wear`],
    '/api/cover/many': [`customer=${ids.customer}&at=2026-11-24T10:00:00Z&kind=repair&cause=wear`],
    '/api/cover/all': ['question=no cover&on=2026-11-24'.replace(' ', '%20')],
    '/api/assets/:id/readings': ['channel=chamber'],
    '/api/time/lines': [`person=${ids.technician}`, `person=${ids.technician}&q=Q100`],
    '/api/time/month': ['month=2026-11'],
    '/api/time/sheets': ['week=2026-11-23'],
    '/api/price-indication': [`assets=${ids.asset}`],
    '/api/rota': ['from=2026-11-24&days=7'],
    '/api/rota/figures': ['month=2026-11'],
    '/api/rota/figures/trend': ['month=2026-11'],
    '/api/rota/orders/:id': ['from=2026-11-24'],
    '/api/twins': [`customer=${ids.customer}`],
  };
  return (query[contract.path] ?? ['']).map((q) => (q === '' ? path : `${path}?${q}`));
};

const AT_ONCE = 6;

type Answers = ReadonlyMap<string, { readonly contract: AnyContract; readonly said: string; readonly status: number }>;
async function everythingShown(): Promise<Answers> {
  const answers = new Map<string, { contract: AnyContract; said: string; status: number }>();
  const asked = contracts.filter(isShown).flatMap((contract) => urlsOf(contract).map((url) => ({ contract, url })));
  // Reads do not wait for each other: several at a time.
  const next = asked.values();
  const ask = async (): Promise<void> => {
    for (const { contract, url } of next) {
      const { status, body } = await call('GET', url);
      answers.set(url, { contract, said: JSON.stringify(body), status });
    }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, ask));
  return answers;
}

/** The things that were said to have changed since a notice. */
async function announcedSince(last: number): Promise<{ readonly things: ReadonlySet<string>; readonly last: number }> {
  const rows = await house.database.db.select().from(change).where(gt(change.id, last));
  return { things: new Set(rows.flatMap((row) => row.tags)), last: Math.max(last, ...rows.map((row) => row.id)) };
}

/** What a read showed otherwise than before, though nothing told it to look again. */
function unheard(before: Answers, after: Answers, things: ReadonlySet<string>): string[] {
  const wrong: string[] = [];
  for (const [url, { contract, said }] of after) {
    const was = before.get(url)?.said ?? '';
    if (was === said || contract.reads?.some((thing) => things.has(thing))) continue;
    const from = [...said].findIndex((c, i) => c !== was[i]);
    const part = (text: string): string => text.slice(Math.max(0, from - 60), from + 40);
    wrong.push(`${url} reads ${contract.reads?.join(', ')}; it said ${part(was)}, now ${part(said)}`);
  }
  return wrong;
}

beforeAll(async () => {
  house = await openHouse();
  call = await house.as('administrator');
  contracts = await everyContract();
  ids = await thingsOfTheDay(call);
  await mailOfTheDay(house.database);
});
afterAll(() => house.close());

it('whatever a read shows otherwise after an act was announced with the act', { timeout: 240_000 }, async () => {
  let before = await everythingShown();
  expect([...before].filter(([, { status }]) => status !== 200).map(([url]) => url)).toEqual([]);
  let heard = (await announcedSince(0)).last;
  const wrong: string[] = [];
  const idle: string[] = [];
  for (const done of DAY) {
    const { says, by, url, body } = done;
    const at = await standingBefore(call, ids, done);
    const answer = await call(by, url(at), body?.(at));
    if (answer.status !== 200) throw new Error(`${says}: ${answer.status} ${JSON.stringify(answer.body)}`);
    const after = await everythingShown();
    const { things, last } = await announcedSince(heard);
    heard = last;
    wrong.push(...unheard(before, after, things).map((what) => `${says}: ${what}`));
    if ([...after].every(([read, { said }]) => before.get(read)?.said === said)) idle.push(says);
    before = after;
  }
  expect(wrong).toEqual([]);
  // Every act was seen somewhere; one that changes nothing would prove nothing.
  expect(idle).toEqual([]);
});
