// Jobs: claimed once, fenced when overtaken, tried again with growing waits, dead with their reason, begun by the clock once.
import { asc, eq } from 'drizzle-orm';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { refusal } from '#core/refusal.ts';
import { instant } from '#core/time/index.ts';
import { migrateDatabase, type Database } from '../src/platform/database.ts';
import { startJobClock } from '../src/platform/job-clock.ts';
import { claimJob, holdClaim, leaveJob, startJobs, type JobKind, type Working } from '../src/platform/jobs.ts';
import { Refused } from '../src/platform/refuse.ts';
import { job } from '../src/tables.ts';
import { freshDatabase, migrationsUpTo, peopledDatabase } from './house.ts';

let database: Database;
beforeEach(async () => ({ database } = await peopledDatabase()));
afterEach(() => database.close());

const rows = () => database.db.select().from(job).orderBy(asc(job.id));
const leave = (kind = 'sum', more: Parameters<typeof leaveJob>[3] = {}, ask = {}) =>
  database.transact((tx) => leaveJob(tx, kind, ask, more));
const logged: object[] = [];
const log = { error: (fields: object) => void logged.push(fields) };
const now = () => instant(Date.now());
const kind = (run: (ask: unknown, working: Working) => Promise<string>, died?: JobKind['died']): JobKind => ({
  kind: 'sum',
  says: 'Adds up',
  run: (_stand, ask, working) => run(ask, working),
  ...(died && { died }),
});
const ended = (state: string) =>
  expect.poll(async () => (await rows()).map((r) => r.state), { timeout: 5000 }).toEqual([state]);

describe('a job', () => {
  it('left with a key stands once; rolled back it was never left', async () => {
    await leave('sum', { key: 'today' });
    await leave('sum', { key: 'today' });
    await leave('other', { key: 'today' });
    await database
      .transact(async (tx) => {
        await leaveJob(tx, 'sum', {});
        throw new Error('given up');
      })
      .catch(() => undefined);
    expect((await rows()).map((r) => [r.kind, r.jobKey])).toEqual([
      ['sum', 'today'],
      ['other', 'today'],
    ]);
  });

  it('is given to one of many who ask at once, and to nobody while its lease runs', async () => {
    for (let n = 0; n < 5; n += 1) await leave();
    const claims = await Promise.all(Array.from({ length: 12 }, () => claimJob(database, ['sum'])));
    const given = claims.flatMap((c) => c?.id ?? []);
    expect(new Set(given).size).toBe(given.length);
    for (let claim = await claimJob(database, ['sum']); claim; claim = await claimJob(database, ['sum']))
      given.push(claim.id);
    expect(given.sort((a, b) => a - b)).toEqual([1, 2, 3, 4, 5]);
  });

  it('that is not due, or of another kind, is left alone', async () => {
    await leave('sum', { at: instant(Date.now() + 60_000) });
    await leave('other');
    expect(await claimJob(database, ['sum'])).toBeNull();
    expect(await claimJob(database, [])).toBeNull();
  });

  it('whose server died goes to the next, and the first writes nothing more', async () => {
    await leave();
    const first = await claimJob(database, ['sum']);
    await database.db.update(job).set({ leaseUntil: instant(1) });
    const second = await claimJob(database, ['sum']);
    expect([first?.fence, second?.fence]).toEqual([1, 2]);
    expect(await database.transact((tx) => holdClaim(tx, first as never))).toBe(false);
    expect(await database.transact((tx) => holdClaim(tx, second as never))).toBe(true);
  });
});

