// What surrounds the machines: contacts, notes and wishes of customers, the catalogue, meters and their readings, machines in store, and lives with moves in them.
import { and, eq, isNotNull } from 'drizzle-orm';
import type { AssetClassId, CustomerId } from '#core/ids.ts';
import { addDays, DAY, instant, type Instant, type LocalDate } from '#core/time/index.ts';
import { registerMany, type Registered } from '#server/assets/index.ts';
import { bulkInsert, insertedIds, type Tx } from '#server/platform/database.ts';
import { asset, instantText } from '#server/tables.ts';
import { wordsOf } from './findings.ts';
import type { DemoReference } from './reference.ts';
import type { Random } from './random.ts';
import type { DemoAsset, DemoRegister } from './register.ts';
import { CLASSES, LISBON, MADRID, type ClassKey } from './scenario.ts';

const FIRST = [
  'Ana',
  'Bruno',
  'Carla',
  'Diego',
  'Eva',
  'Filipa',
  'Gonçalo',
  'Helena',
  'Iago',
  'Joana',
  'Lúcia',
  'Marcos',
];
const LAST = [
  'Abrantes',
  'Boullosa',
  'Carvalhal',
  'Dorado',
  'Esteves',
  'Freixo',
  'Gândara',
  'Leirós',
  'Moreda',
  'Pinhão',
  'Souto',
  'Taboada',
];
const ROLES = ['Laboratory manager', 'Head of sterile services', 'Facilities', 'Quality officer', 'Reception'];
const NOTES = [
  ['Deliveries and technicians by the back gate; badge at the porter.', true],
  ['Call the laboratory before opening any freezer: samples are moved first.', true],
  ['Invoices only by e-mail, with the purchase number.', false],
  ['Quiet hours from 13:00 to 14:30 on the ward floors.', true],
] as const;

/** Meters by class: name, unit, and about how much a day adds. */
const METERS: Partial<Record<ClassKey, readonly [name: string, unit: string, perDay: number]>> = {
  ulf: ['Compressor run hours', 'h', 15],
  plf: ['Compressor run hours', 'h', 12],
  stc: ['Sterilising cycles', 'cycles', 6],
  wd: ['Wash cycles', 'cycles', 9],
  cf: ['Rotor runs', 'runs', 11],
  wpu: ['Water made', 'l', 140],
};
const WARRANTY: Partial<Record<ClassKey, readonly [months: number, labour: number, parts: number, visits: number]>> = {
  bsc: [12, 100, 100, 4],
  cf: [24, 0, 100, 0],
};

async function writeContacts(
  tx: Tx,
  random: Random,
  register: DemoRegister,
  now: Instant,
  today: LocalDate,
): Promise<void> {
  const contacts: unknown[][] = [];
  const notes: unknown[][] = [];
  for (const [name, id] of register.customers) {
    const domain = name
      .normalize('NFD')
      .replace(/[\u0300-\u036f]/g, '')
      .toLowerCase()
      .replace(/[^a-z]+/g, '-');
    const used = new Set<string>();
    for (let i = random.whole(1, 3); i > 0; i -= 1) {
      const [first, last] = [random.pick(FIRST), random.pick(LAST)];
      if (used.has(first + last)) continue;
      used.add(first + last);
      const number = `${random.whole(200, 999)} ${random.whole(100, 999)}`;
      contacts.push([
        id,
        `${first} ${last}`,
        random.pick(ROLES),
        `${first}.${last}@${domain}.example`
          .normalize('NFD')
          .replace(/[\u0300-\u036f]/g, '')
          .toLowerCase(),
        random.chance(0.5) ? `+351 900 ${number}` : `+34 600 ${number}`,
        random.pick(['e-mail', 'phone', 'text message']),
      ]);
    }
    if (random.chance(0.6)) {
      const [text, popsUp] = random.pick(NOTES);
      notes.push([id, text, popsUp, instantText(instant(now - random.whole(3, 300) * DAY))]);
    }
  }
  const { connection } = tx;
  await bulkInsert(connection, 'contact', ['customer_id', 'name', 'role', 'email', 'phone', 'preferred'], contacts);
  await bulkInsert(connection, 'customer_note', ['customer_id', 'text', 'pops_up', 'at'], notes);
  await connection.query('UPDATE customer SET credit_days = 30, credit_limit = 2500000');
  await connection.query("UPDATE customer SET over_since = ? WHERE name LIKE 'Nudo Genomics%'", [addDays(today, -23)]);
  await connection.query(
    `INSERT INTO technician_wish (customer_id, person_id, wish)
     SELECT c.id, p.id, IF(c.id % 2 = 0, 'preferred', 'blocked') FROM customer c JOIN person p ON p.role = 'technician' AND p.id % 7 = c.id % 7
     WHERE c.id % 3 = 0`,
  );
}

