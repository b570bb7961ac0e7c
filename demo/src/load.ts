// Loads the demo: one world for one seed, now and scale, room by room.
import type { Database, Tx } from '#server/platform/database.ts';
import { rebuildFinder } from '#server/platform/finder-index.ts';
import { FOUND } from '#server/rooms.ts';
import { person } from '#server/tables.ts';
import { asZone, localDateAt, type Instant } from '#core/time/index.ts';
import type { SimulatedDevice } from '#standins/devices.ts';
import { seeded, type Random } from './random.ts';
import type { DemoAsset } from './register.ts';
import { DEMO_ROOMS, madeBefore, type DemoRoom, type Figures, type Making } from './rooms.ts';
import { LISBON } from './scenario.ts';

export type DemoWorld = {
  readonly devices: readonly SimulatedDevice[];
  readonly figures: Figures;
};

/** Machines whose past is written in one transaction, and how many such transactions run at once. */
const AT_A_TIME = 2000;
const LANES = 3;

const together = (all: readonly Figures[]): Figures => {
  const sum: Record<string, number> = {};
  for (const [what, n] of all.flatMap((figures) => Object.entries(figures))) sum[what] = (sum[what] ?? 0) + n;
  return sum;
};

/** Asks every room in turn for one part of the world. */
async function write(part: (room: DemoRoom) => Promise<Figures> | undefined): Promise<Figures> {
  const all: Figures[] = [];
  for (const room of DEMO_ROOMS) all.push((await part(room)) ?? {});
  return together(all);
}

const ground = (tx: Tx, making: Making): Promise<Figures> => write((room) => room.ground?.(tx, making));
const past = (tx: Tx, making: Making, assets: readonly DemoAsset[], chance: Random): Promise<Figures> =>
  write((room) => room.past?.(tx, making, assets, chance));
const present = (tx: Tx, making: Making): Promise<Figures> => write((room) => room.present?.(tx, making));

/** The ground, then what happened to the machines, a group of them at a time, then what is open and live. */
async function loadInParts(database: Database, making: Making, seed: number): Promise<Figures> {
  const figures = [await database.transact((tx) => ground(tx, making))];
  const { assets } = madeBefore(making, 'register');
  let next = 0;
  // A source of chance of its own for each group, so that it does not matter which lane takes it, or whether it runs again.
  const lane = async (): Promise<void> => {
    while (next < assets.length) {
      const from = next;
      next += AT_A_TIME;
      const group = assets.slice(from, next);
      figures.push(await database.transact((tx) => past(tx, making, group, seeded(seed + from))));
    }
  };
  await Promise.all(Array.from({ length: LANES }, lane));
  figures.push(await database.transact((tx) => present(tx, making)));
  return together(figures);
}

const loadWhole = (database: Database, making: Making): Promise<Figures> =>
  database.transact(async (tx) =>
    together([
      await ground(tx, making),
      await past(tx, making, madeBefore(making, 'register').assets, making.random),
      await present(tx, making),
    ]),
  );

/** One world of scale 1 is there as a whole or not at all; larger ones are for load and come in parts. */
export async function loadDemo(database: Database, now: Instant, scale = 1, seed = 20_260): Promise<DemoWorld> {
  const making: Making = {
    now,
    today: localDateAt(asZone(LISBON), now),
    scale,
    random: seeded(seed),
    depth: seeded(seed + 1),
    made: {},
  };
  const figures = scale > 1 ? await loadInParts(database, making, seed + 2) : await loadWhole(database, making);
  for (const room of DEMO_ROOMS) await room.arrives?.(database, making);
  await rebuildFinder(database, FOUND);
  return { devices: madeBefore(making, 'devices'), figures };
}

export async function isLoaded(database: Database): Promise<boolean> {
  return (await database.db.select({ id: person.id }).from(person).limit(1)).length > 0;
}
