// Loads the demo: one world for one seed, now and scale.
import { hashPassword } from '#server/platform/auth.ts';
import { bulkInsert, type Database } from '#server/platform/database.ts';
import { rebuildFinder } from '#server/platform/finder-index.ts';
import { instantText, person } from '#server/platform/tables/index.ts';
import { asZone, localDateAt, type Instant } from '#core/time/index.ts';
import type { SimulatedDevice } from '#standins/devices.ts';
import { writeAgreements, writeReference } from './contracts.ts';
import { writeDevices, writeReadings } from './devices.ts';
import { writeLives } from './lives.ts';
import { judgeOf, writeOpenRepairs, writeRepairs } from './repairs.ts';
import { seeded } from './random.ts';
import { writeRegister } from './register.ts';
import { LISBON, PEOPLE } from './scenario.ts';
import { writeVisits } from './visits.ts';

export type DemoWorld = {
  readonly devices: readonly SimulatedDevice[];
  readonly figures: Readonly<Record<string, number>>;
};

export const emailOf = (name: string): string =>
  `${name
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .replace(/[^a-z]+/g, '.')}@marisma.example`;

/** Everybody in the demo has this password; the demo serves on loopback only. */
export const DEMO_PASSWORD = 'marisma demo 2026';

export async function loadDemo(database: Database, now: Instant, scale = 1, seed = 20_260): Promise<DemoWorld> {
  const today = localDateAt(asZone(LISBON), now);
  const random = seeded(seed);
  const passwordHash = await hashPassword(DEMO_PASSWORD);
  const loaded = await database.transact(async (tx) => {
    await bulkInsert(
      tx.connection,
      'person',
      ['email', 'name', 'role', 'zone', 'password_hash', 'created_at'],
      PEOPLE.map((p) => [emailOf(p.name), p.name, p.role, p.zone, passwordHash, instantText(now)]),
    );
    const reference = await writeReference(tx, today);
    const register = await writeRegister(tx, random, now, today, scale);
    const agreements = await writeAgreements(tx, register, reference, now, today, scale);
    const visits = await writeVisits(tx, random, register.assets, now, today);
    const judge = await judgeOf(tx, register.assets, now);
    const repairs = await writeRepairs(tx, random, register.assets, judge);
    await writeOpenRepairs(tx, random, register.assets, judge);
    await writeLives(tx, seeded(seed + 1), register, reference, now, today);
    const devices = await writeDevices(tx, register);
    return {
      devices,
      figures: {
        customers: register.customers.size,
        places: register.sites.size,
        assets: register.assets.length,
        agreements: agreements.length,
        visits,
        repairs: repairs + 12,
        devices: devices.length,
      },
    };
  });
  await writeReadings(database, loaded.devices, now);
  await rebuildFinder(database);
  return loaded;
}

export async function isLoaded(database: Database): Promise<boolean> {
  return (await database.db.select({ id: person.id }).from(person).limit(1)).length > 0;
}
