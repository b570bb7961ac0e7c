// The demo's register: customers, places and machines, written with plain bulk inserts.
import type { AssetId, CustomerId, LocationId } from '#core/ids.ts';
import { addDays, addMonths, type Instant, type LocalDate } from '#core/time/index.ts';
import { registerMany, type Registered } from '#server/assets/index.ts';
import { bulkInsert, insertedIds, type Tx } from '#server/platform/database.ts';
import { instantOfText } from '#server/tables.ts';
import type { Random } from './random.ts';
import type { DemoReference } from './reference.ts';
import { CLASSES, CUSTOMERS, type ClassKey, type CustomerPlan, type SitePlan } from './scenario.ts';

export type DemoAsset = {
  readonly id: AssetId;
  readonly classKey: ClassKey;
  readonly tag: string;
  readonly customer: string;
  readonly customerId: CustomerId;
  readonly site: string;
  readonly siteId: LocationId;
  readonly zone: string;
  readonly commissioned: LocalDate;
};
export type DemoRegister = {
  readonly assets: readonly DemoAsset[];
  readonly customers: ReadonlyMap<string, CustomerId>;
  readonly sites: ReadonlyMap<string, LocationId>;
  readonly classIds: Readonly<Record<ClassKey, number>>;
};

type PlannedNode = {
  readonly fullName: string;
  readonly name: string;
  readonly parent: string | null;
  readonly plan: SitePlan;
};

const named = (name: string, copy: number): string => (copy === 0 ? name : `${name} ${copy + 1}`);

function nodesOf(copies: number): PlannedNode[] {
  const nodes = new Map<string, PlannedNode>();
  for (let copy = 0; copy < copies; copy += 1) {
    for (const plan of CUSTOMERS.flatMap((c) => c.sites)) {
      const root = named(plan.site, copy);
      for (const path of ['', ...plan.rooms]) {
        const names = [root, ...path.split(' > ').filter((n) => n !== '')];
        names.forEach((name, i) => {
          const fullName = names.slice(0, i + 1).join(' > ');
          if (!nodes.has(fullName))
            nodes.set(fullName, { fullName, name, parent: i === 0 ? null : names.slice(0, i).join(' > '), plan });
        });
      }
    }
  }
  return [...nodes.values()];
}

async function writePlaces(tx: Tx, copies: number, depots: DemoReference['depots']): Promise<Map<string, LocationId>> {
  const ids = new Map<string, LocationId>();
  const nodes = nodesOf(copies);
  for (let depth = 1; ids.size < nodes.length; depth += 1) {
    const level = nodes.filter((n) => n.fullName.split(' > ').length === depth);
    const made = await insertedIds(
      tx.connection,
      await bulkInsert(
        tx.connection,
        'location',
        ['parent_id', 'name', 'address', 'zone', 'latitude', 'longitude', 'depot_id', 'path', 'full_name'],
        level.map((n) => [
          n.parent === null ? null : ids.get(n.parent),
          n.name,
          n.parent === null ? n.plan.street : null,
          n.parent === null ? n.plan.zone : null,
          n.parent === null ? n.plan.at[0] : null,
          n.parent === null ? n.plan.at[1] : null,
          n.parent === null ? depots[n.plan.zone] : null,
          '',
          n.fullName,
        ]),
      ),
      level.length,
    );
    level.forEach((n, i) => ids.set(n.fullName, made[i] as LocationId));
    await tx.connection.query(
      "UPDATE location l LEFT JOIN location p ON p.id = l.parent_id SET l.path = CONCAT(COALESCE(p.path, '/'), l.id, '/') WHERE l.path = ''",
    );
  }
  return ids;
}

