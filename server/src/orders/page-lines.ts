// The lines of an order as its page shows them: machines and places, visits, what was found, and decisions that held before.
import { group } from 'd3-array';
import { asc, desc, eq, inArray } from 'drizzle-orm';
import type { OrderPage } from '#api/orders.ts';
import type { AssetClassId, OrderLineId, VisitId } from '#core/ids.ts';
import type { OrderState } from '#core/orders/index.ts';
import type { Db } from '../platform/database.ts';
import { placesOf } from '../places/index.ts';
import { agreement } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { assetClass, classWord, wordsByKind } from '../catalogue/tables.ts';
import { location } from '../places/tables.ts';
import { visit } from '../upkeep/tables.ts';
import type { LineRow, LoadedOrder } from './loading.ts';
import { formerDecision, lineLocation, orderLine, type StoredVerdict } from './tables.ts';

type ShownLine = OrderPage['lines'][number];

/** Its machines with their classes and where they stand now; a place by its name. */
async function machinesOf(db: Db, { order }: LoadedOrder) {
  const rows = await db
    .select({
      id: orderLine.id,
      locationId: lineLocation,
      path: location.path,
      placeName: location.name,
      classId: asset.classId,
      assetId: asset.id,
      ...{ tag: asset.tag, serial: asset.serial, model: asset.model, className: assetClass.name },
    })
    .from(orderLine)
    .leftJoin(asset, eq(asset.id, orderLine.assetId))
    .leftJoin(assetClass, eq(assetClass.id, asset.classId))
    .leftJoin(location, eq(location.id, lineLocation))
    .where(eq(orderLine.orderId, order.id))
    .orderBy(asc(orderLine.id));
  const places = await placesOf(
    db,
    rows.map((r) => ({ id: r.locationId, path: r.path })),
  );
  return { rows, first: rows[0] ? places.of(rows[0].locationId) : null, places };
}

/** The words each class says findings in. */
async function wordsOf(db: Db, classes: readonly AssetClassId[]) {
  const rows =
    classes.length === 0
      ? []
      : await db
          .select()
          .from(classWord)
          .where(inArray(classWord.classId, [...classes]))
          .orderBy(asc(classWord.position));
  return (classId: AssetClassId | null): ShownLine['words'] => wordsByKind(rows.filter((r) => r.classId === classId));
}

async function formerOf(db: Db, lines: readonly LineRow[]): Promise<ReadonlyMap<OrderLineId, ShownLine['former']>> {
  const rows = await db
    .select({ former: formerDecision, tag: asset.tag })
    .from(formerDecision)
    .leftJoin(asset, eq(asset.id, formerDecision.assetId))
    .where(
      inArray(
        formerDecision.orderLineId,
        lines.map((l) => l.id),
      ),
    )
    .orderBy(desc(formerDecision.id));
  const shown = ({ former: { until, verdict }, tag }: (typeof rows)[number]): ShownLine['former'][number] => ({
    ...{ until, tag },
    sentence: verdict?.sentence ?? 'No machine was named.',
    promise: verdict?.promise ?? '',
  });
  return new Map([...group(rows, (r) => r.former.orderLineId)].map(([id, own]) => [id, own.map(shown)]));
}

type Visited = OrderPage['lines'][number]['visit'];

/** The visits its lines were raised for, each with why it is chargeable if the counted right was used up. */
async function visitsOf(db: Db, lines: readonly LineRow[]): Promise<ReadonlyMap<VisitId, NonNullable<Visited>>> {
  const ids = lines.flatMap((l) => l.visitId ?? []);
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ visit, agreement: agreement.number, currency: agreement.currency })
    .from(visit)
    .innerJoin(agreement, eq(agreement.id, visit.agreementId))
    .where(inArray(visit.id, ids));
  return new Map(
    rows.map(
      ({
        currency,
        visit: { id, agreementId, due, windowFrom, windowTo, completedOn, orderId },
        agreement: number,
      }) => {
        const line = lines.find((l) => l.visitId === id);
        const passed = line?.verdict?.verdict.considered.find((c) => c.agreementId === agreementId && !c.taken);
        return [
          id,
          {
            ...{ agreementId, agreement: number, due, windowFrom, windowTo, beyond: passed?.reason ?? null },
            price: typeof line?.visitPrice === 'number' ? { minor: line.visitPrice, currency } : null,
            // One that was left undone may be done with another order by now.
            completedOn: orderId === line?.orderId ? completedOn : null,
          },
        ];
      },
    ),
  );
}

const shownVerdict = (stored: StoredVerdict | null): OrderPage['lines'][number]['verdict'] =>
  stored && {
    sentence: stored.sentence,
    promise: stored.promise,
    considered: [...stored.verdict.considered],
  };

const NO_FINDINGS = { symptom: null, fault: null, cause: null, remedy: null };

/** The lines with what holds of each, and where the first of them is. */
export async function shownLines(db: Db, loaded: LoadedOrder, state: OrderState) {
  const { lines } = loaded;
  const { rows, first, places } = await machinesOf(db, loaded);
  const [visits, words, former] = await Promise.all([
    visitsOf(db, lines),
    wordsOf(db, [...new Set(rows.flatMap((r) => r.classId ?? []))]),
    formerOf(db, lines),
  ]);
  const shown = rows.flatMap((row): ShownLine[] => {
    const line = lines.find((l) => l.id === row.id);
    if (!line) return [];
    const { id, visitId } = line;
    return [
      {
        id,
        ...{ assetId: row.assetId, tag: row.tag ?? row.placeName ?? '', serial: row.serial ?? '' },
        ...{ model: row.model ?? '', className: row.className ?? 'place' },
        place: places.of(row.locationId).label,
        minutes: line.minutes,
        left: state.left.get(id) ?? null,
        off: state.off.has(id),
        finishedAt: state.finished.get(id) ?? null,
        restoredAt: state.restored.get(id) ?? null,
        handedOn: state.handedOn.get(id) ?? null,
        cause: line.coverCause,
        plan: line.plan && { ...line.plan, skills: [...line.plan.skills], parts: [...line.plan.parts] },
        found: state.found.get(id) ?? { ...NO_FINDINGS, fault: line.fault },
        words: words(row.classId),
        former: former.get(id) ?? [],
        verdict: shownVerdict(line.verdict),
        visit: visitId === null ? null : (visits.get(visitId) ?? null),
      },
    ];
  });
  return { lines: shown, place: first };
}
