// Questions over the whole register: which machines have no cover on a day, are covered twice, or lose their warranty with nothing to follow.
import { and, eq, gt, gte, inArray, isNull, lte, ne, or, sql, type SQL } from 'drizzle-orm';
import { holdsOn, reachRank, type CoveredAsset, type Reach, type Term } from '#core/entitlement/index.ts';
import type { AgreementId, AssetClassId, AssetId, CustomerId, LocationId } from '#core/ids.ts';
import { addDays, sayDay, type LocalDate } from '#core/time/index.ts';
import type { Cell } from '../platform/csv.ts';
import type { Db } from '../platform/database.ts';
import { placesOf } from '../places/index.ts';
import { staysUntilAfter, type PastStay } from '../places/index.ts';
import { assetClass } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { agreement, coverageLine } from '../agreements/tables.ts';
import { reachOfLine } from './covers.ts';

export type CoverQuestion = 'no cover' | 'covered twice' | 'warranty ends';

type Line = {
  readonly agreementId: AgreementId;
  readonly number: string;
  readonly name: string;
  readonly reach: Reach;
  readonly term: Term;
  /** Why it does not cover although it is believed to; null when it does. */
  readonly believed: 'a draft' | 'suspended' | null;
};

/** Lines on a day, by customer: those in force, and those of drafts and suspended agreements that are believed to be. */
async function linesOn(db: Db, on: LocalDate, customerId: CustomerId | null): Promise<Map<CustomerId, Line[]>> {
  const rows = await db
    .select({
      line: {
        agreementId: coverageLine.agreementId,
        assetId: coverageLine.assetId,
        locationId: coverageLine.locationId,
        assetClassId: coverageLine.assetClassId,
        termFrom: coverageLine.termFrom,
        termTo: coverageLine.termTo,
      },
      customerId: agreement.customerId,
      number: agreement.number,
      name: agreement.name,
      stage: agreement.stage,
      goesOn: agreement.suspendedCover,
    })
    .from(coverageLine)
    .innerJoin(agreement, eq(agreement.id, coverageLine.agreementId))
    .where(
      and(
        ne(agreement.stage, 'ended'),
        lte(agreement.termFrom, on),
        or(isNull(agreement.termTo), gte(agreement.termTo, on)),
        customerId === null ? undefined : eq(agreement.customerId, customerId),
      ),
    );
  const byCustomer = new Map<CustomerId, Line[]>();
  for (const { line, customerId: owner, number, name, stage, goesOn } of rows) {
    const term = { from: line.termFrom, to: line.termTo };
    if (!holdsOn(term, on)) continue;
    const believed = stage === 'draft' ? 'a draft' : stage === 'suspended' && !goesOn ? 'suspended' : null;
    const own: Line = { agreementId: line.agreementId, number, name, reach: reachOfLine(line), term, believed };
    const list = byCustomer.get(owner);
    if (list) list.push(own);
    else byCustomer.set(owner, [own]);
  }
  return byCustomer;
}

type Machine = {
  id: AssetId;
  customerId: CustomerId;
  classId: AssetClassId;
  path: string | null;
  owner: CoveredAsset['owner'];
  warrantyFrom: LocalDate | null;
  warrantyUntil: LocalDate | null;
};
const CHUNK = 20_000;

/** Plain rows: mapping 100,000 of them column by column would take longer than the question. */
async function* machines(db: Db, where: SQL | undefined): AsyncGenerator<Machine[]> {
  for (let after = 0; ;) {
    const [found] = await db.execute(sql`
      select ${asset.id} as id, ${asset.customerId} as customerId, ${asset.classId} as classId,
        ${location.path} as path, ${asset.owner} as owner,
        ${asset.warrantyFrom} as warrantyFrom, ${asset.warrantyUntil} as warrantyUntil
      from ${asset} left join ${location} on ${location.id} = ${asset.locationId}
      where ${and(gt(asset.id, after as AssetId), where)} order by ${asset.id} limit ${CHUNK}`);
    const rows = found as unknown as Machine[];
    if (rows.length > 0) yield rows;
    const last = rows.at(-1);
    if (!last || rows.length < CHUNK) return;
    after = last.id;
  }
}

const underWarranty = (m: Machine, on: LocalDate): boolean =>
  m.warrantyUntil !== null && on <= m.warrantyUntil && (m.warrantyFrom === null || m.warrantyFrom <= on);

type Covering = {
  /** The agreements that cover the machine, by the best of their lines. */
  readonly held: Map<AgreementId, { number: string; name: string; rank: number; lines: number }>;
  /** Those believed to. */
  readonly believed: Map<AgreementId, string>;
};

function agreementsOf(m: Machine, lines: readonly Line[]): Covering {
  const found: Covering['held'] = new Map();
  const believed: Covering['believed'] = new Map();
  if (lines.length === 0) return { held: found, believed };
  const covered: CoveredAsset = {
    id: m.id,
    classId: m.classId,
    owner: m.owner,
    locationPath: (m.path ?? '').split('/').flatMap((x) => (x === '' ? [] : [Number(x) as LocationId])),
  };
  for (const line of lines) {
    const rank = reachRank(line.reach, covered);
    if (rank === null) continue;
    if (line.believed !== null) {
      believed.set(line.agreementId, `${line.number} ${line.name} is ${line.believed}`);
      continue;
    }
    const known = found.get(line.agreementId);
    if (!known || rank > known.rank)
      found.set(line.agreementId, { number: line.number, name: line.name, rank, lines: 1 });
    else if (rank === known.rank) found.set(line.agreementId, { ...known, lines: known.lines + 1 });
  }
  return { held: found, believed };
}