async function writeCatalogue(tx: Tx, register: DemoRegister, reference: DemoReference): Promise<void> {
  const keys = Object.keys(CLASSES) as ClassKey[];
  await bulkInsert(
    tx.connection,
    'asset_model',
    [
      'class_id',
      'maker',
      'name',
      'warranty_months',
      'warranty_labour',
      'warranty_parts',
      'warranty_travel',
      'warranty_visits',
    ],
    keys.flatMap((k) =>
      CLASSES[k].models.map((m) => {
        const [months, labour, parts, visits] = WARRANTY[k] ?? [24, 100, 100, 0];
        return [register.classIds[k], CLASSES[k].maker, m, months, labour, parts, labour, visits];
      }),
    ),
  );
  await bulkInsert(
    tx.connection,
    'asset_class_meter',
    ['class_id', 'name', 'unit'],
    keys.flatMap((k) => (METERS[k] ? [[register.classIds[k], METERS[k][0], METERS[k][1]]] : [])),
  );
  await bulkInsert(
    tx.connection,
    'asset_class_word',
    ['class_id', 'kind', 'position', 'text'],
    keys.flatMap((k) => wordsOf(k).map(([kind, text], position) => [register.classIds[k], kind, position, text])),
  );
  await bulkInsert(
    tx.connection,
    'asset_class_job_plan',
    ['class_id', 'job_plan_id'],
    keys.flatMap((k) =>
      [reference.jobPlans[k], reference.alsoSuggested[k]].flatMap((plan) =>
        plan ? [[register.classIds[k], plan]] : [],
      ),
    ),
  );
}

async function writeMeters(tx: Tx, random: Random, assets: readonly DemoAsset[], now: Instant): Promise<void> {
  const metered = assets.filter((a) => METERS[a.classKey]);
  const rows = metered.map((a) => [a.id, METERS[a.classKey]?.[0], METERS[a.classKey]?.[1]]);
  const ids = await insertedIds(
    tx.connection,
    await bulkInsert(tx.connection, 'meter', ['asset_id', 'name', 'unit'], rows),
    rows.length,
  );
  const readings: unknown[][] = [];
  metered.forEach((a, i) => {
    const perDay = (METERS[a.classKey]?.[2] ?? 1) * random.between(0.7, 1.2);
    const age = (now - Date.parse(a.commissioned)) / DAY;
    const replaced = random.chance(0.04) ? random.whole(60, 300) : null;
    for (let back = Math.min(520, Math.floor(age)); back > 2; back -= 65) {
      const counted = replaced !== null && back < replaced ? replaced - back : age - back;
      const anew = replaced !== null && back < replaced && back + 65 >= replaced ? 'meter replaced' : null;
      readings.push([
        ids[i],
        instantText(instant(now - back * DAY - random.whole(0, 8) * 3_600_000)),
        // Some weeks it runs more than others.
        Math.round(Math.max(0, counted + 9 * Math.sin(back + i)) * perDay),
        random.chance(0.7) ? 'field' : 'typed',
        anew,
      ]);
    }
  });
  await bulkInsert(tx.connection, 'meter_reading', ['meter_id', 'at', 'value', 'source', 'anew'], readings);
}

