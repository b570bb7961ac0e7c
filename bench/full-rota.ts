// A rota that is full: sixty people with three appointments on each day of a week, each for an open order of its own.
import { asId, type AppointmentId, type PersonId } from '#core/ids.ts';
import { instant, MINUTE } from '#core/time/index.ts';
import type { Database } from '#server/platform/database.ts';
import { takeSteps } from '#server/rota/index.ts';
import { sized } from './size.ts';

const PEOPLE = sized(60, 4);
const A_DAY = 3;
const DAYS = 5;
export const MONDAY = Date.UTC(2026, 10, 23);
const HOURS = [9, 11, 14];

export type Rows<T> = Promise<[T[]]>;

/** People beside those of the demo, at both depots, with every skill. */
export async function addPeople({ pool }: Database): Promise<number[]> {
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
export async function fill(database: Database, people: readonly number[]): Promise<number> {
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
  await database.pool.query('ANALYZE TABLE appointment, appointment_person, appointment_order, work_order, order_line');
  return Math.min(wanted, orders.length);
}