/** The machines of all plans, and which places of which site each customer shares. */
function machinesOf(
  random: Random,
  plans: readonly (CustomerPlan & { readonly copy: number })[],
  customers: DemoRegister['customers'],
  places: ReadonlyMap<string, LocationId>,
  classIds: DemoRegister['classIds'],
  today: LocalDate,
) {
  const shares: unknown[][] = [];
  const registered: Registered['asset'][] = [];
  const assets: Omit<DemoAsset, 'id'>[] = [];
  let number = 100;
  for (const customer of plans) {
    for (const plan of customer.sites) {
      const root = named(plan.site, customer.copy);
      const shared = CUSTOMERS.filter((c) => c.sites.some((s) => s.site === plan.site)).length > 1;
      // A site of one customer is theirs as a whole; in a shared one each has their own rooms.
      for (const place of shared ? plan.rooms.map((r) => `${root} > ${r}`) : [root])
        shares.push([places.get(place), customers.get(customer.name)]);
      for (const classKey of Object.keys(CLASSES) as ClassKey[]) {
        for (let i = 0; i < (plan.machines[classKey] ?? 0); i += 1) {
          const { maker, models } = CLASSES[classKey];
          const model = random.pick(models);
          const commissioned = addDays(today, -random.whole(40, 2900));
          const warranty = addMonths(commissioned, 24);
          const serial = `${model.replaceAll('-', '')}-Q${1000 + number}`;
          const tag = `Q${String(number).padStart(4, '0')}`;
          const own = random.chance(0.05);
          number += 1;
          assets.push({
            classKey,
            tag,
            customer: customer.name,
            customerId: customers.get(customer.name) as CustomerId,
            site: root,
            siteId: places.get(root) as LocationId,
            zone: plan.zone,
            commissioned,
          });
          registered.push({
            customerId: customers.get(customer.name) as CustomerId,
            locationId: places.get(`${root} > ${plan.rooms[i % plan.rooms.length]}`),
            classId: classIds[classKey],
            maker,
            model,
            serial,
            tag,
            owner: own ? 'own fleet' : 'customer',
            state: random.chance(0.02) ? 'out of service' : 'in service',
            commissioned,
            rentedSince: own ? commissioned : null,
            warrantyFrom: commissioned,
            warrantyUntil: warranty,
          });
        }
      }
    }
  }
  return { shares, registered, assets };
}

export async function writeRegister(
  tx: Tx,
  random: Random,
  now: Instant,
  today: LocalDate,
  { scale, depots }: { readonly scale: number; readonly depots: DemoReference['depots'] },
): Promise<DemoRegister> {
  const { connection } = tx;
  const keys = Object.keys(CLASSES) as ClassKey[];
  const classList = await insertedIds(
    connection,
    await bulkInsert(
      connection,
      'asset_class',
      ['name'],
      keys.map((k) => [CLASSES[k].name]),
    ),
    keys.length,
  );
  const classIds = Object.fromEntries(keys.map((k, i) => [k, classList[i]])) as Record<ClassKey, number>;
  const plans = Array.from({ length: scale }, (_, copy) =>
    CUSTOMERS.map((c) => ({ ...c, copy, name: named(c.name, copy) })),
  ).flat();
  const customerIds = await insertedIds(
    connection,
    await bulkInsert(
      connection,
      'customer',
      ['name', 'service_address'],
      plans.map((c) => [c.name, c.address]),
    ),
    plans.length,
  );
  const customers = new Map(plans.map((c, i) => [c.name, customerIds[i] as CustomerId]));
  const places = await writePlaces(tx, scale, depots);
  const { shares, registered, assets } = machinesOf(random, plans, customers, places, classIds, today);
  await bulkInsert(
    connection,
    'location_share',
    ['location_id', 'customer_id'],
    shares,
    'ON DUPLICATE KEY UPDATE location_id = location_id',
  );
  const ids = await registerMany(
    tx,
    assets.map((a, i) => ({
      asset: registered[i] as Registered['asset'],
      at: instantOfText(`${a.commissioned} 09:00:00.000`),
      text: `installed at ${a.site}`,
    })),
    { by: null, now },
  );
  const all = assets.map((a, i): DemoAsset => ({ ...a, id: ids[i] as AssetId }));
  await hangTogether(tx, all, registered, now);
  return { assets: all, customers, sites: places, classIds };
}

/** The walk-in cold room with its compressor units and controller as child assets. */
async function hangTogether(
  tx: Tx,
  assets: readonly DemoAsset[],
  registered: readonly Registered['asset'][],
  now: Instant,
): Promise<void> {
  const parts: Registered[] = [];
  for (const [i, room] of assets.entries()) {
    if (room.classKey !== 'cold') continue;
    const { customerId, locationId } = registered[i] as Registered['asset'];
    for (const [classKey, suffix] of [
      ['cu', 'CU7-A'],
      ['cu', 'CU7-B'],
      ['ctl', 'CTL3-A'],
    ] as const) {
      const { maker, models, name } = CLASSES[classKey];
      const [found] = await tx.connection.query('SELECT id FROM asset_class WHERE name = ?', [name]);
      parts.push({
        asset: {
          customerId,
          locationId: locationId ?? null,
          parentId: room.id,
          classId: (found as { id: number }[])[0]?.id as number,
          maker,
          model: models[0] as string,
          serial: `${suffix}-${room.tag}`,
          tag: `${room.tag}-${suffix.slice(0, 3)}${suffix.slice(-1)}`,
          commissioned: room.commissioned,
        },
        at: instantOfText(`${room.commissioned} 09:00:00.000`),
        text: `installed as part of ${room.tag}`,
      });
    }
  }
  await registerMany(tx, parts, { by: null, now });
}
