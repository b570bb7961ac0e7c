// Loads the demo: one world for one seed, now and scale.
import { hashPassword } from '#server/platform/auth.ts';
import { bulkInsert, type Database, type Tx } from '#server/platform/database.ts';
import { rebuildFinder } from '#server/platform/finder-index.ts';
import { FOUND } from '#server/rooms.ts';
import { instantText, person } from '#server/tables.ts';
import { asZone, localDateAt, type Instant } from '#core/time/index.ts';
import type { SimulatedDevice } from '#standins/devices.ts';
import { writeAgreements } from './agreements.ts';
import { writeReference } from './reference.ts';
import { writeDevices, writeReadings } from './devices.ts';
import { writeForms } from './forms.ts';
import { writeLives } from './lives.ts';
import { judgeOf, writeOpenRepairs, writeRepairs } from './repairs.ts';
import { seeded, type Random } from './random.ts';
import { writeRegister, type DemoAsset, type DemoRegister } from './register.ts';
import { LISBON, PEOPLE } from './scenario.ts';
import { writeDraws, writeTerms } from './terms.ts';
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

/** Machines whose past is written in one transaction, and how many such transactions run at once. */
const AT_A_TIME = 2000;
const LANES = 3;

async function loadInParts<B extends { readonly register: DemoRegister }>(
  database: Database,
  base: (tx: Tx) => Promise<B>,
  past: (tx: Tx, assets: readonly DemoAsset[], random: Random) => Promise<{ visits: number; repairs: number }>,
  seed: number,
  present: (tx: Tx, made: B) => Promise<readonly SimulatedDevice[]>,
) {
  const made = await database.transact(base);
  let [visits, repairs] = [0, 0];
  let next = 0;
  // A source of chance of its own for each group, so that it does not matter which lane takes it, or whether it runs again.
  const lane = async (): Promise<void> => {
    while (next < made.register.assets.length) {
      const from = next;
      next += AT_A_TIME;
      const group = made.register.assets.slice(from, next);
      const part = await database.transact((tx) => past(tx, group, seeded(seed + from)));
      visits += part.visits;
      repairs += part.repairs;
    }
  };
  await Promise.all(Array.from({ length: LANES }, lane));
  return { ...made, visits, repairs, devices: await database.transact((tx) => present(tx, made)) };
}

export async function loadDemo(database: Database, now: Instant, scale = 1, seed = 20_260): Promise<DemoWorld> {
  const today = localDateAt(asZone(LISBON), now);
  const random = seeded(seed);
  const passwordHash = await hashPassword(DEMO_PASSWORD);
  const depth = seeded(seed + 1);
  /** The base of the world, then what happened to its machines, a group of them at a time, then what is open and live. */
  const base = async (tx: Tx) => {
    await bulkInsert(
      tx.connection,
      'person',
      ['email', 'name', 'role', 'zone', 'password_hash', 'created_at'],
      PEOPLE.map((p) => [emailOf(p.name), p.name, p.role, p.zone, passwordHash, instantText(now)]),
    );
    const reference = await writeReference(tx, today);
    const register = await writeRegister(tx, random, now, today, scale);
    const agreements = await writeAgreements(tx, register, reference, now, today, scale);
    await writeTerms(tx, agreements, now, today);
    return { reference, register, agreements: agreements.length };
  };
  const past = async (tx: Tx, assets: readonly DemoAsset[], chance: Random) => {
    const visits = await writeVisits(tx, chance, assets, now, today);
    const repairs = await writeRepairs(tx, chance, assets, await judgeOf(tx, assets, now));
    return { visits, repairs };
  };
  const present = async (tx: Tx, { reference, register }: Awaited<ReturnType<typeof base>>) => {
    const first = register.assets.slice(0, Math.ceil(register.assets.length / scale));
    await writeOpenRepairs(tx, random, first, await judgeOf(tx, first, now));
    if (scale === 1) await writeDraws(tx, today);
    await writeLives(tx, depth, register, reference, now, today);
    await writeForms(tx, depth, register, first, now);
    return writeDevices(tx, { ...register, assets: first });
  };
  // One world of scale 1 is there as a whole or not at all; larger ones are for load and come in parts.
  const inParts = scale > 1;
  const all = inParts
    ? await loadInParts(database, base, past, seed + 2, present)
    : await database.transact(async (tx) => {
        const made = await base(tx);
        const happened = await past(tx, made.register.assets, random);
        return { ...made, ...happened, devices: await present(tx, made) };
      });
  const loaded: DemoWorld = {
    devices: all.devices,
    figures: {
      customers: all.register.customers.size,
      places: all.register.sites.size,
      assets: all.register.assets.length,
      agreements: all.agreements,
      visits: all.visits,
      repairs: all.repairs + 12,
      devices: all.devices.length,
    },
  };
  await writeReadings(database, loaded.devices, now);
  await rebuildFinder(database, FOUND);
  return loaded;
}

export async function isLoaded(database: Database): Promise<boolean> {
  return (await database.db.select({ id: person.id }).from(person).limit(1)).length > 0;
}
