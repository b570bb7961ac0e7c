// What every room puts into the demo: the one list, in the order of the story. A new room is its file and one entry here.
import type { Database, Tx } from '#server/platform/database.ts';
import { keepFigures, keepProposals } from '#server/stores/index.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import type { SimulatedDevice } from '#standins/devices.ts';
import { writeAgreements, type DemoAgreement } from './agreements.ts';
import { writeDevices, writeReadings } from './devices.ts';
import { writeForms } from './forms.ts';
import { writeRates, writeTime } from './labour.ts';
import { writeLives } from './lives.ts';
import { writeMail } from './mail.ts';
import { writeNeeds, writePlanParts } from './needs.ts';
import { writeOffers } from './offers.ts';
import { writePartsList, writeUsed } from './parts.ts';
import { writePeople } from './people.ts';
import type { Random } from './random.ts';
import { writeReference, type DemoReference } from './reference.ts';
import { writeRegister, type DemoAsset, type DemoRegister } from './register.ts';
import { judgeOf, writeOpenRepairs, writeRepairs } from './repairs.ts';
import { writeAppointments, writeTechnicians } from './rota.ts';
import { writeReturns, writeUnitUsed } from './returns.ts';
import { writeSettle } from './settle.ts';
import { writeClosedMonths } from './standing.ts';
import { writeStock } from './stock.ts';
import { writePurchases, writeSuppliers } from './suppliers.ts';
import { writeDraws, writeTerms } from './terms.ts';
import { writeVisits } from './visits.ts';

/** How many of what were made, by the word for it. */
export type Figures = Readonly<Record<string, number>>;

/** What rooms make for those after them in the list. */
type Made = {
  reference: DemoReference;
  register: DemoRegister;
  agreements: readonly DemoAgreement[];
  devices: readonly SimulatedDevice[];
};

/** The world while it is being made. */
export type Making = {
  readonly now: Instant;
  readonly today: LocalDate;
  readonly scale: number;
  readonly random: Random;
  /** Chance for what was added in depth, so that the rest of the world stays as it is. */
  readonly depth: Random;
  readonly made: Partial<Made>;
};

export type DemoRoom = {
  /** What stands before anything happens. */
  readonly ground?: (tx: Tx, making: Making) => Promise<Figures>;
  /** What happened to some machines. Groups of them may be written side by side: `chance` is the group's own. */
  readonly past?: (tx: Tx, making: Making, assets: readonly DemoAsset[], chance: Random) => Promise<Figures>;
  /** What is open and live now. */
  readonly present?: (tx: Tx, making: Making) => Promise<Figures>;
  /** What comes in from outside, once the world stands. */
  readonly arrives?: (database: Database, making: Making) => Promise<void>;
};

/** What a room before made. */
export function madeBefore<K extends keyof Made>({ made }: Making, what: K): Made[K] {
  const found = made[what];
  if (found === undefined) throw new Error(`A room of the demo reads the ${what} before they are made.`);
  return found;
}

/** The machines of the world at scale 1: what is open and live is told of them only. */
function firstOf(making: Making): readonly DemoAsset[] {
  const { assets } = madeBefore(making, 'register');
  return assets.slice(0, Math.ceil(assets.length / making.scale));
}

const people: DemoRoom = {
  async ground(tx, { now }) {
    await writePeople(tx, now);
    return {};
  },
};

const reference: DemoRoom = {
  async ground(tx, { made, today }) {
    made.reference = await writeReference(tx, today);
    return {};
  },
};

const register: DemoRoom = {
  async ground(tx, making) {
    const { made, random, now, today, scale } = making;
    const { depots } = madeBefore(making, 'reference');
    made.register = await writeRegister(tx, random, now, today, { scale, depots });
    const { customers, sites, assets } = made.register;
    return { customers: customers.size, places: sites.size, assets: assets.length };
  },
};

const agreements: DemoRoom = {
  async ground(tx, making) {
    const { made, now, today, scale } = making;
    const written = await writeAgreements(
      tx,
      madeBefore(making, 'register'),
      madeBefore(making, 'reference'),
      now,
      today,
      scale,
    );
    await writeTerms(tx, written, now, today);
    made.agreements = written;
    return { agreements: written.length };
  },
};

const upkeep: DemoRoom = {
  past: async (tx, making, assets, chance) => {
    const { depots } = madeBefore(making, 'reference');
    return { visits: await writeVisits(tx, chance, assets, depots, making.now, making.today) };
  },
};

