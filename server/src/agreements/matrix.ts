// The coverage matrix: the customer's machines down, what each is given on a day by this agreement and by others.
import { and, asc, eq, inArray } from 'drizzle-orm';
import { decideEntitlement, holdsOn, sayReach, type Cover, type LineCover } from '#core/entitlement/index.ts';
import type { AgreementId, AssetId, ServiceLevelId } from '#core/ids.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { asset } from '../assets/tables.ts';
import { agreement } from './tables.ts';
import { coversOf, serviceLevelsOf, type CoverSubject } from '../entitlement/index.ts';
import { assetRows } from '../assets/index.ts';
import { threadStretch, type Lane } from '../platform/lanes.ts';

const MACHINES_AT_MOST = 5000;

/** A draft is looked at as if it were in force, so that its gaps are seen before it is. */
const asInForce = (cover: Cover, id: AgreementId): Cover =>
  cover.kind === 'coverage line' && cover.agreementId === id && cover.stage === 'draft'
    ? { ...cover, stage: 'in force' }
    : cover;

type Given = {
  readonly own: readonly LineCover[];
  readonly others: readonly string[];
};

/** Which lines of the agreement, and which other covers, an asset has on a day. */
function givenTo(subject: CoverSubject, id: AgreementId, on: LocalDate): Given {
  const covers = subject.coversOn(on).map((c) => asInForce(c, id));
  const verdict = decideEntitlement({ asset: subject.assetOn(on), on, kind: 'repair', cause: 'unknown' }, covers);
  const own = covers.flatMap((c) =>
    c.kind === 'coverage line' && c.agreementId === id && holdsOn(c.term, on) && holdsOn(c.agreementTerm, on)
      ? [c]
      : [],
  );
  const others = verdict.considered.flatMap((c) => (c.taken && c.agreementId !== id ? [c.label] : []));
  // The line that counts first is named first.
  const rank = { asset: 3, location: 2, class: 1, 'own fleet': 0 } as const;
  return { own: own.sort((a, b) => rank[b.reach.kind] - rank[a.reach.kind]), others: [...new Set(others)] };
}

const isWithout = (given: Given | undefined): boolean =>
  !given || (given.own.length === 0 && given.others.length === 0);

/** Two lines of one agreement that name the same machine, or another agreement beside this one. */
function isTwice(given: Given | undefined): boolean {
  if (!given) return false;
  const { own, others } = given;
  const sameRank = own.filter((c) => c.reach.kind === own[0]?.reach.kind).length;
  const agreements = others.filter((o) => !o.startsWith('Warranty')).length;
  return sameRank > 1 || (own.length > 0 && agreements > 0) || agreements > 1;
}

export type MatrixShow = 'all' | 'no cover' | 'covered twice';

export async function readMatrix(
  db: Db,
  lanes: readonly Lane[],
  id: AgreementId,
  ask: { on: LocalDate; show: MatrixShow; after: string | undefined; limit: number },
  today: LocalDate,
  now: Instant,
) {
  const [row] = await db.select().from(agreement).where(eq(agreement.id, id));
  if (!row) refuse('not-found', 'That agreement does not exist.');
  const machines = await db
    .select({ id: asset.id, tag: asset.tag })
    .from(asset)
    .where(and(eq(asset.customerId, row.customerId), inArray(asset.state, ['in service', 'out of service'])))
    .orderBy(asc(asset.tag))
    .limit(MACHINES_AT_MOST);
  const subjects = await coversOf(
    db,
    machines.map((m) => m.id),
  );
  const given = new Map(
    machines.flatMap((m) => {
      const subject = subjects.get(m.id);
      return subject ? [[m.id, givenTo(subject, id, ask.on)] as const] : [];
    }),
  );
  const counts = {
    all: machines.length,
    covered: machines.filter((m) => (given.get(m.id)?.own.length ?? 0) > 0).length,
    without: machines.filter((m) => isWithout(given.get(m.id))).length,
    twice: machines.filter((m) => isTwice(given.get(m.id))).length,
  };
  const shown = machines
    .filter((m) => ask.show === 'all' || (ask.show === 'no cover' ? isWithout : isTwice)(given.get(m.id)))
    .filter((m) => ask.after === undefined || m.tag > ask.after);
  const page = shown.slice(0, ask.limit);
  const levelIds = [
    ...new Set(page.flatMap((m) => given.get(m.id)?.own.flatMap((c) => c.serviceLevelId ?? []) ?? [])),
  ] as ServiceLevelId[];
  const [levels, rows] = await Promise.all([
    serviceLevelsOf(db, levelIds),
    assetRows(
      db,
      lanes,
      page.map((m) => m.id),
      today,
      now,
    ),
  ]);
  const { from, to } = threadStretch(today, now);
  return {
    items: rows.map((r) => {
      const g = given.get(r.id as AssetId);
      const first = g?.own[0];
      return {
        ...r,
        lineIds: g?.own.map((c) => c.lineId) ?? [],
        shares: first?.shares ?? null,
        serviceLevel: levels.find((l) => l.id === first?.serviceLevelId)?.name ?? null,
        reach: first ? sayReach(first.reach) : null,
        others: [...(g?.others ?? [])],
      };
    }),
    next: shown.length > ask.limit ? (page.at(-1)?.tag ?? null) : null,
    counts,
    on: ask.on,
    from,
    to,
  };
}