/** Where machines stood on a past day that have moved since; most have not. */
async function stoodElsewhere(db: Db, on: LocalDate): Promise<Map<AssetId, PastStay>> {
  const stood = new Map<AssetId, PastStay>();
  for (const stay of await staysUntilAfter(db, on)) if (!stood.has(stay.assetId)) stood.set(stay.assetId, stay);
  return stood;
}

type Ask = {
  readonly question: CoverQuestion;
  readonly on: LocalDate;
  readonly days: number;
  readonly customer: CustomerId | null;
};
type FoundMachine = { readonly id: AssetId; readonly answer: string };

/** The machines that answer to a question, in the order of their tags, and how many were asked about. */
async function findMachines(db: Db, ask: Ask): Promise<{ found: FoundMachine[]; asked: number }> {
  const standing = inArray(asset.state, ['in service', 'out of service']);
  const own = ask.customer === null ? undefined : eq(asset.customerId, ask.customer);
  const until = addDays(ask.on, ask.days);
  const warranties =
    ask.question === 'warranty ends'
      ? and(gte(asset.warrantyUntil, ask.on), lte(asset.warrantyUntil, until))
      : undefined;
  const stood = await stoodElsewhere(db, ask.on);
  const atAPlace = [...stood.values()].filter((s) => s.locationId !== null).map((s) => s.assetId);
  const [lines, later] = await Promise.all([
    linesOn(db, ask.on, ask.customer),
    ask.question === 'warranty ends' ? linesOn(db, until, ask.customer) : null,
  ]);
  const found: FoundMachine[] = [];
  let asked = 0;
  const stands = or(standing, atAPlace.length > 0 ? inArray(asset.id, atAPlace) : undefined);
  for await (const rows of machines(db, and(stands, own, warranties)))
    for (const machine of rows) {
      const then = stood.get(machine.id);
      if (then && then.locationId === null) continue;
      const m = then ? { ...machine, path: then.path, customerId: then.customerId } : machine;
      asked += 1;
      const { held: covering, believed } = agreementsOf(m, (later ?? lines).get(m.customerId) ?? []);
      if (ask.question === 'warranty ends') {
        if (covering.size === 0)
          found.push({
            id: m.id,
            answer: `warranty ends on ${sayDay(m.warrantyUntil as LocalDate)}, no agreement follows`,
          });
      } else if (ask.question === 'no cover') {
        if (covering.size === 0 && !underWarranty(m, ask.on))
          found.push({
            id: m.id,
            answer: believed.size > 0 ? [...believed.values()].join('; ') : 'no warranty and no agreement',
          });
      } else {
        const named = [...covering.values()].map(({ number, name }) => `${number} ${name}`);
        const twice = [...covering.values()].filter((c) => c.lines > 1).map((c) => c.number);
        if (named.length > 1) found.push({ id: m.id, answer: named.join(' and ') });
        else if (twice.length > 0) found.push({ id: m.id, answer: `two lines of ${twice.join(', ')} name it` });
      }
    }
  return { found, asked };
}

async function describeMachines(db: Db, page: readonly FoundMachine[]) {
  const ids = page.map((p) => p.id);
  const rows =
    ids.length === 0
      ? []
      : await db
          .select({
            id: asset.id,
            tag: asset.tag,
            model: asset.model,
            className: assetClass.name,
            customerId: customer.id,
            customer: customer.name,
            locationId: asset.locationId,
            path: location.path,
          })
          .from(asset)
          .innerJoin(assetClass, eq(assetClass.id, asset.classId))
          .innerJoin(customer, eq(customer.id, asset.customerId))
          .leftJoin(location, eq(location.id, asset.locationId))
          .where(inArray(asset.id, ids));
  const places = await placesOf(
    db,
    rows.map((r) => ({ id: r.locationId, path: r.path })),
  );
  const byId = new Map(rows.map((r) => [r.id, r]));
  return page.flatMap(({ id, answer }) => {
    const r = byId.get(id);
    if (!r) return [];
    const { tag, model, className } = r;
    return [
      {
        ...{ id, tag, model, className, answer },
        customer: { id: r.customerId, name: r.customer },
        place: places.of(r.locationId).label,
      },
    ];
  });
}

const SHOWN = 200;

export async function askAll(db: Db, ask: Ask & { readonly offset: number }) {
  const { found, asked } = await findMachines(db, ask);
  return {
    items: await describeMachines(db, found.slice(ask.offset, ask.offset + SHOWN)),
    total: found.length,
    asked,
  };
}

const AT_ONCE = 1000;

/** All of them, some at a time, as a file’s rows. */
export async function* answerRows(db: Db, ask: Ask): AsyncGenerator<Cell[][]> {
  const { found } = await findMachines(db, ask);
  for (let i = 0; i < found.length; i += AT_ONCE)
    yield (await describeMachines(db, found.slice(i, i + AT_ONCE))).map((m) => [
      ...[m.tag, m.className, m.model, m.customer.name, m.place, m.answer],
    ]);
}
