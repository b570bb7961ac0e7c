// The rota over the routes at load: a week of sixty people and nine hundred appointments read, who can go for an order, loose work, the
// forecast, and an appointment booked.
import { randomUUID } from 'node:crypto';
import { asId, type AppointmentId, type PersonId } from '#core/ids.ts';
import { instant, MINUTE } from '#core/time/index.ts';
import { buildApp } from '#server/app.ts';
import type { Database } from '#server/platform/database.ts';
import { ROOMS } from '#server/rooms.ts';
import { takeSteps } from '#server/rota/index.ts';
import { percentile, serverConfig, signIn, spread, spreadId, timed } from './calls.ts';
import { sized } from './size.ts';
import { rounded } from './stopwatch.ts';
import { inWorld, type World } from './world.ts';

const PEOPLE = sized(60, 4);
const A_DAY = 3;
const DAYS = 5;
const ASKED = sized(150, 3);
const MONDAY = Date.UTC(2026, 10, 23);
const HOURS = [9, 11, 14];

type Rows<T> = Promise<[T[]]>;

/** Days from the Monday to the n-th of the working days three weeks on: no weekend, and no holiday before Christmas. */
const workday = (n: number): number => 21 + Math.floor(n / 5) * 7 + (n % 5);

/** People beside those of the demo, at both depots, with every skill. */
async function addPeople({ pool }: Database): Promise<number[]> {
  const [[like]] = await (pool.query(
    "SELECT * FROM person WHERE role = 'technician' AND calendar_id IS NOT NULL LIMIT 1",
  ) as unknown as Rows<{ calendar_id: number; password_hash: string; zone: string }>);
  const ids: number[] = [];
  for (let i = 0; i < PEOPLE; i += 1) {
    const [made] = await pool.query(
      "INSERT INTO person (email, name, role, zone, password_hash, created_at, calendar_id) VALUES (?, ?, 'technician', ?, ?, NOW(3), ?)",
      [`goes.${i}@marisma.example`, `Goes ${i}`, like?.zone, like?.password_hash, like?.calendar_id],
    );
    const { insertId } = made as { insertId: number };
    ids.push(insertId);
    await pool.query("INSERT INTO technician (person_id, depot_id, speaks) VALUES (?, ?, '[]')", [
      insertId,
      1 + (i % 2),
    ]);
    await pool.query('INSERT INTO person_skill (person_id, skill_id) SELECT ?, id FROM skill', [insertId]);
  }
  return ids;
}

/** Three appointments a day for each, each for an open order of its own. */
async function fill(database: Database, people: readonly number[]): Promise<number> {
  const wanted = people.length * A_DAY * DAYS;
  const [orders] = await (database.pool.query(
    "SELECT w.id, MIN(COALESCE(a.location_id, l.location_id)) AS place FROM work_order w JOIN order_line l ON l.order_id = w.id LEFT JOIN asset a ON a.id = l.asset_id WHERE w.stage = 'raised' GROUP BY w.id ORDER BY w.id LIMIT ?",
    [wanted],
  ) as unknown as Rows<{ id: number; place: number }>);
  await database.transact(async (tx) => {
    let made = 0;
    for (const personId of people)
      for (let day = 0; day < DAYS; day += 1)
        for (const hour of HOURS) {
          const order = orders[made];
          if (!order) return;
          made += 1;
          const from = instant(MONDAY + (day * 24 + hour) * 60 * MINUTE);
          const to = instant(from + 60 * MINUTE);
          const stamp = (at: number) => new Date(at).toISOString().slice(0, 23).replace('T', ' ');
          const [row] = await tx.connection.query(
            "INSERT INTO appointment (location_id, zone, from_at, to_at) VALUES (?, 'Europe/Lisbon', ?, ?)",
            [order.place, stamp(from), stamp(to)],
          );
          const id = (row as { insertId: number }).insertId;
          await tx.connection.query('INSERT INTO appointment_person VALUES (?, ?, 0)', [id, personId]);
          await tx.connection.query('INSERT INTO appointment_order VALUES (?, ?)', [id, order.id]);
          const span = { from, to };
          await takeSteps(tx, [
            { id: asId<AppointmentId>(id), people: [asId<PersonId>(personId)], span, overlaps: false },
          ]);
        }
  });
  return Math.min(wanted, orders.length);
}

async function measureIn({ database, url, figures, loadSeconds }: World): Promise<unknown> {
  const people = await addPeople(database);
  const appointments = await fill(database, people);
  await database.pool.query('ANALYZE TABLE appointment, appointment_person, appointment_order, work_order, order_line');
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
