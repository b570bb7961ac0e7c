// Threads: values and refusals cross the border, a thread that breaks or grows too large ends alone, and the loop goes on meanwhile.
import { describe, expect, it } from 'vitest';
import { refusal } from '#core/refusal.ts';
import { addDays, asLocalDate, type LocalDate } from '#core/time/index.ts';
import { checkRunDate } from '#core/upkeep/index.ts';
import { isDatabaseGone } from '#server/platform/database.ts';
import { Refused } from '#server/platform/refuse.ts';
import { onThreads, type Answered } from '#server/platform/threads.ts';
import { onUpkeepThread } from '#server/upkeep/index.ts';
import { freePort } from '../../commands/mariadb.ts';
import { buildWorld, openHouse } from './house.ts';

type Tasks = {
  double(n: number): Promise<Answered<number>>;
  decline(text: string): Promise<Answered<never>>;
  fault(ask: null): Promise<Answered<never>>;
  hog(ask: null): Promise<Answered<never>>;
  spin(ms: number): Promise<Answered<number>>;
  wait(ask: null): Promise<Answered<never>>;
};
const onThread = onThreads<Tasks>(
  new URL('./threads.tasks.mjs', import.meta.url),
  refusal('too-large', 'Too much at once; take a part of it.', 'file'),
);
const refusedBy = async (
  work: Promise<unknown>,
): Promise<readonly { message: string; field?: string | undefined }[]> => {
  const error = await work.then(
    () => null,
    (e: unknown) => e,
  );
  if (!(error instanceof Refused)) throw error ?? new Error('it was not refused');
  return error.refusals;
};

describe('a task on a thread', () => {
  it('gives its value, also many at once, each its own', async () => {
    const numbers = Array.from({ length: 40 }, (_, i) => i);
    expect(await Promise.all(numbers.map((n) => onThread('double', n)))).toEqual(numbers.map((n) => n * 2));
  });

  it('is refused here as it was there, at its field', async () => {
    expect(await refusedBy(onThread('decline', 'Not so.'))).toMatchObject([{ message: 'Not so.', field: 'n' }]);
  });

  it('that breaks says so, and the next one runs', async () => {
    await expect(onThread('fault', null)).rejects.toThrow('a task broke');
    expect(await onThread('double', 21)).toBe(42);
  });

  it('that grows past what a thread has is refused in words, and ends nobody else', async () => {
    const [small, large] = await Promise.all([onThread('double', 4), refusedBy(onThread('hog', null))]);
    expect(small).toBe(8);
    expect(large).toMatchObject([{ message: 'Too much at once; take a part of it.', field: 'file' }]);
    expect(await onThread('double', 5)).toBe(10);
  });

  it('that never gives way holds up nothing here', async () => {
    let turns = 0;
    const beat = setInterval(() => (turns += 1), 5);
    const spun = await onThread('spin', 400);
    clearInterval(beat);
    expect(spun).toBeGreaterThan(0);
    // On the loop it would have been none at all.
    expect(turns).toBeGreaterThan(10);
  });

  it('is ended when whoever asked lets go of it', async () => {
    const letGo = new AbortController();
    const waiting = onThread('wait', null, letGo.signal);
    setTimeout(() => letGo.abort(), 50);
    await expect(waiting).rejects.toThrow(/abort/i);
    expect(await onThread('double', 1)).toBe(2);
  });
});

describe('work with the database on a thread', () => {
  const today = asLocalDate('2026-11-24');
  const preview = (url: string, to: LocalDate) =>
    onUpkeepThread('preview', { url, to, today, scope: {}, page: { limit: 5 } });

  it('whose database is gone says so as here, so that it is answered with 503', async () => {
    const nobody = `mysql://stavok:x@127.0.0.1:${await freePort()}/stavok`;
    await expect(preview(nobody, today)).rejects.toSatisfy(isDatabaseGone);
  });

  it('is refused with the same words and field as here', async () => {
    const far = addDays(today, 4000);
    const here = checkRunDate(far, today);
    expect(await refusedBy(preview('mysql://127.0.0.1/none', far))).toEqual(here.ok ? [] : here.refusals);
  });

  it('changes over to another house, and finds what stands there', async () => {
    const [first, second] = [await openHouse(), await openHouse()];
    await buildWorld(await first.as('coordinator'), { assets: 3 });
    const [full, empty] = [first.url, second.url];
    const counts = [];
    for (const url of [full, empty, full]) counts.push((await preview(url, addDays(today, 300))).counts.schedules);
    expect(counts).toEqual([3, 0, 3]);
    await first.close();
    await second.close();
  });
});
