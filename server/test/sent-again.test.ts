// A day's work sent twice, one after the other and both at once: what was sent again is done once or refused, a refusal writes
// nothing, nothing faults, and what follows from events still follows from them.
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { HOUR, instant } from '#core/time/index.ts';
import { rebuild } from '../src/platform/derived.ts';
import { DERIVED } from '../src/rooms.ts';
import type { Ids } from './act.ts';
import { DAY, standingBefore, thingsOfTheDay } from './a-days-work.ts';
import { changed, kept } from './every-row.ts';
import { mailOfTheDay } from './mailed.ts';
import { openHouse, type Caller, type TestHouse } from './house.ts';

let house: TestHouse;
let call: Caller;
let ids: Ids;
const openDay = async (): Promise<void> => {
  house = await openHouse();
  call = await house.as('administrator');
  ids = await thingsOfTheDay(call);
  await mailOfTheDay(house.database);
};

/** Clocks do not follow a calendar that is changed: what they were derived by is not kept with them. */
const WORK = DAY.filter(({ says }) => says !== 'the hours of a calendar change');

/** What the events say against what is kept, now and at a later hour. */
async function differing(): Promise<string[]> {
  const found: string[] = [];
  for (const hours of [0, 30])
    for (const rows of await rebuild(house.database, DERIVED, instant(house.now + hours * HOUR), false))
      found.push(...rows.differing);
  return found;
}

describe('an act sent again', () => {
  beforeAll(openDay);
  afterAll(() => house.close());
  /** Two notes of the same words may both be meant; that a file was loaded or a run made again is written down. */
  const MEANT_TWICE: readonly string[] = ['a note is written', 'a register file is loaded', 'visits are raised'];

  it('is done once, or refused without a trace', { timeout: 240_000 }, async () => {
    const wrong: string[] = [];
    for (const act of WORK) {
      const at = await standingBefore(call, ids, act);
      const [url, body] = [act.url(at), act.body?.(at)];
      const first = await call(act.by, url, body);
      expect([act.says, first.status]).toEqual([act.says, 200]);
      const before = await kept(house);
      const second = await call(act.by, url, body);
      const written = changed(before, await kept(house));
      if (second.status >= 500 || (written.length > 0 && (second.status !== 200 || !MEANT_TWICE.includes(act.says))))
        wrong.push(`${act.says}: ${second.status} ${second.body.detail ?? ''} wrote ${written.join(', ')}`);
    }
    expect(wrong).toEqual([]);
    expect(await differing()).toEqual([]);
  });
});

/**
 * While the first is under way, and not in the same instant: of two rows given their numbers in one instant either may be refused, and the
 * acts that follow name what the first one made.
 */
const afterwards = async <T>(send: () => Promise<T>): Promise<T> => {
  await new Promise((resolve) => setTimeout(resolve, 3));
  return send();
};

describe('an act sent by two at once', () => {
  beforeAll(openDay);
  afterAll(() => house.close());

  it('is done, the other one with it or refused, and neither faults', { timeout: 240_000 }, async () => {
    const wrong: string[] = [];
    for (const act of WORK) {
      const at = await standingBefore(call, ids, act);
      const [url, body] = [act.url(at), act.body?.(at)];
      const both = await Promise.all([call(act.by, url, body), afterwards(() => call(act.by, url, body))]);
      const statuses = both.map((a) => a.status).sort();
      if (statuses[0] !== 200 || (statuses[1] as number) >= 500)
        wrong.push(`${act.says}: ${both.map((a) => `${a.status} ${a.body.detail ?? ''}`).join(' | ')}`);
    }
    expect(wrong).toEqual([]);
    expect(await differing()).toEqual([]);
  });
});