const orders: DemoRoom = {
  past: async (tx, { now }, assets, chance) => ({
    repairs: await writeRepairs(tx, chance, assets, await judgeOf(tx, assets, now)),
  }),
  async present(tx, making) {
    const first = firstOf(making);
    return { repairs: await writeOpenRepairs(tx, making.random, first, await judgeOf(tx, first, making.now)) };
  },
};

/** What was worked in the last weeks is told of the first world only. */
const labour: DemoRoom = {
  async ground(tx, making) {
    await writeRates(tx, madeBefore(making, 'reference'), making.today);
    return {};
  },
  async present(tx, { scale, now, today }) {
    return { entries: scale === 1 ? await writeTime(tx, now, today) : 0 };
  },
};

/** A unit that was built in is used before stock is written; what goes back goes after it. */
async function writeStores(tx: Tx, now: Instant): Promise<number> {
  await writeUnitUsed(tx);
  const stores = await writeStock(tx, now);
  await writeReturns(tx, now);
  return stores;
}

/** Parts and other costs of the last weeks are told of the first world only. */
const stores: DemoRoom = {
  async ground(tx) {
    await writePartsList(tx);
    return {};
  },
  async present(tx, { scale, now, depth }) {
    const isFirst = scale === 1;
    return {
      ...{ 'used parts': isFirst ? await writeUsed(tx, depth, now) : 0 },
      stores: isFirst ? await writeStores(tx, now) : 0,
    };
  },
};

/** After the orders: they draw from what agreements count. */
const allowances: DemoRoom = {
  async present(tx, { scale, today }) {
    if (scale === 1) await writeDraws(tx, today);
    return {};
  },
};

const lives: DemoRoom = {
  async present(tx, making) {
    const { depth, now, today } = making;
    await writeLives(tx, depth, madeBefore(making, 'register'), madeBefore(making, 'reference'), now, today);
    return {};
  },
};

/** After the contacts and the parts list. */
const offers: DemoRoom = {
  async present(tx, { now, today }) {
    return { offers: await writeOffers(tx, now, today) };
  },
};

const forms: DemoRoom = {
  async present(tx, making) {
    const { yearlyPlan } = madeBefore(making, 'reference');
    await writeForms(tx, making.depth, madeBefore(making, 'register'), firstOf(making), yearlyPlan, making.now);
    return {};
  },
};

const signals: DemoRoom = {
  async present(tx, making) {
    const devices = await writeDevices(tx, { ...madeBefore(making, 'register'), assets: firstOf(making) });
    making.made.devices = devices;
    return { devices: devices.length };
  },
  arrives: (database, making) => writeReadings(database, madeBefore(making, 'devices'), making.now),
};

const mailbox: DemoRoom = {
  arrives: (database, { now }) => writeMail(database, now),
};

/** After the calendars that people work by, and once all orders stand; appointments are told of the first world only. */
const rota: DemoRoom = {
  async ground(tx, making) {
    await writeTechnicians(tx, madeBefore(making, 'reference'), making.today);
    return {};
  },
  async arrives(database, { scale, now, today }) {
    if (scale === 1) await writeAppointments(database, now, today);
  },
};

/** Once it is known who goes: what each order needs is held, or it waits. */
const needs: DemoRoom = {
  async ground(tx) {
    await writePlanParts(tx);
    await writeSuppliers(tx);
    return {};
  },
  async arrives(database, { scale, now, today }) {
    if (scale !== 1) return;
    await writeNeeds(database, now);
    await writePurchases(database, now, today);
    await keepProposals(database, now);
    await keepFigures(database, now);
  },
};

/** What was promised in months that are over is stated and stays. */
const standing: DemoRoom = {
  async arrives(database, { scale, now, today }) {
    if (scale === 1) await writeClosedMonths(database, now, today);
  },
};

/** Last: what was done is looked through, approved and billed month by month, of the first world only. */
const settle: DemoRoom = {
  async arrives(database, { scale, now, today }) {
    if (scale === 1) await writeSettle(database, now, today);
  },
};

export const DEMO_ROOMS: readonly DemoRoom[] = [
  people,
  reference,
  register,
  agreements,
  upkeep,
  orders,
  labour,
  stores,
  allowances,
  lives,
  offers,
  forms,
  signals,
  mailbox,
  rota,
  needs,
  standing,
  settle,
];