describe('a worker', () => {
  it('carries out what it finds and what it is woken for, and says what came of it', async () => {
    await leave('sum', {}, { of: [1, 2] });
    const worker = startJobs(
      database,
      [kind(async (ask) => String((ask as { of: number[] }).of.reduce((a, b) => a + b)))],
      null,
      now,
      log,
    );
    await ended('done');
    expect((await rows())[0]).toMatchObject({ progress: '3', problem: null, leaseUntil: null, tries: 0 });
    await worker.stop();
  });

  it('waits longer after each failure, and lays a job aside with its reason', async () => {
    const died: unknown[] = [];
    await leave('sum', {}, { of: 7 });
    const worker = startJobs(
      database,
      [
        kind(
          () => Promise.reject(new Error('no paper')),
          async (_stand, ask, reason) => void died.push([ask, reason]),
        ),
      ],
      null,
      now,
      log,
    );
    const waits: number[] = [];
    for (let tries = 1; tries <= 6; tries += 1) {
      await expect.poll(async () => (await rows())[0]?.tries, { timeout: 5000 }).toBe(tries);
      const [row] = await rows();
      if (row?.state === 'waiting') waits.push(row.dueAt - Date.now());
      await database.db.update(job).set({ dueAt: instant(1) });
      worker.wake();
    }
    await ended('dead');
    expect((await rows())[0]).toMatchObject({ problem: 'no paper' });
    expect(waits.every((wait, i) => i === 0 || wait > (waits[i - 1] as number))).toBe(true);
    expect(died).toEqual([[{ of: 7 }, 'no paper']]);
    await worker.stop();
  });

  it('does not try again what is refused: it would be refused again', async () => {
    await leave();
    const worker = startJobs(
      database,
      [kind(() => Promise.reject(new Refused([refusal('not-found', 'That file is gone.')])))],
      null,
      now,
      log,
    );
    await ended('dead');
    expect((await rows())[0]).toMatchObject({ tries: 1, problem: 'That file is gone.' });
    await worker.stop();
  });

  it('that stops in the middle leaves the job for the next at once', async () => {
    await leave();
    let begun = false;
    const held = kind(async (_ask, { signal }) => {
      begun = true;
      await new Promise((_, cut) => signal.addEventListener('abort', () => cut(new Error('cut')), { once: true }));
      return '';
    });
    const worker = startJobs(database, [held], null, now, log);
    await expect.poll(() => begun, { timeout: 5000 }).toBe(true);
    await worker.stop();
    expect((await rows())[0]).toMatchObject({ state: 'waiting', leaseUntil: null, tries: 0 });
    const next = startJobs(database, [kind(async () => 'went on')], null, now, log);
    await ended('done');
    await next.stop();
  });

  it('that was overtaken cannot end the job for whoever has it now', async () => {
    await leave();
    let overtaken = false;
    const worker = startJobs(
      database,
      [
        kind(async (_ask, { id }) => {
          await database.db.update(job).set({ fence: 99 }).where(eq(job.id, id));
          overtaken = true;
          return 'mine';
        }),
      ],
      null,
      now,
      log,
    );
    await expect.poll(() => overtaken, { timeout: 5000 }).toBe(true);
    await worker.stop();
    expect((await rows())[0]).toMatchObject({ state: 'running', fence: 99, progress: null });
  });
});

describe('the clock', () => {
  it('of several servers leaves one job for each time, and at a start', async () => {
    const every = { ...kind(async () => ''), every: { cron: '* * * * * *', says: 'every second' }, atStart: true };
    const clocks = await Promise.all([1, 2, 3].map(() => startJobClock(database, [every], () => undefined)));
    await expect
      .poll(async () => (await rows()).filter((r) => r.jobKey?.endsWith(':00.000Z')).length, { timeout: 8000 })
      .toBeGreaterThan(0);
    await new Promise((r) => setTimeout(r, 1500));
    for (const clock of clocks) clock.stop();
    const keys = (await rows()).map((r) => r.jobKey);
    expect(new Set(keys).size).toBe(keys.length);
    expect(keys.length).toBeLessThanOrEqual(5);
  });
});

describe('imports that were running before jobs were', () => {
  it('become jobs, so that they go on', async () => {
    const { database: old } = await freshDatabase();
    await migrateDatabase(old, await migrationsUpTo(14));
    const insert = (state: string) =>
      old.pool.query(
        "INSERT INTO import_run (kind, file_name, sha256, settings, state, `rows`, tally, created_at) VALUES ('assets', 'f.csv', 'x', '{}', ?, 3, '{}', '2026-01-01')",
        [state],
      );
    for (const state of ['done', 'running', 'read']) await insert(state);
    await migrateDatabase(old);
    expect(await old.db.select().from(job)).toMatchObject([{ kind: 'import', ask: { id: 2 }, state: 'waiting' }]);
    await old.close();
  });
});
