// The rota over the routes at load: a week of sixty people and nine hundred appointments read, who can go for an order, loose work, the
// forecast, and an appointment booked.
import { randomUUID } from 'node:crypto';
import { MINUTE } from '#core/time/index.ts';
import { buildApp } from '#server/app.ts';
import { ROOMS } from '#server/rooms.ts';
import { percentile, serverConfig, signIn, spread, spreadId, timed } from './calls.ts';
import { addPeople, fill, MONDAY, type Rows } from './full-rota.ts';
import { sized } from './size.ts';
import { rounded } from './stopwatch.ts';
import { inWorld, type World } from './world.ts';

const ASKED = sized(150, 3);

/** Days from the Monday to the n-th of the working days three weeks on: no weekend, and no holiday before Christmas. */
const workday = (n: number): number => 21 + Math.floor(n / 5) * 7 + (n % 5);

async function measureIn({ database, url, figures, loadSeconds }: World): Promise<unknown> {
  const people = await addPeople(database);
  const appointments = await fill(database, people);
  const app = await buildApp(serverConfig(url), database, ROOMS);
  try {
    const call = await signIn(app);
    const [loose] = await (database.pool.query(
      "SELECT id FROM work_order WHERE stage = 'raised' ORDER BY id DESC LIMIT 400",
    ) as unknown as Rows<{ id: number }>);
    const looseAt = (i: number): number => loose[i % loose.length]?.id ?? 1;
    const bare = await timed(ASKED, (i) =>
      database.pool.execute('SELECT * FROM work_order WHERE id = ?', [spreadId(i, 1000)]),
    );
    const week = await timed(ASKED, () => call('GET', '/api/rota?from=2026-11-23&days=7'));
    const looseRead = await timed(ASKED, () => call('GET', '/api/rota/loose?show=ready&limit=200'));
    const who = await timed(ASKED, (i) => call('GET', `/api/rota/candidates/${looseAt(i)}?days=3`));
    const forecast = await timed(sized(30, 2), () => call('GET', '/api/rota/forecast'));
    const booked = await timed(ASKED, (i) =>
      call('POST', '/api/rota/appointments', {
        ...{ requestKey: randomUUID(), orders: [looseAt(i)], people: [people[i % people.length]], minutes: 30 },
        ...{
          from: new Date(MONDAY + workday(Math.floor(i / people.length)) * 86_400_000 + 11 * 60 * MINUTE).toISOString(),
        },
        ...{ anyway: true, overlapReason: 'measured' },
      }),
    );
    return {
      bench: 'rota-served',
      world: { ...figures, peopleAdded: people.length, appointments },
      worldLoadSeconds: rounded(loadSeconds),
      week: { ...spread(week), wanted: 'p95 ≤ 120 ms' },
      loose: spread(looseRead),
      candidates: { ...spread(who), wanted: 'p95 ≤ 80 ms among 200 people, in core' },
      forecast: spread(forecast),
      booking: spread(booked),
      reference: { what: 'one order by primary key, mysql2 execute', ...spread(bare) },
      weekToReference: rounded(percentile(week, 0.95) / percentile(bare, 0.95)),
    };
  } finally {
    await app.close();
  }
}

export const measure = (): Promise<unknown> => inWorld(measureIn);
