// What the printed agreement tells beside its page: the promises of its service levels, every machine by serial, prices by date.
import { asc, eq, inArray } from 'drizzle-orm';
import type { AgreementId } from '#core/ids.ts';
import { sayLevel } from '#core/service-levels/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import type { Db } from '../platform/database.ts';
import { placesOf } from '../places/index.ts';
import { refuse } from '../platform/refuse.ts';
import { assetClass } from '../catalogue/tables.ts';
import { location } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { agreement, agreementAmendment } from './tables.ts';
import { serviceLevelsOf, reachOf } from '../entitlement/index.ts';
import { orderSettings } from '../orders/index.ts';
import { stillToHold } from './lines.ts';

export type DocumentFacts = {
  /** Each with what it promises, a sentence for each thing. */
  readonly levels: readonly { readonly name: string; readonly sentences: readonly string[] }[];
  readonly machines: readonly {
    readonly tag: string;
    readonly serial: string;
    readonly what: string;
    readonly place: string;
  }[];
  readonly prices: readonly { readonly from: LocalDate; readonly minor: number | null }[];
};

export async function documentFacts(db: Db, id: AgreementId, today: LocalDate): Promise<DocumentFacts> {
  const [row] = await db.select().from(agreement).where(eq(agreement.id, id));
  if (!row) refuse('not-found', 'That agreement does not exist.');
  const day = today > row.termFrom ? today : row.termFrom;
  const reach = await reachOf(db, id, row.customerId, (l) => row.stage === 'draft' || stillToHold(l, day));
  const [levels, book, { priorities }, versions] = await Promise.all([
    serviceLevelsOf(db, [...new Set(reach.flatMap((r) => r.line.serviceLevelId ?? []))], day),
    calendarBook(db),
    orderSettings(db),
    db
      .select({ from: agreementAmendment.holdsFrom, minor: agreementAmendment.priceMinor })
      .from(agreementAmendment)
      .where(eq(agreementAmendment.agreementId, id))
      .orderBy(asc(agreementAmendment.number)),
  ]);
  const ids = [...new Set(reach.flatMap((r) => r.assetIds))];
  const rows =
    ids.length === 0
      ? []
      : await db
          .select({
            tag: asset.tag,
            serial: asset.serial,
            maker: asset.maker,
            model: asset.model,
            className: assetClass.name,
            locationId: asset.locationId,
            path: location.path,
          })
          .from(asset)
          .innerJoin(assetClass, eq(assetClass.id, asset.classId))
          .leftJoin(location, eq(location.id, asset.locationId))
          .where(inArray(asset.id, ids))
          .orderBy(asc(asset.tag));
  const places = await placesOf(
    db,
    rows.map((r) => ({ id: r.locationId, path: r.path })),
  );
  const prices = versions.length > 0 ? versions : [{ from: row.termFrom, minor: row.priceMinor }];
  return {
    levels: levels.map((level) => ({
      name: level.name,
      sentences: sayLevel(level, {
        calendar: (calendarId) => book.calendarOf(calendarId).name,
        priority: (p) => priorities[p - 1] ?? '',
      }),
    })),
    machines: rows.map((r) => ({
      tag: r.tag,
      serial: r.serial,
      what: `${r.className}, ${r.maker} ${r.model}`,
      place: places.of(r.locationId).label,
    })),
    prices: prices.filter((p, i) => i === 0 || p.minor !== prices[i - 1]?.minor),
  };
}