/** Machines in store, ready to be put in for others; and one registered twice by mistake. */
async function writeStock(tx: Tx, register: DemoRegister, today: LocalDate, now: Instant): Promise<void> {
  const provider = register.customers.get('Alvorim Hospitals');
  const { maker } = CLASSES.ulf;
  const stock = [
    ['ulf', 'ULF-540', 'QX001', 'ULF540-X9901'],
    ['ulf', 'ULF-720', 'QX002', 'ULF720-X9902'],
    ['vr', 'VR-180', 'QX003', 'VR180-X9903'],
  ] as const;
  const inStore = stock.map(([key, model, tag, serial]): Registered => ({
    asset: {
      customerId: provider as CustomerId,
      classId: register.classIds[key],
      maker: key === 'vr' ? CLASSES.vr.maker : maker,
      model,
      serial,
      tag,
      owner: 'own fleet',
      state: 'in store',
      commissioned: addDays(today, -200),
    },
    at: instant(now - 200 * DAY),
    text: 'registered, in store',
  }));
  await registerMany(tx, [...inStore, await twinOf(tx, register, now)], { by: null, now });
}

/** A machine that stands in the register twice: once with a serial misread. */
async function twinOf(tx: Tx, register: DemoRegister, now: Instant): Promise<Registered> {
  const [first] = await tx.db
    .select()
    .from(asset)
    .where(
      and(
        eq(asset.customerId, register.customers.get('Horta Nova Biobank') as CustomerId),
        eq(asset.classId, register.classIds.ulf as AssetClassId),
        isNotNull(asset.locationId),
      ),
    )
    .orderBy(asset.id)
    .limit(1);
  if (!first) throw new Error('the demo has no freezer to take for another');
  const { customerId, locationId, classId, maker, model, serial, owner, commissioned } = first;
  return {
    asset: {
      ...{ customerId, locationId, classId, maker, model, owner, commissioned },
      serial: serial.replaceAll('U', 'V'),
      tag: 'QX100',
    },
    at: now,
    text: 'registered from a list of the place',
  };
}

async function writeMoves(tx: Tx, random: Random, assets: readonly DemoAsset[], now: Instant): Promise<void> {
  const rows: unknown[][] = [];
  for (const a of assets) {
    if (!random.chance(0.08)) continue;
    const days = random.whole(20, 400);
    const when = instantText(instant(Math.max(Date.parse(a.commissioned) + 20 * DAY, now - days * DAY)));
    rows.push([a.id, 'moved', when, when, `moved within ${a.site}: nearer to the door`]);
  }
  await bulkInsert(tx.connection, 'asset_event', ['asset_id', 'kind', 'at', 'recorded_at', 'text'], rows);
}

export async function writeLives(
  tx: Tx,
  random: Random,
  register: DemoRegister,
  reference: DemoReference,
  now: Instant,
  today: LocalDate,
): Promise<void> {
  const { connection } = tx;
  await writeContacts(tx, random, register, now, today);
  await writeCatalogue(tx, register, reference);
  await writeMeters(tx, random, register.assets, now);
  await writeStock(tx, register, today, now);
  await writeMoves(tx, random, register.assets, now);
  // Sites go by their depot's calendar; some say how to get in.
  for (const zone of [LISBON, MADRID] as const)
    await connection.query('UPDATE location SET calendar_id = ? WHERE parent_id IS NULL AND zone = ?', [
      reference.calendars[zone],
      zone,
    ]);
  // Two sites want their machines done on one day.
  await connection.query(
    "UPDATE location SET join_days = 7 WHERE parent_id IS NULL AND name IN ('São Brás Hospital', 'Molinho Incubator')",
  );
  await connection.query(
    "UPDATE location SET access_note = 'Key box at the loading dock; the code is with the porter.' WHERE parent_id IS NULL AND id % 3 = 0",
  );
}
