// What an act changes, the screens that show it fetch again: each read that answers otherwise after a write must read a thing that
// was announced with it. All reads of all rooms before and after each act of a day's work.
import { gt } from 'drizzle-orm';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { AnyContract, Thing } from '#api/contract.ts';
import { mayCall } from '#core/people.ts';
import { openHouse, type Caller, type TestHouse } from './house.ts';
import { change } from '../src/platform/tables.ts';
import type { Ids } from './act.ts';
import { DAY, standingBefore, thingsOfTheDay } from './a-days-work.ts';
import { mailOfTheDay } from './mailed.ts';
import { everyContract } from './every-contract.ts';

/** Worked out beside requests, some seconds later, and announced by itself. */
const LATER: readonly Thing[] = ['outlook', 'jobs', 'outbox', 'session'];
/** Of acts that changed nothing else, it is not known whether they did anything. */
const WRITTEN_ANYWAY = new Set(['audit', 'change', 'session']);
/** Counted beside the rooms: a message that cannot leave is given up some seconds after what sent it. */
const DEAD_JOBS = /,"jobs":\d+/;
/** What a screen shows; the own page of an import or a run has nothing in common with the rest. */
const OWN_PAGES = [
  ...['/api/imports/:id', '/api/upkeep/runs/:id', '/api/rota/plans/:id', '/api/alerts/:id/curve'],
  ...['/api/settle/orders/:id', '/api/settle/documents/:id', '/api/settle/payments/:id', '/api/settle/claims/:id'],
  // Worked out on a thread, of nearly everything there is.
  ...['/api/settle/margins', '/api/settle/margins/:id'],
];
const isShown = ({ method, path, reads, may }: AnyContract): boolean =>
  // A phone looks by itself, whatever is announced.
  mayCall(may, 'administrator') &&
  method === 'GET' &&
  !OWN_PAGES.includes(path) &&
  !!reads &&
  !reads.some((thing) => LATER.includes(thing));

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
    standing: ids.agreement,
  };
  const id = {
    ...named,
    locations: ids.place,
    stores: 1,
    purchases: 1,
    'stock-counts': 1,
    parts: 1,
    imports: 1,
    mail: 1,
    offers: 1,
  }[room as 'assets'];
  // Part 2 is the one that is kept by serial.
  const elsewhere: Record<string, number> = { '/api/parts/:id/unit': 2, '/api/standing/places/:id': ids.place };
  const of = elsewhere[contract.path] ?? id;
  const path = contract.path
    .replace(':id', String(of))
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
    '/api/standing': ['agreement', 'asset', 'site', 'customer', 'depot'].map(
      (by) => `from=2026-10-01&to=2026-12-01&by=${by}`,
    ),
    '/api/standing/places/:id': ['from=2026-10-01&to=2026-12-01'],
    '/api/standing/total': ['from=2026-10-01&to=2026-12-01'],
    '/api/standing/before': [
      'from=2026-10-01&to=2026-12-01&by=agreement&ids=1',
      'from=2026-10-01&to=2026-12-01&by=asset&ids=1,2',
    ],
    '/api/standing/course': ['from=2026-10-01&to=2026-12-01&by=all', 'from=2026-10-01&to=2026-12-01&by=asset&id=1'],
    '/api/standing/adjustments': ['from=2026-01-01&to=2026-12-31'],
    '/api/standing/reliability': ['from=2026-01-01&to=2026-12-01'],
    '/api/standing/review/:id': ['from=2026-10-01&to=2026-12-01'],
    '/api/clocks': ['by=technician', 'by=in%20hand&mine=yes'],
    '/api/standing/detail': [`from=2026-10-01&to=2026-12-01&by=agreement&id=${ids.agreement}`],
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
    '/api/parts/:id/unit': ['serial=CB-0001'],
    '/api/stores/:id/picking': ['day=2026-11-24'],
    '/api/settle/claims': ['state=to%20send'],
    '/api/rota/figures': ['month=2026-11'],
    '/api/rota/figures/trend': ['month=2026-11'],
    '/api/rota/orders/:id': ['from=2026-11-24'],
    '/api/alert-figures': ['days=30'],
    '/api/twins': [`customer=${ids.customer}`],
  };
  return (query[contract.path] ?? ['']).map((q) => (q === '' ? path : `${path}?${q}`));
};

const AT_ONCE = 6;

type Read = { readonly contract: AnyContract; readonly url: string };
/** What reads said when they were last asked; one that was told to look again since is not in it. */
type Said = Map<string, string>;

