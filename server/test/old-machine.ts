// Databases of before, for what a migration makes of what stood in them.
import { migrateDatabase } from '../src/platform/database.ts';
import { freshDatabase, migrationsUpTo } from './house.ts';

/** A database as an earlier version left it, with one customer and one machine in it. */
export async function withOldMachine(migration: number) {
  const { database } = await freshDatabase();
  await migrateDatabase(database, await migrationsUpTo(migration));
  const old = async (sql: string) => void (await database.pool.query(sql));
  await old("INSERT INTO customer (name) VALUES ('Old customer')");
  await old("INSERT INTO asset_class (name) VALUES ('Incubator')");
  await old(
    `INSERT INTO asset (customer_id, class_id, maker, model, serial, tag, serial_plain, owner, state)
     VALUES (1, 1, 'Vessmark', 'INC-240', 'S1', 'T1', 's1', 'customer', 'in service')`,
  );
  return { database, old };
}