/** Asks reads that are not known, several at a time: they do not wait for each other. */
async function ask(reads: readonly Read[], said: Said): Promise<void> {
  const next = reads.filter(({ url }) => !said.has(url)).values();
  const inTurn = async (): Promise<void> => {
    for (const { url } of next) {
      const { status, body } = await call('GET', url);
      if (status !== 200) throw new Error(`${url}: ${status} ${JSON.stringify(body)}`);
      said.set(url, JSON.stringify(body).replace(DEAD_JOBS, ''));
    }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, inTurn));
}

const meets = ({ contract }: Read, things: Iterable<string>): boolean =>
  [...things].some((thing) => contract.reads?.includes(thing as Thing));

/** The things that were said to have changed since a notice. */
async function announcedSince(last: number): Promise<{ readonly things: ReadonlySet<string>; readonly last: number }> {
  const rows = await house.database.db.select().from(change).where(gt(change.id, last));
  return { things: new Set(rows.flatMap((row) => row.tags)), last: Math.max(last, ...rows.map((row) => row.id)) };
}

/** What an act says that it touches, by its address. */
function touchedBy(by: string, url: string): readonly Thing[] {
  const parts = url.split('?')[0]?.split('/') ?? [];
  const isOf = ({ method, path }: AnyContract): boolean => {
    const own = path.split('/');
    return method === by && own.length === parts.length && own.every((p, i) => p.startsWith(':') || p === parts[i]);
  };
  // One that is named whole goes before one with an id at its place.
  const found = contracts.filter(isOf).sort((a, b) => a.path.split(':').length - b.path.split(':').length);
  if (!found[0]) throw new Error(`No contract for ${by} ${url}`);
  return found[0].touches ?? [];
}

/** Where what is said now is other than it was, with a little of what stands about it. */
function apart(was: string, now: string): string {
  const from = [...now].findIndex((c, i) => c !== was[i]);
  const part = (text: string): string => text.slice(Math.max(0, from - 60), from + 40);
  return `it said ${part(was)}, now ${part(now)}`;
}

/** A number for all rows of all tables but those that every request writes to. */
async function stateOf(): Promise<string> {
  const { pool } = house.database;
  const [tables] = (await pool.query('SHOW TABLES')) as unknown as [Record<string, string>[]];
  const names = tables.flatMap((row) => Object.values(row)).filter((name) => !WRITTEN_ANYWAY.has(name));
  const [sums] = await pool.query(`CHECKSUM TABLE ${names.map((n) => `\`${n}\``).join(', ')}`);
  return JSON.stringify(sums);
}

beforeAll(async () => {
  house = await openHouse();
  call = await house.as('administrator');
  contracts = await everyContract();
  ids = await thingsOfTheDay(call);
  await mailOfTheDay(house.database);
});
afterAll(() => house.close());

it('whatever a read shows otherwise after an act was announced with the act', { timeout: 480_000 }, async () => {
  const reads = contracts
    .filter(isShown)
    .flatMap((contract) => urlsOf(contract).map((url): Read => ({ contract, url })));
  const said: Said = new Map();
  await ask(reads, said);
  let { last } = await announcedSince(0);
  let state = await stateOf();
  const wrong: string[] = [];
  const idle: string[] = [];
  for (const done of DAY) {
    const { says, by, url, body } = done;
    const at = await standingBefore(call, ids, done);
    // What the act says it touches may be otherwise after it, so it need not be known before.
    const touched = touchedBy(by, url(at));
    const kept = reads.filter((read) => !meets(read, touched));
    await ask(kept, said);
    const answer = await call(by, url(at), body?.(at));
    if (answer.status !== 200) throw new Error(`${says}: ${answer.status} ${JSON.stringify(answer.body)}`);
    const heard = await announcedSince(last);
    last = heard.last;
    expect([...heard.things], says).toEqual(expect.arrayContaining([...touched]));
    for (const read of reads) if (meets(read, heard.things)) said.delete(read.url);
    const unheard = kept.filter(({ url: own }) => said.has(own));
    const now: Said = new Map();
    await ask(unheard, now);
    // What a job works out is announced with what it writes, which may be between two of these reads.
    const beside = await announcedSince(last);
    for (const read of unheard) {
      const { contract, url: own } = read;
      const [was, is] = [said.get(own) ?? '', now.get(own) ?? ''];
      const isTold = was === is || meets(read, beside.things);
      if (!isTold) wrong.push(`${says}: ${own} reads ${contract.reads?.join(', ')}; ${apart(was, is)}`);
      said.set(own, is);
    }
    const after = await stateOf();
    if (after === state) idle.push(says);
    state = after;
  }
  expect(wrong).toEqual([]);
  // An act that changes nothing would prove nothing.
  expect(idle).toEqual([]);
});
